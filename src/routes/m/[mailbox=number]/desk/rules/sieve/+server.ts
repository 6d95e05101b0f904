import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

/** The standing decisions of a mailbox as a Sieve script (RFC 5228; its media type is that of RFC 5228 section 6). */
export const GET: RequestHandler = async ({ locals, params }) => {
	const { script } = await answered(locals.office.ask('exportSieve', { mailbox: Number(params.mailbox) }, locals.who));
	return new Response(script, {
		headers: {
			'content-type': 'application/sieve; charset=utf-8',
			'content-disposition': 'attachment; filename="standing-decisions.sieve"'
		}
	});
};
