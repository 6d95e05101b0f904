import { sql } from '../database/index.ts';
import { type ItemWork, placeChange } from '../docket/index.ts';
import { ensureFolder, liesIn } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { classOfFolder } from '../standing/index.ts';

/** Into another folder, which is created if it is new. */
export const move: ItemWork = {
	about: 'messages',
	check(_context, _mailbox, { options }) {
		if (!options.folder?.trim()) throw new Refusal('bad-input', 'Name the folder to move to. Nothing was done.');
	},
	already: ({ folder = '' }) => liesIn(folder),
	begin: async ({ db }, { docket, line }) => ({
		folder: sql`${(await ensureFolder(db, docket.mailboxId, 'mailbox', line.options.folder ?? '')).id}`,
		origin: sql`NULL`
	}),
	classesAs: ({ db }, { mailbox, line }) => classOfFolder(db, mailbox.id, line.options.folder ?? ''),
	change: placeChange({ to: 'live', pinsRecords: true })
};
