import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { jsonAction } from '$lib/server/web/json-action.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const asked = Number(url.searchParams.get('mailbox'));
	const mailboxId = Number.isInteger(asked) && asked > 0 ? asked : undefined;
	return { mailboxId, overview: await answered(locals.office.ask('dueOverview', { mailboxId }, locals.who)) };
};

export const actions: Actions = {
	/* A decision on due messages. A destruction gets a docket of its own. */
	decide: jsonAction('decideDue', (drafted) => ({ drafted }))
};
