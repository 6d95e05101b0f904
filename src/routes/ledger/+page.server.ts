import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import Joi from 'joi';
import { formAction } from '$lib/server/web/form-action.ts';

const PAGE = 50;

export const load: PageServerLoad = async ({ locals, url }) => {
	const before = Number(url.searchParams.get('before') ?? '');
	const lines = await answered(
		locals.office.ask(
			'readLedger',
			{ before: Number.isSafeInteger(before) && before > 0 ? before : undefined, limit: PAGE },
			locals.who
		)
	);
	const backups = await answered(locals.office.ask('backupStanding', undefined, locals.who));
	const checks = await answered(locals.office.ask('checkStanding', undefined, locals.who));
	return { lines, more: lines.length === PAGE, backups, checks };
};

export const actions: Actions = {
	verify: formAction(Joi.object({}), async (_form, { locals }) => {
		await locals.office.start('verifyArchive', undefined, locals.who);
		return { started: true };
	}),
	clock: formAction(Joi.object({}), async (_form, { locals }) => {
		await locals.office.change('confirmClock', undefined, locals.who);
		return { clockConfirmed: true };
	}),
	confirmBackup: formAction(Joi.object({}), async (_form, { locals }) => {
		await locals.office.change('confirmBackup', undefined, locals.who);
		return { backupConfirmed: true };
	}),
	backUp: formAction(
		Joi.object<{ out: string }>({ out: Joi.string().trim().max(4_000).pattern(/^\//).required() }),
		async ({ out }, { locals }) => {
			await locals.office.start('backUp', { out }, locals.who);
			return { backingUp: true };
		},
		{ wrong: 'Write the whole path of a folder for the backup, as in /srv/backups. Nothing was written.' }
	),
	nightly: formAction(
		Joi.object<{ folder: string }>({ folder: Joi.string().allow('').max(4_000).default('') }),
		async ({ folder }, { locals }) => {
			await locals.office.change('setBackupFolder', { folder }, locals.who);
			return { nightlySet: true };
		}
	)
};
