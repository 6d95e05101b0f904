import { type Decision, DECISIONS } from '../../../../../core/docket/decisions.ts';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { PROPOSAL_KINDS, type ProposalKind } from '../../../../../core/likeness/proposals.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

const PAGE = 50;

interface Asked {
	kind?: ProposalKind;
	folder: string;
	page: number;
}
const askedSchema = Joi.object<Asked>({
	kind: Joi.string().valid(...PROPOSAL_KINDS),
	folder: Joi.string().allow('').max(2000).default(''),
	page: Joi.number().integer().min(1).max(100_000).default(1)
});

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const { value, error } = askedSchema.validate(Object.fromEntries(url.searchParams), { stripUnknown: true });
	const { kind, page, folder } = error ? { kind: undefined, page: 1, folder: '' } : value;
	const { folders } = await answered(office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, who));
	const tags = await answered(office.ask('listTags', {}, who));
	const stays = await answered(office.ask('proposalTags', undefined, who));
	return {
		folder,
		folders,
		tags: tags.filter(({ hidden }) => !hidden).map(({ id, name }) => ({ name, stays: stays.includes(id) })),
		kind,
		page,
		pageSize: PAGE,
		proposals: await answered(office.ask('listProposals', { mailboxId, folder }, who)),
		opened: kind
			? await answered(
					office.ask('proposalItems', { mailboxId, kind, folder, limit: PAGE, offset: (page - 1) * PAGE }, who)
				)
			: null
	};
};

interface Decided {
	kind: ProposalKind;
	decision: Decision;
	folder: string;
	id: number[];
	all?: string;
}
const decidedSchema = Joi.object<Decided>({
	kind: Joi.string()
		.valid(...PROPOSAL_KINDS)
		.required(),
	decision: Joi.string()
		.valid(...DECISIONS)
		.required(),
	folder: Joi.string().allow('').max(2000).default(''),
	id: Joi.array().items(Joi.number().integer().positive()).max(10_000).required(),
	all: Joi.string().allow('')
});

const foldersSchema = Joi.object<{ folder: string[] }>({
	folder: Joi.array().items(Joi.string().max(2000)).min(1).max(10_000).required()
});

export const actions: Actions = {
	look: formAction(Joi.object<object>(), async (_, { locals, params }) => {
		await locals.office.start('findProposals', { mailboxId: Number(params.mailbox) }, locals.who);
		return { started: true };
	}),
	decide: formAction(
		decidedSchema,
		async ({ kind, decision, folder, id, all }, { locals, params }) => {
			const ids = all === undefined ? id : undefined;
			const input = { mailboxId: Number(params.mailbox), kind, decision, folder, ids };
			await locals.office.change('decideProposals', input, locals.who);
			return { decided: true };
		},
		{ lists: ['id'] }
	),
	tags: formAction(
		Joi.object<{ tag: string[] }>({ tag: Joi.array().items(Joi.string().max(200)).max(1_000).required() }),
		async ({ tag: tags }, { locals }) => {
			await locals.office.change('setProposalTags', { tags }, locals.who);
			return { tagsSet: true };
		},
		{ lists: ['tag'] }
	),
	removeFolders: formAction(
		foldersSchema,
		async ({ folder: folders }, { locals, params }) => {
			const input = { mailbox: Number(params.mailbox), folders };
			return { removed: await locals.office.change('removeFolders', input, locals.who) };
		},
		{ lists: ['folder'], wrong: 'Select the empty folders first. Nothing was removed.' }
	)
};
