import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';

/** The selection of mailboxes that these pages show as one, and this person's drafts in them. */
export const load: LayoutServerLoad = async ({ locals, url }) => {
	const { office, who } = locals;
	const selected = selectedMailboxes(url.searchParams);
	const drafts =
		who.role === 'administrator' ? await answered(office.ask('showDrafts', { mailboxIds: selected }, who)) : [];
	return { selected, drafts };
};
