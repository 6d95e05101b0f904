import type { PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const load: PageServerLoad = async ({ locals, params }) => ({
	inflow: await answered(locals.office.ask('listInflow', { mailboxId: Number(params.mailbox) }, locals.who))
});
