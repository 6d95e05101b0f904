import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

const PAGE = 50;
const pageSchema = Joi.number().integer().min(1).max(100_000).default(1);

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const page = (pageSchema.validate(url.searchParams.get('page') ?? undefined).value as number | undefined) || 1;
	const mailboxId = Number(params.mailbox);
	const offset = (page - 1) * PAGE;
	return {
		page,
		pageSize: PAGE,
		bin: await answered(locals.office.ask('listBin', { mailboxId, offset, limit: PAGE }, locals.who))
	};
};

const settingsSchema = Joi.object<{ binDays: number; emptiesBin?: string; confirmAbove: number }>({
	binDays: Joi.number().integer().required(),
	emptiesBin: Joi.string().allow(''),
	confirmAbove: Joi.number().integer().required()
});
const idsSchema = Joi.array().items(Joi.number().integer().positive()).min(1).max(10_000);

export const actions: Actions = {
	empty: formAction(Joi.object<{ onlyDue?: string }>({ onlyDue: Joi.string() }), async (form, { locals, params }) => {
		const input = { mailboxId: Number(params.mailbox), onlyDue: form.onlyDue !== undefined };
		await locals.office.change('prepareEmptying', input, locals.who);
		return { drafted: true };
	}),
	restore: formAction(
		Joi.object<{ id: number[] }>({ id: idsSchema.required() }),
		async ({ id: ids }, { locals }) => {
			const { restored } = await locals.office.change('restore', { ids }, locals.who);
			return { restored };
		},
		{ lists: ['id'], wrong: 'Select the messages to restore first. Nothing was done.' }
	),
	settings: formAction(
		settingsSchema,
		async ({ emptiesBin, ...settings }, { locals, params }) => {
			const input = { mailbox: Number(params.mailbox), ...settings, emptiesBin: emptiesBin !== undefined };
			await locals.office.change('setClearing', input, locals.who);
			return { set: true };
		},
		{ wrong: 'These settings are not complete. Nothing was changed.' }
	)
};
