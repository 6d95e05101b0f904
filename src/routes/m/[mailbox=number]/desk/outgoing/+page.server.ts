import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, params }) => ({
	outgoing: await answered(locals.office.ask('showOutgoing', { mailboxId: Number(params.mailbox) }, locals.who))
});

const one = Joi.object<{ id: number }>({ id: Joi.number().integer().positive().required() });

export const actions: Actions = {
	send: formAction(one, async (wish, { locals }) => ({
		sent: await locals.office.change('sendMail', wish, locals.who)
	})),
	went: formAction(one, async (wish, { locals }) => ({
		sent: await locals.office.change('noteSent', wish, locals.who)
	})),
	discard: formAction(one, async (wish, { locals }) => {
		await locals.office.change('discardMail', wish, locals.who);
		return { discarded: wish.id };
	}),
	keep: formAction(one, async (wish, { locals }) => {
		await locals.office.change('keepMail', wish, locals.who);
		return { kept: true };
	}),
	signature: formAction(
		Joi.object<{ signature: string }>({ signature: Joi.string().allow('').max(10_000).required() }),
		async ({ signature }, { locals, params }) => {
			await locals.office.change('setSignature', { mailboxId: Number(params.mailbox), signature }, locals.who);
			return { signed: true };
		}
	)
};
