import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { listsAsked, readListsAddress } from '$lib/server/web/lists-address.ts';

export const GET: RequestHandler = async ({ locals, params, url }) =>
	json(
		await answered(
			locals.office.ask(
				'listLists',
				{ ...listsAsked(readListsAddress(url.searchParams)), mailboxId: Number(params.mailbox) },
				locals.who
			)
		)
	);
