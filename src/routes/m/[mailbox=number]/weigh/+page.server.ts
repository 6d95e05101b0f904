import { fail, redirect } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import type { ArchivingWish } from '../../../../core/weigh/advice.ts';
import { readBytes } from '../../../../core/weigh/units.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';

const WEIGHED_BY = ['year', 'month', 'organisation', 'address', 'list', 'size', 'attachment'] as const;

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const by = WEIGHED_BY.find((name) => name === url.searchParams.get('by'));
	return {
		weighedBy: WEIGHED_BY,
		weighing: await answered(locals.office.ask('weighMailbox', { mailboxId: Number(params.mailbox), by }, locals.who))
	};
};

const wishSchema = Joi.object<ArchivingWish>({
	before: Joi.string().max(20).empty(''),
	folder: Joi.string().max(2000).empty(''),
	query: Joi.string().max(1000).empty(''),
	label: Joi.string().max(500).empty('')
});

export const actions: Actions = {
	quota: async ({ locals, params, request }) => {
		const text = String((await request.formData()).get('quota') ?? '').trim();
		const bytes = text === '' ? undefined : readBytes(text);
		if (text !== '' && bytes === undefined)
			return fail(400, { message: `"${text}" is no size; write 500 MB or 2 GB. The quota stays as it was.` });
		const set = await attempted(
			locals.office.change('setQuota', { mailbox: Number(params.mailbox), bytes }, locals.who)
		);
		return 'refused' in set ? fail(set.status, { message: set.refused }) : { set: true };
	},

	addresses: async ({ locals, params, request }) => {
		const addresses = String((await request.formData()).get('addresses') ?? '')
			.split(/[\s,;]+/)
			.filter(Boolean);
		const set = await attempted(
			locals.office.change('setClearing', { mailbox: Number(params.mailbox), addresses }, locals.who)
		);
		return 'refused' in set ? fail(set.status, { message: set.refused }) : { set: true };
	},

	draft: async ({ locals, params, request }) => {
		const { value, error } = wishSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: 'That suggestion cannot be drafted. Nothing was done.' });
		const drafted = await attempted(
			locals.office.change('decideArchiving', { ...value, mailbox: Number(params.mailbox) }, locals.who)
		);
		if ('refused' in drafted) return fail(drafted.status, { message: drafted.refused });
		redirect(303, `/m/${params.mailbox}/clear`);
	}
};
