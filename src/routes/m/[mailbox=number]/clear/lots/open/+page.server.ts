import type { Actions, PageServerLoad } from './$types';
import { decideOnMessages } from '$lib/server/web/messages-page.ts';
import { loadLot } from '$lib/server/web/lots-page.ts';

export const load: PageServerLoad = async ({ locals, params, url }) =>
	loadLot(locals, url.searchParams, { mailboxId: Number(params.mailbox) });

export const actions: Actions = { decide: decideOnMessages };
