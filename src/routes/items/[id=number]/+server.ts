import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

/** One message for reading. */
export const GET: RequestHandler = async ({ locals, params }) =>
	json(await answered(locals.office.ask('readMessage', { id: Number(params.id) }, locals.who)), {
		headers: { 'cache-control': 'no-store' }
	});
