import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { listsAsked, NEWEST, readListsAddress } from '$lib/server/web/lists-address.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { jsonAction } from '$lib/server/web/json-action.ts';
import { commonListActions, selectedLists } from '$lib/server/web/lists-page.ts';

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const address = readListsAddress(url.searchParams);
	const mailboxId = Number(params.mailbox);
	return {
		newest: NEWEST,
		asked: address,
		part: await answered(locals.office.ask('listLists', { ...listsAsked(address), mailboxId }, locals.who))
	};
};

export const actions: Actions = {
	decide: jsonAction(
		'decideLists',
		() => ({ decided: true }),
		({ params }) => ({ mailboxId: Number(params.mailbox) })
	),
	trust: formAction(
		selectedLists.schema,
		async ({ id: ids }, { locals, params }) => {
			await locals.office.change('trustLists', { mailboxId: Number(params.mailbox), ids }, locals.who);
			return { trusted: ids.length };
		},
		selectedLists.form
	),
	unsubscribedByHand: formAction(
		Joi.object<{ id: number }>({ id: Joi.number().integer().positive().required() }),
		async ({ id: listId }, { locals, params }) => {
			await locals.office.change('unsubscribedByHand', { mailboxId: Number(params.mailbox), listId }, locals.who);
			return { byHand: true };
		}
	),
	ask: commonListActions.ask,
	grace: commonListActions.grace
};
