import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { listsAsked, NEWEST, readListsAddress } from '$lib/server/web/lists-address.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { jsonAction } from '$lib/server/web/json-action.ts';

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const address = readListsAddress(url.searchParams);
	const mailboxId = Number(params.mailbox);
	return {
		newest: NEWEST,
		asked: address,
		part: await answered(locals.office.ask('listLists', listsAsked(address, mailboxId), locals.who))
	};
};

const idsSchema = Joi.array().items(Joi.number().integer().positive()).min(1).max(1_000);

export const actions: Actions = {
	decide: jsonAction(
		'decideLists',
		() => ({ decided: true }),
		({ params }) => ({ mailboxId: Number(params.mailbox) })
	),
	trust: formAction(
		Joi.object<{ id: number[] }>({ id: idsSchema.required() }),
		async ({ id: ids }, { locals, params }) => {
			await locals.office.change('trustLists', { mailboxId: Number(params.mailbox), ids }, locals.who);
			return { trusted: ids.length };
		},
		{ lists: ['id'], wrong: 'Select lists first. Nothing was changed.' }
	),
	ask: formAction(Joi.object({}), async (_form, { locals }) => {
		await locals.office.start('leaveLists', {}, locals.who);
		return { asking: true };
	}),
	unsubscribedByHand: formAction(
		Joi.object<{ id: number }>({ id: Joi.number().integer().positive().required() }),
		async ({ id: listId }, { locals, params }) => {
			await locals.office.change('unsubscribedByHand', { mailboxId: Number(params.mailbox), listId }, locals.who);
			return { byHand: true };
		}
	),
	grace: formAction(Joi.object<{ days: number }>({ days: Joi.number().required() }), async ({ days }, { locals }) => {
		await locals.office.change('setGraceDays', { days }, locals.who);
		return { graceSet: true };
	})
};
