import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';
import { lotsPart } from '$lib/server/web/lots-part.ts';

/** A part of the sheet over several mailboxes, or of one of its lots. */
export const GET: RequestHandler = async ({ locals, url }) =>
	json(await lotsPart(locals, url.searchParams, { mailboxIds: selectedMailboxes(url.searchParams) }), {
		headers: { 'cache-control': 'no-store' }
	});
