import type { RequestHandler } from './$types';
import { answered } from '$lib/server/answers.ts';
import { download } from '$lib/server/download.ts';

/** One file of a message. */
export const GET: RequestHandler = async ({ locals, params }) =>
	download(
		await answered(
			locals.office.ask('readAttachment', { id: Number(params.id), index: Number(params.index) }, locals.who)
		)
	);
