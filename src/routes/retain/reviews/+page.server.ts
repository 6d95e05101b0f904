import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	reviews: await answered(locals.office.ask('listedReviews', undefined, locals.who)),
	owners: await answered(locals.office.ask('ownedMailboxes', undefined, locals.who))
});

interface Wish {
	mailbox: number[];
	until: string;
	because: string;
}

export const actions: Actions = {
	ask: formAction(
		Joi.object<Wish>({
			mailbox: Joi.array().items(Joi.number().integer().positive()).max(1_000).required(),
			until: Joi.string().max(10).required(),
			because: Joi.string().allow('').max(1_000).required()
		}),
		async ({ mailbox: mailboxIds, until, because }, { locals }) => ({
			asked: await locals.office.change('askReviews', { mailboxIds, until, because }, locals.who)
		}),
		{ lists: ['mailbox'], wrong: 'Select mailboxes and a day first. Nobody was asked.' }
	),
	end: formAction(
		Joi.object<{ id: number }>({ id: Joi.number().integer().positive().required() }),
		async (wish, { locals }) => {
			await locals.office.change('endReview', wish, locals.who);
			return { ended: true };
		}
	)
};
