import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';
import type { RetainingSettings } from '$lib/server/retention/index.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	mailboxesRun: await answered(locals.office.ask('listRuns', undefined, locals.who))
});

const schema = Joi.object<RetainingSettings & { workingQuota: number | '' }>({
	mailbox: Joi.string().max(200).required(),
	mode: Joi.string().valid('off', 'ask', 'do'),
	every: Joi.number().integer().min(1).max(366),
	seen: Joi.number().integer().min(0),
	workingQuota: Joi.number().min(1).max(1_000_000).allow('')
});

export const actions: Actions = {
	set: async ({ locals, request }) => {
		const { value, error } = schema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: 'The form did not come in whole. Nothing was changed.' });
		const { workingQuota, ...settings } = value;
		const done = await attempted(
			locals.office.change(
				'setRetaining',
				{ ...settings, workingQuotaBytes: workingQuota === '' ? null : workingQuota * 1_000_000 },
				locals.who
			)
		);
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { set: done.done.name };
	},
	run: async ({ locals, request }) => {
		const mailbox = String((await request.formData()).get('mailbox') ?? '');
		await locals.office.start('runSchedule', { ...(mailbox ? { mailbox } : {}), always: true }, locals.who);
		return { started: true };
	}
};
