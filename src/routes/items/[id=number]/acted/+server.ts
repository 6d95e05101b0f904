import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

/** What acted on a message by itself, and why: standing decisions, and what brought it back. */
export const GET: RequestHandler = async ({ locals, params }) =>
	json(await answered(locals.office.ask('actedOnMessage', { itemId: Number(params.id) }, locals.who)));
