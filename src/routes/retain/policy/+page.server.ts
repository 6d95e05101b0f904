import Joi from 'joi';
import type { PolicySettings } from '$lib/server/retention/index.ts';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	policy: await answered(locals.office.ask('readPolicy', undefined, locals.who))
});

const period = Joi.string().trim().allow('').max(30).default('');
const schema = Joi.object<PolicySettings>({
	owner: Joi.string().trim().allow('').max(300).default(''),
	certificateKeeps: Joi.string().valid('subject', 'hash').default('hash'),
	ownLeast: period,
	ownMost: period,
	firstMonth: Joi.number().integer().min(1).max(12).required()
});

export const actions: Actions = {
	set: formAction(
		schema,
		async (settings, { locals }) => {
			await locals.office.change('setPolicy', settings, locals.who);
			return { set: true };
		},
		{ wrong: 'The form did not come in whole. Nothing was changed.' }
	)
};
