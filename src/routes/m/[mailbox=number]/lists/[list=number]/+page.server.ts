import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { decideOnMessages, loadMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';

const PAGE = 50;

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const [mailbox, list] = [Number(params.mailbox), Number(params.list)];
	const states = ['live' as const, 'archived' as const, 'binned' as const];
	const search = { query: '', mailbox, states, narrowing: { mailbox, list } };
	return {
		list: await answered(locals.office.ask('showList', { mailboxId: mailbox, listId: list }, locals.who)),
		...(await loadMessages(locals, readMessagesAddress(url.searchParams), search, { sort: 'newest', pageSize: PAGE }))
	};
};

export const actions: Actions = { decide: decideOnMessages };
