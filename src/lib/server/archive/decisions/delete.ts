import { sql } from '../../database/sql.ts';
import { placeChange } from '../../docket/changes/place-change-store.ts';
import type { ItemWork } from '../../docket/decision-work.ts';
import { binOf } from '../../mail/folders-store.ts';

/** Into the bin. */
export const toBin: ItemWork = {
	about: 'messages',
	begin: async ({ db }, { docket }) => ({
		folder: sql`${(await binOf(db, docket.mailboxId)).id}`,
		origin: sql`item.folder_id`
	}),
	change: placeChange({ to: 'binned', takesAway: true })
};
