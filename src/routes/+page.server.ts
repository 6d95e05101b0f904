import { redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** A colleague starts with Find, an auditor with the ledger, others with Weigh, or with importing mail. */
export const load: PageServerLoad = async ({ parent }) => {
	const { person, mailboxes } = await parent();
	if (person?.role === 'colleague') redirect(307, '/find');
	if (person?.role === 'auditor') redirect(307, '/ledger');
	redirect(307, mailboxes[0] ? `/m/${mailboxes[0].id}/weigh` : '/mailboxes');
};
