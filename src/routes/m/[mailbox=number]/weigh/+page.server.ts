import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { readBytes } from '../../../../core/weigh/units.ts';
import { answered, attempted } from '$lib/server/answers.ts';

export const load: PageServerLoad = async ({ locals, params }) => ({
	weighing: await answered(locals.office.ask('weighMailbox', { mailboxId: Number(params.mailbox) }, locals.who))
});

export const actions: Actions = {
	quota: async ({ locals, params, request }) => {
		const text = String((await request.formData()).get('quota') ?? '').trim();
		const bytes = text === '' ? undefined : readBytes(text);
		if (text !== '' && bytes === undefined)
			return fail(400, { message: `"${text}" is no size; write 500 MB or 2 GB. The quota stays as it was.` });
		const { mailbox } = await answered(
			locals.office.ask('weighMailbox', { mailboxId: Number(params.mailbox) }, locals.who)
		);
		const set = await attempted(locals.office.change('setQuota', { mailbox: mailbox.name, bytes }, locals.who));
		return 'refused' in set ? fail(set.status, { message: set.refused }) : { set: true };
	}
};
