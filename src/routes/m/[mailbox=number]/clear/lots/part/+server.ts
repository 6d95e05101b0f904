import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { lotsPart } from '$lib/server/web/lots-part.ts';

/** A part of a sheet, or of one of its lots. */
export const GET: RequestHandler = async ({ locals, params, url }) =>
	json(await lotsPart(locals, url.searchParams, { mailboxId: Number(params.mailbox) }), {
		headers: { 'cache-control': 'no-store' }
	});
