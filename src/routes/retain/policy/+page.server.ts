import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	policy: await answered(locals.office.ask('readPolicy', undefined, locals.who))
});

interface Asked {
	owner: string;
	certificateKeeps: 'subject' | 'hash';
	ownLeast: string;
	ownMost: string;
	firstMonth: number;
}

const period = Joi.string().trim().allow('').max(30).default('');
const schema = Joi.object<Asked>({
	owner: Joi.string().trim().allow('').max(300).default(''),
	certificateKeeps: Joi.string().valid('subject', 'hash').default('hash'),
	ownLeast: period,
	ownMost: period,
	firstMonth: Joi.number().integer().min(1).max(12).required()
});

export const actions: Actions = {
	set: async ({ locals, request }) => {
		const { value, error } = schema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: 'The form did not come in whole. Nothing was changed.' });
		const { firstMonth, ...policy } = value;
		const done = await attempted(locals.office.change('setPolicy', policy, locals.who));
		if ('refused' in done) return fail(done.status, { message: done.refused });
		if (firstMonth !== (await answered(locals.office.ask('financialYearMonth', undefined, locals.who)))) {
			const month = await attempted(locals.office.change('setFinancialYear', { month: firstMonth }, locals.who));
			if ('refused' in month) return fail(month.status, { message: month.refused });
		}
		return { set: true };
	}
};
