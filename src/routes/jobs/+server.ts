import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

/** Records that the results under the bell were seen. */
export const POST: RequestHandler = async ({ locals }) => {
	await answered(locals.office.change('noticeResults', undefined, locals.who));
	return new Response(null, { status: 204 });
};
