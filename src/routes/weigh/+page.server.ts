import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	compared: await answered(locals.office.ask('compareMailboxes', undefined, locals.who))
});

export const actions: Actions = {
	default: formAction(
		Joi.object<{ shares: string; days: number }>({
			shares: Joi.string().allow('').max(200).required(),
			days: Joi.number().integer().min(0).max(366).required()
		}),
		async (wish, { locals }) => ({ limits: await locals.office.change('setQuotaWarnings', wish, locals.who) }),
		{ wrong: 'Write the days as a whole number from 0 to 366. Nothing was changed.' }
	)
};
