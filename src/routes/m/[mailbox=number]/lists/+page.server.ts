import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';
import { listsAsked, NEWEST, readListsAddress, readListsWish } from '$lib/server/web/lists-door.ts';

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
	decide: async ({ locals, params, request }) => {
		const wish = readListsWish(await request.formData());
		if (!wish) return fail(400, { message: 'The decision did not come in whole. Nothing was drafted.' });
		const input = { mailboxId: Number(params.mailbox), ...wish };
		const decided = await attempted(locals.office.change('decideLists', input, locals.who));
		if ('refused' in decided) return fail(decided.status, { message: decided.refused });
		return { decided: true };
	},
	trust: async ({ locals, params, request }) => {
		const { value, error } = idsSchema.validate((await request.formData()).getAll('id'));
		if (error) return fail(400, { message: 'Choose lists first. Nothing was changed.' });
		const ids = value as number[];
		const done = await attempted(
			locals.office.change('trustLists', { mailboxId: Number(params.mailbox), ids }, locals.who)
		);
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { trusted: ids.length };
	},
	ask: async ({ locals }) => {
		await locals.office.start('leaveLists', {}, locals.who);
		return { asking: true };
	},
	leftByHand: async ({ locals, params, request }) => {
		const listId = Number((await request.formData()).get('id'));
		const done = await attempted(
			locals.office.change('leftByHand', { mailboxId: Number(params.mailbox), listId }, locals.who)
		);
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { byHand: true };
	},
	grace: async ({ locals, request }) => {
		const days = Number((await request.formData()).get('days'));
		const done = await attempted(locals.office.change('setGraceDays', { days }, locals.who));
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { graceSet: true };
	}
};
