import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { PROPOSAL_KINDS, type ProposalKind } from '../../../../../core/likeness/proposals.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { decideOnMessages, loadMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';

const PAGE = 50;

/** The page's own part of its address. */
interface Asked {
	/** The proposal that is opened. */
	proposal?: ProposalKind;
	/** Path of a folder, with its subfolders; empty: all folders. */
	below: string;
}
const fields = {
	proposal: Joi.string().valid(...PROPOSAL_KINDS),
	below: Joi.string().allow('').max(2000).default('')
};

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const asked = readMessagesAddress<Asked>(url.searchParams, fields);
	const { proposal, below } = asked;
	const { folders } = await answered(office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, who));
	const tags = await answered(office.ask('listTags', undefined, who));
	const stays = await answered(office.ask('proposalTags', undefined, who));
	const search = proposal && {
		query: '',
		mailbox: mailboxId,
		states: ['live' as const],
		narrowing: { mailbox: mailboxId },
		gathered: { of: 'proposal' as const, proposal, folder: below || undefined }
	};
	const { sheet, refused } = search
		? await loadMessages(locals, asked, search, { sort: 'largest', pageSize: PAGE })
		: { sheet: undefined, refused: undefined };
	const ids = sheet?.hits.map(({ id }) => id) ?? [];
	return {
		below,
		folders,
		tags: tags.filter(({ hidden }) => !hidden).map(({ id, name }) => ({ name, stays: stays.includes(id) })),
		kind: proposal,
		proposals: await answered(office.ask('listProposals', { mailboxId, folder: below }, who)),
		sheet,
		refused,
		reasons: proposal ? await answered(office.ask('proposalReasons', { mailboxId, kind: proposal, ids }, who)) : []
	};
};

const foldersSchema = Joi.object<{ folder: string[] }>({
	folder: Joi.array().items(Joi.string().max(2000)).min(1).max(10_000).required()
});

export const actions: Actions = {
	look: formAction(Joi.object<object>(), async (_, { locals, params }) => {
		await locals.office.start('findProposals', { mailboxId: Number(params.mailbox) }, locals.who);
		return { started: true };
	}),
	decide: decideOnMessages,
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
