import { redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** The work begins with weighing; without a mailbox, with bringing mail in. */
export const load: PageServerLoad = async ({ parent }) => {
	const { mailboxes } = await parent();
	redirect(307, mailboxes[0] ? `/m/${mailboxes[0].id}/weigh` : '/mailboxes');
};
