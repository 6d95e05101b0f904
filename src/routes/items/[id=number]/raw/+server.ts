import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { download } from '$lib/server/web/download.ts';

/** The bytes of a message as received. */
export const GET: RequestHandler = async ({ locals, params }) =>
	download(await answered(locals.office.ask('readRaw', { id: Number(params.id) }, locals.who)));
