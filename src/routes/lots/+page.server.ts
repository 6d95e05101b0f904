import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { agesOn, decideOnLots, loadLots } from '$lib/server/web/lots-page.ts';

export const load: PageServerLoad = async ({ locals, url }) => ({
	ages: agesOn(await answered(locals.office.ask('officeToday', undefined, locals.who))),
	...(await loadLots(locals, url.searchParams, undefined))
});

export const actions: Actions = {
	decide: decideOnLots
};
