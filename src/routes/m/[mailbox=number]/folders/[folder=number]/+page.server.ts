import { error } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { decideOnMessages, loadMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';

const PAGE = 50;

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const mailboxId = Number(params.mailbox);
	const { mailbox, folders } = await answered(
		locals.office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, locals.who)
	);
	const at = folders.findIndex(({ id }) => id === Number(params.folder));
	const folder = folders[at];
	if (!folder) error(404, 'There is no such folder in this mailbox any more.');
	const behind = folders.slice(at + 1);
	const next = behind.findIndex(({ depth }) => depth <= folder.depth);
	const below = next < 0 ? behind : behind.slice(0, next);
	const search = {
		query: '',
		mailbox: mailboxId,
		states: ['live' as const],
		narrowing: { folder: folder.id, mailbox: mailboxId }
	};
	return {
		mailbox,
		folder,
		subfolders: below.filter(({ depth }) => depth === folder.depth + 1),
		...(await loadMessages(locals, readMessagesAddress(url.searchParams), search, { sort: 'newest', pageSize: PAGE }))
	};
};

export const actions: Actions = { decide: decideOnMessages };
