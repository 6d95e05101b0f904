import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { jsonAction } from '$lib/server/web/json-action.ts';
import { listsAsked, NEWEST, readListsAddress } from '$lib/server/web/lists-address.ts';
import { commonListActions, selectedLists } from '$lib/server/web/lists-page.ts';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const address = readListsAddress(url.searchParams);
	const asked = { ...listsAsked(address), mailboxIds: selectedMailboxes(url.searchParams) };
	return {
		newest: NEWEST,
		asked: address,
		part: await answered(locals.office.ask('listListsTogether', asked, locals.who))
	};
};

export const actions: Actions = {
	decide: jsonAction(
		'decideListsTogether',
		() => ({ decided: true }),
		({ url }) => ({ mailboxIds: selectedMailboxes(url.searchParams) })
	),
	trust: formAction(
		selectedLists.schema,
		async ({ id: ids }, { locals, url }) => {
			const wish = { mailboxIds: selectedMailboxes(url.searchParams), ids };
			await locals.office.change('trustListsTogether', wish, locals.who);
			return { trusted: ids.length };
		},
		selectedLists.form
	),
	ask: commonListActions.ask,
	grace: commonListActions.grace
};
