import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

/** Stops a job between two of its steps. */
export const DELETE: RequestHandler = ({ locals, params }) =>
	json({ stopping: locals.office.jobs.stop(Number(params.id)) });

/** Restarts a job that failed, was stopped or was given up. */
export const POST: RequestHandler = async ({ locals, params }) => {
	await answered(locals.office.jobs.retry(Number(params.id)));
	return json({ begun: true });
};
