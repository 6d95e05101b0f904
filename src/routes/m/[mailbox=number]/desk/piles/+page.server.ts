import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, params }) => ({
	piles: await answered(locals.office.ask('showPiles', { mailboxId: Number(params.mailbox) }, locals.who))
});

export const actions: Actions = {
	end: formAction(
		Joi.object<{ folderId: number }>({ folderId: Joi.number().integer().positive().required() }),
		async (wish, { locals }) => {
			await locals.office.change('endPile', wish, locals.who);
			return { ended: true };
		}
	)
};
