import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { download } from '$lib/server/web/download.ts';

/** One file of a message. */
export const GET: RequestHandler = async ({ locals, params }) =>
	download(
		await answered(
			locals.office.ask('readAttachment', { id: Number(params.id), index: Number(params.index) }, locals.who)
		)
	);
