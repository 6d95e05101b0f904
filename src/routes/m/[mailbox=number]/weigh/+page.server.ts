import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import type { ArchivingSelection } from '../../../../core/weigh/advice.ts';
import { readBytes } from '../../../../core/weigh/units.ts';
import { redirect } from '@sveltejs/kit';
import { WEIGHED_BY } from '$lib/server/weigh/index.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { Refusal } from '$lib/server/refusal.ts';

export const load: PageServerLoad = async ({ locals, params, url, parent }) => {
	const by = WEIGHED_BY.find((name) => name === url.searchParams.get('by'));
	const sources = await answered(locals.office.ask('listSources', undefined, locals.who));
	const { demo } = await parent();
	return {
		steps: demo ? undefined : await answered(locals.office.ask('firstSteps', undefined, locals.who)),
		live: sources.find(({ mailboxId }) => mailboxId === Number(params.mailbox)),
		weighedBy: WEIGHED_BY,
		weighing: await answered(locals.office.ask('weighMailbox', { mailboxId: Number(params.mailbox), by }, locals.who))
	};
};

const wishSchema = Joi.object<ArchivingSelection>({
	before: Joi.string().max(20).empty(''),
	folder: Joi.string().max(2000).empty(''),
	query: Joi.string().max(1000).empty(''),
	label: Joi.string().max(500).empty('')
});

export const actions: Actions = {
	quota: formAction(
		Joi.object<{ quota: string }>({ quota: Joi.string().trim().allow('').max(50).default('') }),
		async ({ quota }, { locals, params }) => {
			const bytes = quota === '' ? undefined : readBytes(quota);
			if (quota !== '' && bytes === undefined)
				throw new Refusal('bad-input', `"${quota}" is no size; write 500 MB or 2 GB. The quota stays as it was.`);
			await locals.office.change('setQuota', { mailbox: Number(params.mailbox), bytes }, locals.who);
			return { set: true };
		}
	),
	addresses: formAction(
		Joi.object<{ addresses: string }>({ addresses: Joi.string().allow('').max(20_000).default('') }),
		async (form, { locals, params }) => {
			const addresses = form.addresses.split(/[\s,;]+/).filter(Boolean);
			await locals.office.change('setClearing', { mailbox: Number(params.mailbox), addresses }, locals.who);
			return { set: true };
		}
	),
	draft: formAction(
		wishSchema,
		async (wish, { locals, params }) => {
			await locals.office.change('decideArchiving', { ...wish, mailbox: Number(params.mailbox) }, locals.who);
			redirect(303, `/m/${params.mailbox}/clear`);
		},
		{ wrong: 'That suggestion cannot be drafted. Nothing was done.' }
	)
};
