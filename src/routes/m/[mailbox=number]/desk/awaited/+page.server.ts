import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, params }) => ({
	waits: await answered(locals.office.ask('showAwaited', { mailboxId: Number(params.mailbox) }, locals.who))
});

const id = Joi.number().integer().positive().required();

export const actions: Actions = {
	stop: formAction(
		Joi.object<{ id: number; restores: boolean }>({ id, restores: Joi.boolean().required() }),
		async (wish, { locals, params }) => {
			await locals.office.change('stopAwaiting', { ...wish, mailboxId: Number(params.mailbox) }, locals.who);
			return { stopped: wish.restores ? 'restored' : 'archived' };
		}
	),
	returning: formAction(
		Joi.object<{ returns: boolean }>({ returns: Joi.boolean().required() }),
		async ({ returns }, { locals, params }) => {
			await locals.office.change('setReturning', { mailboxId: Number(params.mailbox), returns }, locals.who);
			return { returning: returns };
		}
	)
};
