import { error } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { type DueAddress, dueFields } from '$lib/server/web/due-address.ts';
import { decideOnMessages, loadMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';

const PAGE = 50;

export const load: PageServerLoad = async ({ locals, url }) => {
	const asked = readMessagesAddress<DueAddress>(url.searchParams, dueFields);
	const { of: mailbox, date, action, retention, place } = asked;
	if (mailbox === undefined || date === undefined) error(404, 'That is no part of the mail that is due.');
	const gathered = { of: 'due' as const, action, date, retentionId: retention, folderId: place };
	const { lines, today } = await answered(locals.office.ask('dueOverview', { mailboxIds: [mailbox] }, locals.who));
	const line = lines.find(
		(one) => one.date === date && one.disposition === action && one.retentionId === retention && one.folderId === place
	);
	const search = {
		query: '',
		mailbox,
		states: ['live' as const, 'archived' as const],
		narrowing: { mailbox },
		gathered
	};
	return {
		line,
		date,
		action,
		today,
		...(await loadMessages(locals, asked, search, { sort: 'due', pageSize: PAGE }))
	};
};

export const actions: Actions = { decide: decideOnMessages };
