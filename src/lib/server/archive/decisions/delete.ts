import { sql } from '../../database/index.ts';
import { type ItemWork, placeChange } from '../../docket/index.ts';
import { binOf } from '../../mail/index.ts';

/** Into the bin. */
export const toBin: ItemWork = {
	about: 'messages',
	begin: async ({ db }, { docket }) => ({
		folder: sql`${(await binOf(db, docket.mailboxId)).id}`,
		origin: sql`item.folder_id`
	}),
	change: placeChange({ to: 'binned', takesAway: true })
};
