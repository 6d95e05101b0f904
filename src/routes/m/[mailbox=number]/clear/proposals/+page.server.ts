import { fail } from '@sveltejs/kit';
import { type Decision, DECISIONS } from '../../../../../core/docket/decisions.ts';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { PROPOSAL_KINDS, type ProposalKind } from '../../../../../core/likeness/proposals.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';
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

export const actions: Actions = {
	look: async ({ locals, params }) => {
		const mailboxId = Number(params.mailbox);
		await locals.office.start('findProposals', { mailboxId }, locals.who);
		return { started: true };
	},
	decide: formAction(
		decidedSchema,
		async ({ kind, decision, id, all }, { locals, params }) => {
			const input = { mailboxId: Number(params.mailbox), kind, decision, ids: all === undefined ? id : undefined };
			await locals.office.change('decideProposals', input, locals.who);
			return { decided: true };
		},
		{ lists: ['id'] }
	),
	removeFolders: async ({ locals, params, request }) => {
		const folders = (await request.formData()).getAll('folder').map(String);
		const removed = await attempted(
			locals.office.change('removeFolders', { mailbox: Number(params.mailbox), folders }, locals.who)
		);
		return 'refused' in removed ? fail(removed.status, { message: removed.refused }) : { removed: removed.done };
	}
};
