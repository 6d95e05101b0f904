import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

/** What stands beside a message on the desk: the likely decision, and why it waited. */
export const GET: RequestHandler = async ({ locals, url }) =>
	json(await answered(locals.office.ask('besideOnDesk', { itemId: Number(url.searchParams.get('item')) }, locals.who)));
