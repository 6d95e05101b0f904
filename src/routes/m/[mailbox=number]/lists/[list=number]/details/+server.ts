import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const GET: RequestHandler = async ({ locals, params }) =>
	json(
		await answered(
			locals.office.ask('showList', { mailboxId: Number(params.mailbox), listId: Number(params.list) }, locals.who)
		)
	);
