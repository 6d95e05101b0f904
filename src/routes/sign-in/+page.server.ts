import { redirect } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { KOVREL } from '../../core/access/roles.ts';
import { storeSignIn, fromOf } from '$lib/server/web/cookies.ts';
import { localPath } from '$lib/server/web/local-path.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	if (locals.visitor?.stage === 'whole') redirect(303, localPath(url.searchParams.get('to')));
	return {
		isFirstStart: await locals.office.ask('isFirstStart', undefined, KOVREL),
		accounts: await locals.office.ask('demoAccounts', undefined, KOVREL)
	};
};

const schema = Joi.object<{ address: string; password: string }>({
	address: Joi.string().trim().max(200).required(),
	password: Joi.string().max(500).required()
});

export const actions: Actions = {
	default: formAction(schema, async (wish, event) => {
		const entered = await event.locals.office.change('signIn', { ...wish, from: fromOf(event) }, KOVREL);
		storeSignIn(event, entered);
		const to = event.url.searchParams.get('to');
		if (entered.stage === 'code') redirect(303, `/sign-in/code${to ? `?to=${encodeURIComponent(to)}` : ''}`);
		redirect(303, entered.stage === 'code-wanted' ? '/account' : localPath(to));
	})
};
