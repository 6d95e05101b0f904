import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { type Protection, PROTECTIONS } from '../../../core/docket/decision.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';
import { localPathOf } from '$lib/server/web/local-path.ts';
import { redirect } from '@sveltejs/kit';
import { formAction } from '$lib/server/web/form-action.ts';

interface Expected {
	messages?: number;
	bytes?: number;
	confirm?: string;
}

const expectedSchema = Joi.object<Expected>({
	messages: Joi.number().integer().min(0),
	bytes: Joi.number().integer().min(0),
	confirm: Joi.string().allow('').max(200)
}).and('messages', 'bytes');

const sumsSchema = Joi.object<{ messages: number; bytes: number }>({
	messages: Joi.number().integer().min(0).required(),
	bytes: Joi.number().integer().min(0).required()
});

const lineSchema = Joi.object<{ line: number; only?: Protection }>({
	line: Joi.number().integer().positive().required(),
	only: Joi.string().valid(...PROTECTIONS)
});

const CERTIFICATE_SHOWN = 100;

export const load: PageServerLoad = async ({ locals, params }) => {
	const id = Number(params.id);
	const docket = await answered(locals.office.ask('showDocket', { id }, locals.who));
	const certificate =
		docket.destroys && docket.state !== 'drafted'
			? await attempted(locals.office.ask('readCertificate', { docketId: id, limit: CERTIFICATE_SHOWN }, locals.who))
			: undefined;
	return { docket, certificate: certificate && 'done' in certificate ? certificate.done : null };
};

const BROKEN = { wrong: 'The form did not come in whole. Nothing was done.' };
const NO_FIELDS = Joi.object({});

export const actions: Actions = {
	carryOut: formAction(
		expectedSchema,
		async ({ messages, bytes, confirm }, { locals, params }) => {
			const expected = messages === undefined || bytes === undefined ? undefined : { messages, bytes };
			await locals.office.start('carryOut', { id: Number(params.id), expected, confirm }, locals.who);
			return { started: true };
		},
		BROKEN
	),
	approve: formAction(
		sumsSchema,
		async (expected, { locals, params }) => {
			await locals.office.change('approveDocket', { id: Number(params.id), expected }, locals.who);
			return { approved: true };
		},
		BROKEN
	),
	takeBack: formAction(NO_FIELDS, async (_form, { locals, params }) => {
		await locals.office.start('takeBack', { id: Number(params.id) }, locals.who);
		return { started: true };
	}),
	drop: formAction(NO_FIELDS, async (_form, { locals, params, request, url }) => {
		const { mailboxId } = await locals.office.change('discardDocket', { id: Number(params.id) }, locals.who);
		// the slip stands beside many pages: each stays; the docket's own has nothing left to show
		const from = localPathOf(request.headers.get('referer'), url);
		redirect(303, from === undefined || from.startsWith('/dockets/') ? `/m/${mailboxId}/clear` : from);
	}),
	dismiss: formAction(NO_FIELDS, async (_form, { locals, params }) => {
		await locals.office.change('dismissDocket', { id: Number(params.id) }, locals.who);
		return { dismissed: true };
	}),
	dropLine: formAction(
		lineSchema,
		async ({ line: lineId }, { locals, params }) => {
			await locals.office.change('dropLine', { id: Number(params.id), lineId }, locals.who);
			return { dropped: true };
		},
		BROKEN
	),
	include: formAction(
		lineSchema.fork('only', (only) => only.required()),
		async ({ line: lineId, only }, { locals, params }) => {
			const input = { id: Number(params.id), lineId, only: only as Protection };
			await locals.office.change('includeProtected', input, locals.who);
			return { included: true };
		},
		BROKEN
	),
	leaveFlagged: formAction(
		lineSchema,
		async ({ line: lineId }, { locals, params }) => {
			await locals.office.change('leaveFlagged', { id: Number(params.id), lineId }, locals.who);
			return { left: true };
		},
		BROKEN
	),
	name: formAction(
		Joi.object<{ name: string }>({ name: Joi.string().allow('').max(1_000).default('') }),
		async ({ name }, { locals, params }) => {
			await locals.office.change('nameDocket', { id: Number(params.id), name }, locals.who);
			return { named: true };
		}
	),
	recount: formAction(NO_FIELDS, async (_form, { locals, params }) => {
		await locals.office.change('recountDocket', { id: Number(params.id) }, locals.who);
		return { recounted: true };
	})
};
