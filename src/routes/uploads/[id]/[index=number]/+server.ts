import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { arrivedBytes, takePiece } from '$lib/server/intake/index.ts';

/** How much of a file has arrived. */
export const GET: RequestHandler = async ({ locals, params }) =>
	json({ arrived: await answered(arrivedBytes(locals.office.dataFolder, params.id, Number(params.index))) });

/** Appends bytes to a file. */
export const PUT: RequestHandler = async ({ locals, params, request, url }) => {
	const offset = Number(url.searchParams.get('offset') ?? NaN);
	return json({
		arrived: await answered(takePiece(locals.office.dataFolder, params.id, Number(params.index), offset, request.body))
	});
};
