import { sql } from '../../database/index.ts';
import { type ItemWork, placeChange } from '../../docket/index.ts';
import { ensureFolder } from '../../mail/index.ts';
import { Refusal } from '../../refusal.ts';
import { intoArchive } from '../archive-targets-store.ts';

/** Into the archive's tree, by the docket's layout, or into the folder of it that is named. */
export const archive: ItemWork = {
	about: 'messages',
	check(_context, mailbox) {
		if (!mailbox.archives)
			throw new Refusal('not-possible', `${mailbox.name} is set to archive nothing. Nothing was done.`);
	},
	async begin(context, beginning) {
		const { folder } = beginning.line.options;
		const from = sql`item.folder_id`;
		if (folder === undefined) return intoArchive(context, beginning, from);
		const { id } = await ensureFolder(context.db, beginning.docket.mailboxId, 'archive', folder);
		return { folder: sql`${id}`, origin: from };
	},
	change: placeChange({ to: 'archived' })
};
