import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { listsAsked, readListsAddress } from '$lib/server/web/lists-address.ts';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';

/** A part of the sheet of lists over several mailboxes. */
export const GET: RequestHandler = async ({ locals, url }) => {
	const mailboxIds = selectedMailboxes(url.searchParams);
	const asked = { ...listsAsked(readListsAddress(url.searchParams)), mailboxIds };
	return json(await answered(locals.office.ask('listListsTogether', asked, locals.who)));
};
