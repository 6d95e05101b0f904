import type { CalendarDate } from '../../../core/calendar.ts';
import { type Condition, type Db, idOf, rows, sql } from '../database/index.ts';
import { isPausedOn } from '../mail/index.ts';

/** A pause: not to be deleted before a day. */
export interface Pause {
	id: number;
	mailboxId: number;
	folderId: number | null;
	folder: string | null;
	until: CalendarDate;
	because: string;
	madeBy: string;
	madeAt: string;
}

/** The pauses of a mailbox in effect on a day. */
export async function activePauses(db: Db, mailboxId: number, on: CalendarDate): Promise<Pause[]> {
	return rows<Pause>(
		db,
		sql`SELECT pause.id, pause.mailbox_id AS mailboxId, folder_id AS folderId, folder.path AS folder, until, because,
			made_by AS madeBy, made_at AS madeAt
		 FROM pause LEFT JOIN folder ON folder.id = folder_id
		 WHERE pause.mailbox_id = ${mailboxId} AND until > ${on} AND ended_at IS NULL ORDER BY until, pause.id`
	);
}

/** The scope of a mailbox's pauses on a day: numbers of pauses of items, and folders with their subfolders. */
export interface Paused {
	on: CalendarDate;
	pauses: number[];
	folders: number[];
}

/** The mail of a mailbox paused on a day. */
export async function pausedOn(db: Db, mailboxId: number, on: CalendarDate): Promise<Paused> {
	const pauses = await activePauses(db, mailboxId, on);
	const tops = pauses.flatMap(({ folderId }) => (folderId === null ? [] : [folderId]));
	const folders =
		tops.length === 0
			? []
			: await rows<{ id: number }>(
					db,
					sql`WITH RECURSIVE below (id) AS (
						SELECT value FROM json_each(${JSON.stringify(tops)}) UNION SELECT folder.id FROM folder JOIN below ON folder.parent_id = below.id
					) SELECT id FROM below`
				);
	return {
		on,
		pauses: pauses.filter(({ folderId }) => folderId === null).map(({ id }) => id),
		folders: folders.map(({ id }) => id)
	};
}

/** Whether an item is under a pause in effect, its own or its folder's. */
export function isPaused({ on, pauses, folders }: Paused): Condition {
	return pauses.length + folders.length === 0 ? sql`0` : isPausedOn(on);
}

/** Stores a pause and returns its number. */
export async function addPause(
	db: Db,
	pause: Pick<Pause, 'mailboxId' | 'folderId' | 'until' | 'because' | 'madeBy' | 'madeAt'>
): Promise<number> {
	return idOf(
		db('pause').insert({
			mailbox_id: pause.mailboxId,
			folder_id: pause.folderId,
			until: pause.until,
			because: pause.because,
			made_by: pause.madeBy,
			made_at: pause.madeAt
		})
	);
}

/** Ends the pause of a folder. @returns whether there was one */
export async function endFolderPause(db: Db, folderId: number, at: string): Promise<boolean> {
	return (await db('pause').where({ folder_id: folderId }).whereNull('ended_at').update({ ended_at: at })) > 0;
}
