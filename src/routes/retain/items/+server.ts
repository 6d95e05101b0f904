import { error, json } from '@sveltejs/kit';
import Joi from 'joi';
import type { RequestHandler } from './$types';
import { DUE_ACTIONS } from '../../../core/retention/terms.ts';
import { answered } from '$lib/server/answers.ts';
import type { DueItemsInput } from '$lib/server/work/due.ts';

const id = Joi.number().integer().min(1);
const schema = Joi.object<DueItemsInput>({
	mailboxId: id,
	action: Joi.string().valid(...DUE_ACTIONS),
	date: Joi.string().pattern(/^\d{4}-\d{2}(-\d{2})?$/),
	retentionId: id,
	folderId: id,
	limit: Joi.number().integer().min(1).max(500).default(100),
	offset: Joi.number().integer().min(0).max(10_000_000).default(0)
});

/** Messages that are due: those behind one number. */
export const GET: RequestHandler = async ({ locals, url }) => {
	const { value, error: wrong } = schema.validate(Object.fromEntries(url.searchParams));
	if (wrong) error(400, 'That is no part of what is due.');
	return json(await answered(locals.office.ask('dueItems', value, locals.who)));
};
