import Joi from 'joi';
import { error } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, parent }) => {
	const { mine } = await parent();
	if (!mine) error(404, 'No mailbox is your own here.');
	return { weighing: await answered(locals.office.ask('ownWeight', { mailboxId: mine.id }, locals.who)) };
};

interface Period {
	folderId: number;
	years: number;
	because: string;
}

export const actions: Actions = {
	period: formAction(
		Joi.object<Period>({
			folderId: Joi.number().integer().positive().required(),
			years: Joi.number().integer().min(1).max(100).required(),
			because: Joi.string().allow('').max(1_000).required()
		}),
		async ({ folderId, years, because }, { locals }) => {
			const wish = { folderId, terms: `received destroy P${years}Y -`, because };
			await locals.office.change('setOwnPeriod', wish, locals.who);
			return { periodSet: true };
		},
		{ wrong: 'Write the years as a whole number. Nothing was changed.' }
	)
};
