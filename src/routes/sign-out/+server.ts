import { redirect } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { KOVREL } from '../../core/access/roles.ts';
import { forgetSignIn, tokenOf } from '$lib/server/web/cookies.ts';

/** Ends the session. */
export const POST: RequestHandler = async (event) => {
	const token = tokenOf(event);
	if (token !== undefined) await event.locals.office.change('signOut', { token }, KOVREL);
	forgetSignIn(event);
	redirect(303, '/sign-in');
};
