import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/answers.ts';

export const load: LayoutServerLoad = async ({ locals }) => ({
	who: locals.who,
	demo: await locals.office.ask('clockCanMove', undefined, locals.who),
	noBackup: await locals.office.ask('isBackupWanted', undefined, locals.who),
	dueSoon: await locals.office.ask('countDueSoon', undefined, locals.who),
	holds: await locals.office.ask('countHolds', undefined, locals.who),
	today: await locals.office.ask('officeToday', undefined, locals.who),
	mailboxes: await answered(locals.office.ask('listWeights', undefined, locals.who)),
	jobs: (await answered(locals.office.ask('listJobs', { limit: 12 }, locals.who))).map(
		({ id, label, state, error, endedAt, noticedAt, useCase, result }) => ({
			id,
			label,
			state,
			error,
			endedAt,
			noticedAt,
			useCase,
			result
		})
	)
});
