import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/answers.ts';

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
	return { lines, more: lines.length === PAGE };
};

export const actions: Actions = {
	verify: async ({ locals }) => {
		await locals.office.start('verifyArchive', undefined, 'Checking every stored message and the ledger', locals.who);
		return { started: true };
	}
};
