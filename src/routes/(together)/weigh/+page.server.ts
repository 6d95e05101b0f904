import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';
import { WEIGHED_BY } from '$lib/server/weigh/index.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const { office, who } = locals;
	const asked = WEIGHED_BY.find((by) => by === url.searchParams.get('by'));
	const wish = { mailboxIds: selectedMailboxes(url.searchParams), by: asked };
	return {
		compared: await answered(office.ask('compareMailboxes', undefined, who)),
		weighedBy: WEIGHED_BY,
		together: who.role === 'administrator' ? await answered(office.ask('weighTogether', wish, who)) : null
	};
};

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
