import { error } from '@sveltejs/kit';
import Joi from 'joi';
import { UNCLASSED } from '../../core/retention/classes.ts';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import type { DecisionOptions } from '../../core/docket/decision.ts';
import { type Decision, decisionsOn } from '../../core/docket/decisions.ts';

export const load: PageServerLoad = async ({ locals, url, parent }) => {
	const { office, who } = locals;
	const { own, mine } = await parent();
	const asked = url.searchParams.get('mailbox');
	if (asked !== null && !own.some(({ id }) => String(id) === asked)) error(404, 'That is no mailbox of your own.');
	return { view: mine ? await answered(office.ask('ownerView', { mailboxId: mine.id }, who)) : null };
};

interface Wish {
	id: number[];
	what: Decision | 'ask';
	until: string;
	years: number;
	class: string;
	because: string;
}

const schema = Joi.object<Wish>({
	id: Joi.array().items(Joi.number().integer().positive()).min(1).max(10_000).required(),
	what: Joi.string()
		.valid(...decisionsOn('own'), 'ask')
		.required(),
	until: Joi.string().allow('').max(10).default(''),
	years: Joi.number().integer().min(1).max(100).empty('').default(1),
	class: Joi.string().empty('').max(100).default(UNCLASSED),
	because: Joi.string().trim().allow('').max(1_000).default('')
});

/* The fields that the decision needs. */
function optionsOf({ until, years, class: recordClass, because }: Wish): DecisionOptions {
	return { until, because, class: recordClass, terms: `received destroy P${years}Y -` };
}

export const actions: Actions = {
	reviewed: formAction(
		Joi.object<{ id: number }>({ id: Joi.number().integer().positive().required() }),
		async (wish, { locals }) => {
			await locals.office.change('answerReview', wish, locals.who);
			return { reviewed: true };
		}
	),
	decide: formAction(
		schema,
		async (wish, { locals }) => {
			if (wish.what === 'ask') {
				const request = { ids: wish.id, keep: true, because: wish.because };
				return { asked: (await locals.office.change('makeRequest', request, locals.who)).length };
			}
			const { id: ids, what: decision } = wish;
			const input = { ids, decision, options: optionsOf(wish) };
			return { decided: await locals.office.change('keepOwn', input, locals.who) };
		},
		{ lists: ['id'] }
	)
};
