import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** Stops a job between two of its steps. */
export const DELETE: RequestHandler = ({ locals, params }) =>
	json({ stopping: locals.office.jobs.stop(Number(params.id)) });
