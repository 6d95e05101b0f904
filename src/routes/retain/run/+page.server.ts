import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import type { RetainingSettings } from '$lib/server/retention/index.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	mailboxesRun: await answered(locals.office.ask('listRuns', undefined, locals.who))
});

const QUOTA = 'quota-';
const schema = Joi.object<RetainingSettings & Record<`${typeof QUOTA}${string}`, number | ''>>({
	mailbox: Joi.string().max(200).required(),
	mode: Joi.string().valid('off', 'ask', 'do'),
	every: Joi.number().integer().min(1).max(366),
	seen: Joi.number().integer().min(0)
}).pattern(new RegExp(`^${QUOTA}`), Joi.number().min(1).max(1_000_000).allow(''));

export const actions: Actions = {
	set: formAction(
		schema,
		async ({ mailbox, mode, every, seen, ...fields }, { locals }) => {
			const quotas = Object.fromEntries(
				Object.entries(fields).map(([field, megabytes]) => [
					field.slice(QUOTA.length),
					megabytes === '' ? null : Math.round(Number(megabytes) * 1_000_000)
				])
			);
			const input = { mailbox, mode, every, seen, quotas };
			const { name } = await locals.office.change('setRetaining', input, locals.who);
			return { set: name };
		},
		{ wrong: 'The form did not come in whole. Nothing was changed.' }
	),
	run: formAction(
		Joi.object<{ mailbox: string }>({ mailbox: Joi.string().allow('').max(200).default('') }),
		async ({ mailbox }, { locals }) => {
			await locals.office.start('runSchedule', { ...(mailbox ? { mailbox } : {}), always: true }, locals.who);
			return { started: true };
		}
	)
};
