import type { Actions, PageServerLoad } from './$types';
import { decideOnMessages } from '$lib/server/web/messages-page.ts';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';
import { loadLot } from '$lib/server/web/lots-page.ts';

export const load: PageServerLoad = async ({ locals, url }) =>
	loadLot(locals, url.searchParams, { mailboxIds: selectedMailboxes(url.searchParams) });

export const actions: Actions = { decide: decideOnMessages };
