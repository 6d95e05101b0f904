import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';
import { readRetentionWish } from '$lib/server/web/retention-door.ts';

export const load: PageServerLoad = async ({ locals, url, parent }) => {
	const { mailboxes } = await parent();
	const asked = Number(url.searchParams.get('mailbox'));
	const chosen = mailboxes.find(({ id }) => id === asked) ?? mailboxes[0];
	// several at once where all are asked for
	const shown = url.searchParams.get('mailbox') === 'all' ? mailboxes : chosen ? [chosen] : [];
	return {
		chosen: url.searchParams.get('mailbox') === 'all' ? 'all' : String(chosen?.id ?? ''),
		retained: await Promise.all(
			shown.map(({ id }) => answered(locals.office.ask('listRetained', { mailboxId: id }, locals.who)))
		),
		named: await answered(locals.office.ask('listNamed', undefined, locals.who))
	};
};

const BROKEN = 'The form did not come in whole. Nothing was changed.';

export const actions: Actions = {
	look: async ({ locals, request }) => {
		const wish = readRetentionWish(await request.formData());
		if (!wish) return fail(400, { message: BROKEN });
		const tried = await attempted(locals.office.ask('tryRetention', wish, locals.who));
		return 'refused' in tried ? fail(tried.status, { message: tried.refused }) : { tried: tried.done };
	},
	save: async ({ locals, request }) => {
		const data = await request.formData();
		const wish = readRetentionWish(data);
		if (!wish) return fail(400, { message: BROKEN });
		const because = String(data.get('because') ?? '').slice(0, 1_000);
		const done = await attempted(locals.office.change('setRetention', { wish, because }, locals.who));
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { saved: true, ...done.done };
	}
};
