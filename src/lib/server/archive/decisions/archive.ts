import { sql } from '../../database/index.ts';
import { type ItemWork, placeChange } from '../../docket/index.ts';
import { Refusal } from '../../refusal.ts';
import { intoArchive } from '../archive-targets-store.ts';

/** Into the archive's tree, by the docket's layout. */
export const archive: ItemWork = {
	about: 'messages',
	check(_context, mailbox) {
		if (!mailbox.archives)
			throw new Refusal('not-possible', `${mailbox.name} is set to archive nothing. Nothing was done.`);
	},
	begin: (context, beginning) => intoArchive(context, beginning, sql`item.folder_id`),
	change: placeChange({ to: 'archived' })
};
