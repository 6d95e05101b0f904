import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

/** The thread of a message, within the person's reach. */
export const GET: RequestHandler = async ({ locals, params }) => {
	const rows = await answered(locals.office.ask('readThread', { itemId: Number(params.id) }, locals.who));
	return json(
		rows.map(({ item, depth }) => ({
			id: item.id,
			depth,
			subject: item.shownSubject,
			from: item.fromName || item.fromAddress,
			receivedOn: item.receivedOn
		}))
	);
};
