import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import { message, superValidate } from 'sveltekit-superforms';
import type { Actions, PageServerLoad } from './$types';
import { readDate } from '../../../../core/calendar.ts';
import { answered, attempted } from '$lib/server/answers.ts';
import { joiForm } from '$lib/server/joi-form.ts';

/* An alias, not an interface: superforms wants an implicit index signature. */
type CutoffForm = { before: string; folder: string };

const cutoff = joiForm<CutoffForm>(
	Joi.object<CutoffForm>({
		before: Joi.string()
			.required()
			.custom((text: string) => {
				if (!readDate(text)) throw new Error('no date');
				return text;
			})
			.messages({ '*': 'Choose a cutoff date.' }),
		folder: Joi.string().allow('').max(2000)
	}),
	{ before: '', folder: '' }
);

export const load: PageServerLoad = async ({ locals, params, url, parent }) => {
	const { docket } = await parent();
	const weighing = await answered(locals.office.ask('weighMailbox', { mailboxId: Number(params.mailbox) }, locals.who));
	const before = url.searchParams.get('before') ?? '';
	return {
		form: await superValidate(
			{ before: readDate(before) ?? weighing.advice.cutoff, folder: url.searchParams.get('folder') ?? '' },
			cutoff,
			{ errors: false }
		),
		folders: weighing.folders,
		mailbox: weighing.mailbox,
		past: await answered(
			locals.office.ask('pastDockets', { mailboxId: Number(params.mailbox), limit: 12 }, locals.who)
		),
		full:
			docket?.state === 'drafted'
				? await answered(locals.office.ask('showDocket', { id: docket.id }, locals.who))
				: null
	};
};

export const actions: Actions = {
	draft: async ({ locals, params, request }) => {
		const form = await superValidate(request, cutoff);
		if (!form.valid) return fail(400, { form });
		const { mailbox } = await answered(
			locals.office.ask('weighMailbox', { mailboxId: Number(params.mailbox) }, locals.who)
		);
		const drafted = await attempted(
			locals.office.change(
				'prepareArchiving',
				{ mailbox: mailbox.name, before: form.data.before, folder: form.data.folder || undefined },
				locals.who
			)
		);
		return 'refused' in drafted ? message(form, drafted.refused, { status: drafted.status as 400 }) : { form };
	}
};
