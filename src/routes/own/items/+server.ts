import { error, json } from '@sveltejs/kit';
import Joi from 'joi';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { dueItemsFields } from '$lib/server/web/due-address.ts';

const schema = Joi.object({ ...dueItemsFields, mailboxId: dueItemsFields.mailboxId.required() });

/** Messages of one's own mailbox with an upcoming disposition: those behind one number. */
export const GET: RequestHandler = async ({ locals, url }) => {
	const { value, error: wrong } = schema.validate(Object.fromEntries(url.searchParams));
	if (wrong) error(400, 'That is no part of what is due.');
	return json(await answered(locals.office.ask('ownItems', value, locals.who)));
};
