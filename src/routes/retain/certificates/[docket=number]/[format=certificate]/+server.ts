import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { download } from '$lib/server/web/download.ts';

/** A complete certificate as a document. */
export const GET: RequestHandler = async ({ locals, params }) => {
	const { format } = params;
	const docketId = Number(params.docket);
	// a refusal comes before the first byte
	await answered(locals.office.ask('readCertificate', { docketId, limit: 0 }, locals.who));
	const content = await answered(locals.office.stream('exportCertificate', { docketId, format }, locals.who));
	return download({ name: `Certificate of docket ${docketId}.${format}`, content });
};
