import Joi from 'joi';
import { renderSVG } from 'uqr';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const { office, who, visitor } = locals;
	const account = await answered(office.ask('myAccount', undefined, who));
	const wanted = visitor?.stage === 'code-wanted';
	const offer =
		wanted || url.searchParams.has('codes') ? await answered(office.ask('offerCode', undefined, who)) : undefined;
	return {
		account,
		wanted,
		sessionId: visitor?.sessionId,
		offer: offer && {
			secret: offer.secret,
			picture: `data:image/svg+xml,${encodeURIComponent(renderSVG(offer.address))}`
		}
	};
};

const password = Joi.string().max(500).required();

export const actions: Actions = {
	password: formAction(
		Joi.object<{ before: string; password: string }>({ before: password, password }),
		async (wish, { locals }) => {
			await locals.office.change('changePassword', { ...wish, sessionId: locals.visitor?.sessionId ?? 0 }, locals.who);
			return { passwordSet: true };
		}
	),
	codes: formAction(
		Joi.object<{ secret: string; code: string; password?: string }>({
			password: Joi.string().max(500),
			secret: Joi.string().max(100).required(),
			code: Joi.string().trim().max(20).required()
		}),
		async (wish, { locals }) => ({ recoveryCodes: await locals.office.change('useCodes', wish, locals.who) })
	),
	removeCodes: formAction(Joi.object<{ password: string }>({ password }), async (wish, { locals }) => {
		await locals.office.change('removeCodes', wish, locals.who);
		return { codesDropped: true };
	}),
	atOnce: formAction(
		Joi.object<{ atOnce: number }>({ atOnce: Joi.number().integer().required() }),
		async (wish, { locals }) => {
			await locals.office.change('setAtOnce', wish, locals.who);
			return { atOnceSet: true };
		},
		{ wrong: 'Write a whole number. Nothing was changed.' }
	),
	end: formAction(Joi.object<{ id?: number }>({ id: Joi.number().integer() }), async ({ id }, { locals }) => {
		const wish = id === undefined ? { except: locals.visitor?.sessionId ?? 0 } : { id };
		await locals.office.change('endSessions', wish, locals.who);
		return { ended: true };
	})
};
