import { sql } from '../../database/index.ts';
import { type ItemWork, placeChange } from '../../docket/index.ts';
import { ensureFolder, reviveFolders } from '../../mail/index.ts';
import { classOfFolder } from '../../standing/index.ts';
import { lineOrigins } from '../archive-targets-store.ts';

const ORIGIN = sql`item.origin_folder_id`;

/**
 * Into the folder that is named; else back to each item's own, which is created again if it is gone, or to the inbox
 * if it is unknown.
 */
export const restore: ItemWork = {
	about: 'messages',
	async begin({ db }, beginning) {
		const { folder } = beginning.line.options;
		if (folder) {
			const { id } = await ensureFolder(db, beginning.docket.mailboxId, 'mailbox', folder);
			return { folder: sql`${id}`, origin: sql`NULL` };
		}
		const origins = await lineOrigins(db, beginning, ORIGIN);
		await reviveFolders(
			db,
			origins.flatMap(({ folderId }) => (folderId === null ? [] : [folderId]))
		);
		const isUnknown = origins.some(({ folderId }) => folderId === null);
		const inbox = isUnknown ? (await ensureFolder(db, beginning.docket.mailboxId, 'mailbox', 'Inbox')).id : null;
		return { folder: sql`ifnull(${ORIGIN}, ${inbox})`, origin: sql`NULL` };
	},
	classesAs: async ({ db }, { mailbox, line }) =>
		line.options.folder ? classOfFolder(db, mailbox.id, line.options.folder) : undefined,
	change: placeChange({ to: 'live' })
};
