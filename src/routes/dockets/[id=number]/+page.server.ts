import { fail, redirect } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/answers.ts';

const expectedSchema = Joi.object<{ messages: number; bytes: number }>({
	messages: Joi.number().integer().min(0),
	bytes: Joi.number().integer().min(0)
}).and('messages', 'bytes');

export const load: PageServerLoad = async ({ locals, params }) => ({
	docket: await answered(locals.office.ask('showDocket', { id: Number(params.id) }, locals.who))
});

export const actions: Actions = {
	carryOut: async ({ locals, params, request }) => {
		const id = Number(params.id);
		const { error, value } = expectedSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: 'The form did not come in whole. Nothing was done.' });
		const docket = await answered(locals.office.ask('showDocket', { id }, locals.who));
		// what the person saw is compared here, so that they are told at once; the job compares again
		const expected = value.messages === undefined ? undefined : value;
		if (docket.state !== 'drafted' && docket.state !== 'carrying-out')
			return fail(409, { message: `Docket ${id} is ${docket.state.replace('-', ' ')} already. Nothing was done.` });
		await locals.office.start('carryOut', { id, expected }, `Docket ${id}: ${docket.sentences.join(' ')}`, locals.who);
		return { started: true };
	},
	takeBack: async ({ locals, params }) => {
		const id = Number(params.id);
		const docket = await answered(locals.office.ask('showDocket', { id }, locals.who));
		await locals.office.start(
			'takeBack',
			{ id },
			`Docket ${id}: taking back. ${docket.sentences.join(' ')}`,
			locals.who
		);
		return { started: true };
	},
	drop: async ({ locals, params }) => {
		const id = Number(params.id);
		const docket = await answered(locals.office.ask('showDocket', { id }, locals.who));
		const dropped = await attempted(locals.office.change('dropDocket', { id }, locals.who));
		if ('refused' in dropped) return fail(dropped.status, { message: dropped.refused });
		redirect(303, `/m/${docket.mailboxId}/clear`);
	}
};
