import type { PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const selected = selectedMailboxes(url.searchParams);
	return { selected, overview: await answered(locals.office.ask('dueOverview', { mailboxIds: selected }, locals.who)) };
};
