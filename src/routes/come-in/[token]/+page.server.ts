import { redirect } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { KOVREL } from '../../../core/access/roles.ts';
import { storeSignIn, fromOf } from '$lib/server/web/cookies.ts';
import { attempted } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, params }) => {
	const link = await attempted(locals.office.ask('readLink', { token: params.token }, KOVREL));
	return 'refused' in link
		? { refused: link.refused, person: undefined }
		: { refused: undefined, person: link.done.person };
};

const schema = Joi.object<{ name?: string; address?: string; password: string }>({
	name: Joi.string().trim().allow('').max(200),
	address: Joi.string().trim().allow('').max(200),
	password: Joi.string().max(500).required()
});

export const actions: Actions = {
	default: formAction(schema, async (wish, event) => {
		const entered = await event.locals.office.change(
			'signInByLink',
			{ ...wish, token: event.params.token ?? '', from: fromOf(event) },
			KOVREL
		);
		storeSignIn(event, entered);
		redirect(303, entered.stage === 'code-wanted' ? '/account' : '/');
	})
};
