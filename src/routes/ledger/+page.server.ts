import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';

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
	return { lines, more: lines.length === PAGE, backups };
};

export const actions: Actions = {
	verify: async ({ locals }) => {
		await locals.office.start('verifyArchive', undefined, locals.who);
		return { started: true };
	},
	backUp: async ({ locals, request }) => {
		const out = String((await request.formData()).get('out') ?? '').trim();
		if (out === '') return fail(400, { message: 'Name a folder for the backup. Nothing was written.' });
		await locals.office.start('backUp', { out }, locals.who);
		return { backingUp: true };
	},
	nightly: async ({ locals, request }) => {
		const folder = String((await request.formData()).get('folder') ?? '').slice(0, 4_000);
		const set = await attempted(locals.office.change('setBackupFolder', { folder }, locals.who));
		return 'refused' in set ? fail(set.status, { message: set.refused }) : { nightlySet: true };
	}
};
