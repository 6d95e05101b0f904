import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { download } from '$lib/server/web/download.ts';

/** The schedule as CSV. */
export const GET: RequestHandler = async ({ locals }) => {
	const csv = await answered(locals.office.ask('exportSchedule', undefined, locals.who));
	return download({ name: 'Retention schedule.csv', content: new TextEncoder().encode(csv) });
};
