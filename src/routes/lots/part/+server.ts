import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { lotsPart } from '$lib/server/web/lots-part.ts';

/** A part of the sheet over all mailboxes, or of one of its lots. */
export const GET: RequestHandler = async ({ locals, url }) =>
	json(await lotsPart(locals, url.searchParams, undefined), { headers: { 'cache-control': 'no-store' } });
