import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { withScriptFaces } from '$lib/server/web/script-faces.ts';

/* Nothing is fetched and nothing runs, even if the sanitising missed something: no scripts, no forms, no own origin. */
const POLICY =
	"default-src 'none'; img-src data:; font-src data:; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'; frame-ancestors 'self'; sandbox allow-popups";

/** The HTML of a message, for the sandboxed frame. */
export const GET: RequestHandler = async ({ locals, params }) =>
	new Response(
		await withScriptFaces(await answered(locals.office.ask('readHtml', { id: Number(params.id) }, locals.who))),
		{
			headers: {
				'content-type': 'text/html; charset=utf-8',
				'content-security-policy': POLICY,
				'cache-control': 'no-store'
			}
		}
	);
