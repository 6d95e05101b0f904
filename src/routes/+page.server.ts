import { redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** A colleague's work is finding, an auditor's begins with the ledger; else with weighing, or with bringing mail in. */
export const load: PageServerLoad = async ({ parent }) => {
	const { person, mailboxes } = await parent();
	if (person?.role === 'colleague') redirect(307, '/find');
	if (person?.role === 'auditor') redirect(307, '/ledger');
	redirect(307, mailboxes[0] ? `/m/${mailboxes[0].id}/weigh` : '/mailboxes');
};
