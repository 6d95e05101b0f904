import type { PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const asked = Number(url.searchParams.get('mailbox'));
	const mailboxId = Number.isInteger(asked) && asked > 0 ? asked : undefined;
	return { mailboxId, overview: await answered(locals.office.ask('dueOverview', { mailboxId }, locals.who)) };
};
