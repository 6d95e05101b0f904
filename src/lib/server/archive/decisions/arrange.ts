import { sql } from '../../database/index.ts';
import { type ItemWork, placeChange } from '../../docket/index.ts';
import { ensureFolder } from '../../mail/index.ts';
import { intoArchive } from '../archive-targets-store.ts';

/** To another folder of the archive; the folder from before archiving stays recorded. */
export const arrange: ItemWork = {
	about: 'messages',
	async begin(context, beginning) {
		const { docket, line } = beginning;
		const { folder } = line.options;
		if (folder === undefined)
			return intoArchive(context, beginning, sql`ifnull(item.origin_folder_id, item.folder_id)`);
		const { id } = await ensureFolder(context.db, docket.mailboxId, 'archive', folder);
		return { folder: sql`${id}`, origin: sql`item.origin_folder_id` };
	},
	change: placeChange({ to: 'archived' })
};
