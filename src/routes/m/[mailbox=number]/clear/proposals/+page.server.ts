import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { PROPOSAL_KINDS, type ProposalKind, proposalLabel } from '../../../../../core/likeness/proposals.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';

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

interface Decision {
	kind: ProposalKind;
	decision: 'delete' | 'archive' | 'keep';
	ids: number[];
	all?: string;
}
const decisionSchema = Joi.object<Decision>({
	kind: Joi.string()
		.valid(...PROPOSAL_KINDS)
		.required(),
	decision: Joi.string().valid('delete', 'archive', 'keep').required(),
	ids: Joi.array().items(Joi.number().integer().positive()).max(10_000).required(),
	all: Joi.string().allow('')
});

export const actions: Actions = {
	look: async ({ locals, params }) => {
		const mailboxId = Number(params.mailbox);
		await locals.office.start('findProposals', { mailboxId }, 'Looking for what is safe to clear', locals.who);
		return { started: true };
	},
	decide: async ({ locals, params, request }) => {
		const data = await request.formData();
		const { value, error } = decisionSchema.validate({
			kind: data.get('kind'),
			decision: data.get('decision'),
			ids: data.getAll('id'),
			...(data.has('all') ? { all: '1' } : {})
		});
		if (error) return fail(400, { message: 'The decision did not come in whole. Nothing was drafted.' });
		const { kind, decision, ids, all } = value;
		if (all === undefined && ids.length === 0)
			return fail(400, { message: 'Choose messages first. Nothing was drafted.' });
		const line = {
			decision,
			options: {},
			scope: {
				kind: 'proposal' as const,
				proposal: kind,
				ids: all === undefined ? ids : undefined,
				label: proposalLabel(kind)
			}
		};
		const decided = await attempted(
			locals.office.change('decide', { mailboxId: Number(params.mailbox), line }, locals.who)
		);
		return 'refused' in decided ? fail(decided.status, { message: decided.refused }) : { decided: true };
	},
	removeFolders: async ({ locals, params, request }) => {
		const folders = (await request.formData()).getAll('folder').map(String);
		const { mailbox } = await answered(
			locals.office.ask('mailboxFolders', { mailboxId: Number(params.mailbox), tree: 'mailbox' }, locals.who)
		);
		const removed = await attempted(
			locals.office.change('removeFolders', { mailbox: mailbox.name, folders }, locals.who)
		);
		return 'refused' in removed ? fail(removed.status, { message: removed.refused }) : { removed: removed.done };
	}
};
