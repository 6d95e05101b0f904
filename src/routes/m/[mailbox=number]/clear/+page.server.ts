import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import { message, superValidate } from 'sveltekit-superforms';
import type { Actions, PageServerLoad } from './$types';
import { type Layout, LAYOUT_DIVISIONS, LAYOUT_PATHS } from '../../../../core/archive/layout.ts';
import { readDate } from '../../../../core/calendar.ts';
import { AGE_PRESETS, cutoffFor } from '../../../../core/weigh/advice.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';
import { joiForm } from '$lib/server/web/joi-form.ts';

/* Aliases, not interfaces: superforms wants an implicit index signature. */
type LayoutFields = { paths: Layout['paths']; divide: Layout['divide'] };
type CutoffForm = { before: string; folder: string } & LayoutFields;

const layoutFields = {
	paths: Joi.string().valid(...LAYOUT_PATHS),
	divide: Joi.string().valid(...LAYOUT_DIVISIONS)
};

const cutoff = joiForm<CutoffForm>(
	Joi.object<CutoffForm>({
		before: Joi.string()
			.required()
			.custom((text: string) => {
				if (!readDate(text)) throw new Error('no date');
				return text;
			})
			.messages({ '*': 'Choose a cutoff date.' }),
		folder: Joi.string().allow('').max(2000),
		...layoutFields
	}),
	{ before: '', folder: '', paths: 'keep', divide: 'none' }
);

interface ArchivingForm extends LayoutFields {
	archives?: string;
	financialYear: number;
}

const archiving = Joi.object<ArchivingForm>({
	paths: layoutFields.paths.required(),
	divide: layoutFields.divide.required(),
	archives: Joi.string().allow(''),
	financialYear: Joi.number().integer().min(1).max(12).required()
});

export const load: PageServerLoad = async ({ locals, params, url, parent }) => {
	const { docket } = await parent();
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const { mailbox, folders, usualCutoff, today } = await answered(
		office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, who)
	);
	const before = url.searchParams.get('before') ?? '';
	return {
		form: await superValidate(
			{
				before: readDate(before) ?? usualCutoff,
				folder: url.searchParams.get('folder') ?? '',
				...mailbox.layout
			},
			cutoff,
			{ errors: false }
		),
		folders,
		mailbox,
		presets: AGE_PRESETS.map(({ months, name }) => ({ name, cutoff: cutoffFor(today, months) })),
		financialYear: await answered(office.ask('financialYearMonth', undefined, who)),
		overview: await answered(office.ask('clearingOverview', { mailboxId }, who)),
		past: await answered(office.ask('listedDockets', { mailboxId, limit: 12 }, who)),
		full: docket?.state === 'drafted' ? await answered(office.ask('showDocket', { id: docket.id }, who)) : null
	};
};

export const actions: Actions = {
	draft: async ({ locals, params, request }) => {
		const form = await superValidate(request, cutoff);
		if (!form.valid) return fail(400, { form });
		const { before, folder, paths, divide } = form.data;
		const drafted = await attempted(
			locals.office.change(
				'decideArchiving',
				{ mailbox: Number(params.mailbox), before, folder: folder || undefined, layout: { paths, divide } },
				locals.who
			)
		);
		return 'refused' in drafted ? message(form, drafted.refused, { status: drafted.status as 400 }) : { form };
	},

	aim: async ({ locals, params, request }) => {
		const inboxAim = Number((await request.formData()).get('inboxAim'));
		const set = await attempted(
			locals.office.change('setClearing', { mailbox: Number(params.mailbox), inboxAim }, locals.who)
		);
		return 'refused' in set ? fail(set.status, { aimRefused: set.refused }) : { aimSet: true };
	},

	archiving: async ({ locals, params, request }) => {
		const { office, who } = locals;
		const data = Object.fromEntries(await request.formData());
		const { anew, ...fields } = data;
		const { value, error } = archiving.validate(fields);
		if (error) return fail(400, { archivingRefused: 'These settings are not complete. Nothing was changed.' });
		const { paths, divide, archives, financialYear } = value;
		const changed = await attempted(
			office.change(
				'changeArchiving',
				{
					mailbox: Number(params.mailbox),
					layout: { paths, divide },
					archives: archives !== undefined,
					financialYear,
					anew: anew !== undefined
				},
				who
			)
		);
		return 'refused' in changed
			? fail(changed.status, { archivingRefused: changed.refused })
			: {
					archivingSet:
						anew === undefined
							? 'It is set. What is archived stays where it is.'
							: 'It is set, and a docket is drafted that arranges the archive anew.'
				};
	}
};
