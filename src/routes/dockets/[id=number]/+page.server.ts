import { fail, redirect } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { type Protection, PROTECTIONS } from '../../../core/docket/decision.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';

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

const BROKEN = 'The form did not come in whole. Nothing was done.';

export const actions: Actions = {
	carryOut: async ({ locals, params, request }) => {
		const id = Number(params.id);
		const { error, value } = expectedSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: BROKEN });
		const { messages, bytes, confirm } = value;
		const expected = messages === undefined || bytes === undefined ? undefined : { messages, bytes };
		const started = await attempted(locals.office.start('carryOut', { id, expected, confirm }, locals.who));
		if ('refused' in started) return fail(started.status, { message: started.refused });
		return { started: true };
	},
	approve: async ({ locals, params, request }) => {
		const { error, value } = expectedSchema.validate(Object.fromEntries(await request.formData()));
		const { messages, bytes } = value ?? {};
		if (error || messages === undefined || bytes === undefined) return fail(400, { message: BROKEN });
		const wish = { id: Number(params.id), expected: { messages, bytes } };
		const approved = await attempted(locals.office.change('approveDocket', wish, locals.who));
		return 'refused' in approved ? fail(approved.status, { message: approved.refused }) : { approved: true };
	},
	takeBack: async ({ locals, params }) => {
		const id = Number(params.id);
		const started = await attempted(locals.office.start('takeBack', { id }, locals.who));
		return 'refused' in started ? fail(started.status, { message: started.refused }) : { started: true };
	},
	drop: async ({ locals, params }) => {
		const dropped = await attempted(locals.office.change('dropDocket', { id: Number(params.id) }, locals.who));
		if ('refused' in dropped) return fail(dropped.status, { message: dropped.refused });
		redirect(303, `/m/${dropped.done.mailboxId}/clear`);
	},
	dismiss: async ({ locals, params }) => {
		const done = await attempted(locals.office.change('dismissDocket', { id: Number(params.id) }, locals.who));
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { dismissed: true };
	},
	dropLine: async ({ locals, params, request }) => {
		const { error, value } = lineSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: BROKEN });
		const done = await attempted(
			locals.office.change('dropLine', { id: Number(params.id), lineId: value.line }, locals.who)
		);
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { dropped: true };
	},
	include: async ({ locals, params, request }) => {
		const { error, value } = lineSchema.validate(Object.fromEntries(await request.formData()));
		if (error || value.only === undefined) return fail(400, { message: BROKEN });
		const { line: lineId, only } = value;
		const done = await attempted(
			locals.office.change('includeProtected', { id: Number(params.id), lineId, only }, locals.who)
		);
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { included: true };
	},
	name: async ({ locals, params, request }) => {
		const name = String((await request.formData()).get('name') ?? '');
		const done = await attempted(locals.office.change('nameDocket', { id: Number(params.id), name }, locals.who));
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { named: true };
	},
	recount: async ({ locals, params }) => {
		const done = await attempted(locals.office.change('recountDocket', { id: Number(params.id) }, locals.who));
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { recounted: true };
	}
};
