import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

/** Suggestions while a person types. */
export const GET: RequestHandler = async ({ locals, url }) =>
	json(await answered(locals.office.ask('suggest', { text: url.searchParams.get('text') ?? '' }, locals.who)));
