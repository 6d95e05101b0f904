import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { download } from '$lib/server/web/download.ts';

/** The bytes of an odd message. */
export const GET: RequestHandler = async ({ locals, params }) =>
	download(await answered(locals.office.ask('readOddity', { id: Number(params.id) }, locals.who)));
