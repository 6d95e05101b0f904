import { redirect } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { KOVREL } from '../../../core/access/roles.ts';
import { storeSignIn, fromOf, tokenOf } from '$lib/server/web/cookies.ts';
import { localPath } from '$lib/server/web/local-path.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = ({ locals }) => {
	if (locals.visitor?.stage !== 'code') redirect(303, '/sign-in');
};

const schema = Joi.object<{ code: string }>({ code: Joi.string().trim().max(40).required() });

export const actions: Actions = {
	default: formAction(schema, async ({ code }, event) => {
		const wish = { token: tokenOf(event) ?? '', code, from: fromOf(event) };
		storeSignIn(event, await event.locals.office.change('enterCode', wish, KOVREL));
		redirect(303, localPath(event.url.searchParams.get('to')));
	})
};
