import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { isLevel, type LayoutLevel, MOST_LEVELS } from '../../../../core/archive/layout.ts';
import { readDate } from '../../../../core/calendar.ts';
import { AGE_PRESETS, cutoffFor, namedCutoffs } from '../../../../core/weigh/advice.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

/* The levels of the layout, as one text. */
const layoutFields = {
	levels: Joi.string()
		.custom((text: string) => {
			const levels: unknown = JSON.parse(text);
			if (!Array.isArray(levels) || levels.length > MOST_LEVELS || !levels.every((one) => isLevel(String(one))))
				throw new Error('no layout');
			return levels as LayoutLevel[];
		})
		.required()
};
interface WithLayout {
	levels: LayoutLevel[];
}

const cutoffSchema = Joi.object<
	{ before: string; folder: string; without: string[]; leavesFlagged?: string } & WithLayout
>({
	before: Joi.string().max(10).required(),
	folder: Joi.string().allow('').max(2000).default(''),
	without: Joi.array().items(Joi.string().max(2000)).max(1_000).default([]),
	leavesFlagged: Joi.string().allow(''),
	...layoutFields
});
const aimSchema = Joi.object<{ inboxAim: number }>({ inboxAim: Joi.number().required() });
const archivingSchema = Joi.object<{ archives?: string; financialYear: number; anew?: string } & WithLayout>({
	archives: Joi.string().allow(''),
	financialYear: Joi.number().integer().min(1).max(12).required(),
	anew: Joi.string().allow(''),
	...layoutFields
});

export const load: PageServerLoad = async ({ locals, params, url, parent }) => {
	const { docket } = await parent();
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const { mailbox, folders, usualCutoff, today } = await answered(
		office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, who)
	);
	const before = url.searchParams.get('before') ?? '';
	const financialYear = await answered(office.ask('financialYearMonth', undefined, who));
	return {
		before: readDate(before) ?? usualCutoff,
		folder: url.searchParams.get('folder') ?? '',
		folders,
		mailbox,
		presets: [
			...AGE_PRESETS.map(({ months, name }) => ({ name, cutoff: cutoffFor(today, months) })),
			...namedCutoffs(today, financialYear)
		],
		financialYear,
		sample: await answered(office.ask('layoutSample', { mailboxId }, who)),
		overview: await answered(office.ask('clearingOverview', { mailboxId }, who)),
		past: await answered(office.ask('listedDockets', { mailboxId, limit: 12 }, who)),
		full: docket?.state === 'drafted' ? await answered(office.ask('showDocket', { id: docket.id }, who)) : null
	};
};

export const actions: Actions = {
	draft: formAction(
		cutoffSchema,
		async ({ before, folder, without, leavesFlagged, levels: layout }, { locals, params }) => {
			const input = {
				mailbox: Number(params.mailbox),
				before,
				folder: folder || undefined,
				without: folder ? [] : without,
				leavesFlagged: leavesFlagged !== undefined,
				layout
			};
			await locals.office.change('decideArchiving', input, locals.who);
			return { drafted: true };
		},
		{ lists: ['without'], wrong: 'Select a cutoff date. Nothing was drafted.', at: 'draft' }
	),
	aim: formAction(
		aimSchema,
		async ({ inboxAim }, { locals, params }) => {
			await locals.office.change('setClearing', { mailbox: Number(params.mailbox), inboxAim }, locals.who);
			return { aimSet: true };
		},
		{ wrong: 'Write how many messages the inbox may hold. Nothing was changed.', at: 'aim' }
	),
	archiving: formAction(
		archivingSchema,
		async ({ archives, financialYear, anew, levels: layout }, { locals, params }) => {
			const input = {
				mailbox: Number(params.mailbox),
				layout,
				archives: archives !== undefined,
				financialYear,
				anew: anew !== undefined
			};
			await locals.office.change('changeArchiving', input, locals.who);
			return {
				archivingSet:
					anew === undefined
						? 'The setting is saved. Archived mail stays where it is.'
						: 'The setting is saved, and a docket that rearranges the archive is drafted.'
			};
		},
		{ wrong: 'These settings are not complete. Nothing was changed.', at: 'archiving' }
	)
};
