import { json } from '@sveltejs/kit';
import Joi from 'joi';
import type { RequestHandler } from './$types';

const schema = Joi.object<{ days: number }>({ days: Joi.number().integer().min(1).max(366).required() });

/** Passes days in the demo, as a job. */
export const POST: RequestHandler = async ({ locals, request }) => {
	const { value, error } = schema.validate(await request.json().catch(() => undefined));
	if (error || !value) return json({ message: '1 to 366 days can pass at once. Nothing was done.' }, { status: 400 });
	return json({ job: await locals.office.start('letDaysPass', value, locals.who) });
};
