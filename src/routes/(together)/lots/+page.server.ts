import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';
import { agesOn, decideOnLots, loadLots } from '$lib/server/web/lots-page.ts';

export const load: PageServerLoad = async ({ locals, url }) => ({
	ages: agesOn(await answered(locals.office.ask('officeToday', undefined, locals.who))),
	...(await loadLots(locals, url.searchParams, { mailboxIds: selectedMailboxes(url.searchParams) }))
});

export const actions: Actions = {
	decide: decideOnLots
};
