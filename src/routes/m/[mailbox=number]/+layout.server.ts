import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/answers.ts';

export const load: LayoutServerLoad = async ({ locals, params }) => ({
	mailboxId: Number(params.mailbox),
	docket:
		(await answered(locals.office.ask('currentDocket', { mailboxId: Number(params.mailbox) }, locals.who))) ?? null
});
