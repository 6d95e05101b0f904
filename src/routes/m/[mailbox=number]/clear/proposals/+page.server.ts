import { type Decision, DECISIONS } from '../../../../../core/docket/decisions.ts';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { PROPOSAL_KINDS, type ProposalKind } from '../../../../../core/likeness/proposals.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

const PAGE = 50;

interface Asked {
	kind?: ProposalKind;
	page: number;
}
const askedSchema = Joi.object<Asked>({
	kind: Joi.string().valid(...PROPOSAL_KINDS),
	page: Joi.number().integer().min(1).max(100_000).default(1)
});

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const { value, error } = askedSchema.validate(Object.fromEntries(url.searchParams), { stripUnknown: true });
	const { kind, page } = error ? { kind: undefined, page: 1 } : value;
	return {
		kind,
		page,
		pageSize: PAGE,
		proposals: await answered(office.ask('listProposals', { mailboxId }, who)),
		opened: kind
			? await answered(office.ask('proposalItems', { mailboxId, kind, limit: PAGE, offset: (page - 1) * PAGE }, who))
			: null
	};
};

interface Decided {
	kind: ProposalKind;
	decision: Decision;
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
		async ({ kind, decision, id, all }, { locals, params }) => {
			const input = { mailboxId: Number(params.mailbox), kind, decision, ids: all === undefined ? id : undefined };
			await locals.office.change('decideProposals', input, locals.who);
			return { decided: true };
		},
		{ lists: ['id'] }
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
