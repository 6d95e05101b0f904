import { error, json } from '@sveltejs/kit';
import Joi from 'joi';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

const PAGE = 100;
const offsetSchema = Joi.number().integer().min(0).max(100_000_000).default(0);

/** A page of the messages of one line of a docket. */
export const GET: RequestHandler = async ({ locals, params, url }) => {
	const offset = offsetSchema.validate(url.searchParams.get('offset') ?? undefined);
	if (offset.error) error(400, 'This page of the list cannot be understood.');
	const asked = { id: Number(params.id), lineId: Number(params.line), limit: PAGE, offset: offset.value as number };
	return json(await answered(locals.office.ask('docketItems', asked, locals.who)), {
		headers: { 'cache-control': 'no-store' }
	});
};
