import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';

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
	empty: async ({ locals, params, request }) => {
		const onlyDue = (await request.formData()).has('onlyDue');
		const drafted = await attempted(
			locals.office.change('prepareEmptying', { mailboxId: Number(params.mailbox), onlyDue }, locals.who)
		);
		return 'refused' in drafted ? fail(drafted.status, { message: drafted.refused }) : { drafted: true };
	},
	restore: async ({ locals, request }) => {
		const { value, error } = idsSchema.validate((await request.formData()).getAll('id'));
		if (error) return fail(400, { message: 'Choose the messages to restore first. Nothing was done.' });
		const restored = await attempted(locals.office.change('restore', { ids: value as number[] }, locals.who));
		return 'refused' in restored
			? fail(restored.status, { message: restored.refused })
			: { restored: restored.done.restored };
	},
	settings: async ({ locals, params, request }) => {
		const { value, error } = settingsSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: 'These settings are not complete. Nothing was changed.' });
		const { binDays, emptiesBin, confirmAbove } = value;
		const set = await attempted(
			locals.office.change(
				'setClearing',
				{ mailbox: Number(params.mailbox), binDays, confirmAbove, emptiesBin: emptiesBin !== undefined },
				locals.who
			)
		);
		return 'refused' in set ? fail(set.status, { message: set.refused }) : { set: true };
	}
};
