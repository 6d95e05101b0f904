import { redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** A colleague starts with Find, an auditor with the ledger, others with Weigh, or with their first steps. */
export const load: PageServerLoad = async ({ parent }) => {
	const { person, mailboxes } = await parent();
	if (person?.role === 'colleague') redirect(307, '/find');
	if (person?.role === 'auditor') redirect(307, '/ledger');
	// the first with mail; a mailbox that waits for its mail has nothing to show yet
	const first = mailboxes.find(({ messages, archived }) => messages > 0 || archived.messages > 0);
	redirect(307, first ? `/m/${first.id}/weigh` : '/begin');
};
