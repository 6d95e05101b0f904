import { sql } from '../database/sql.ts';
import { placeChange } from '../docket/changes/place-change-store.ts';
import type { ItemWork } from '../docket/decision-work.ts';
import { ensureFolder, findFolder } from '../mail/folders-store.ts';
import { Refusal } from '../refusal.ts';
import { governed } from '../standing/retention-store.ts';

/** Into another folder, which is made where it is new. */
export const move: ItemWork = {
	about: 'messages',
	check(_context, _mailbox, { options }) {
		if (!options.folder?.trim()) throw new Refusal('bad-input', 'Name the folder to move to. Nothing was done.');
	},
	begin: async ({ db }, { docket, line }) => ({
		folder: sql`${(await ensureFolder(db, docket.mailboxId, 'mailbox', line.options.folder ?? '')).id}`,
		origin: sql`NULL`
	}),
	async makesWorking({ db }, { mailbox, line }) {
		const folder = await findFolder(db, mailbox.id, 'mailbox', line.options.folder ?? '');
		return folder !== undefined && (await governed(db, mailbox.id)).get(folder.id)?.class === 'working';
	},
	change: placeChange({ to: 'live', pinsRecords: true })
};
