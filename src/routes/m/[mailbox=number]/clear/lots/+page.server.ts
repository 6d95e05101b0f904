import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { agesOn, decideOnLots, loadLots } from '$lib/server/web/lots-page.ts';

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const mailboxId = Number(params.mailbox);
	const { folders, mailbox, today } = await answered(
		locals.office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, locals.who)
	);
	return {
		mailbox,
		folders: folders.map(({ path }) => path),
		ages: agesOn(today),
		...(await loadLots(locals, url.searchParams, { mailboxId }))
	};
};

export const actions: Actions = {
	decide: decideOnLots
};
