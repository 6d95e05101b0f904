import { json } from '@sveltejs/kit';
import Joi from 'joi';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { JUNK_MARKS, type JunkMark } from '$lib/server/lists/index.ts';

const schema = Joi.object<{ as: JunkMark }>({
	as: Joi.string()
		.valid(...JUNK_MARKS)
		.required()
});

/** Puts marking a message as junk or fraud, or removing the mark, on the docket. */
export const POST: RequestHandler = async ({ locals, params, request }) => {
	const { value, error } = schema.validate(await request.json().catch(() => undefined));
	if (error || !value) return json({ message: 'That mark is not known. Nothing was done.' }, { status: 400 });
	const dockets = await answered(
		locals.office.change('markMessages', { ids: [Number(params.id)], as: value.as }, locals.who)
	);
	return json({ dockets: dockets.map(({ id }) => id) });
};
