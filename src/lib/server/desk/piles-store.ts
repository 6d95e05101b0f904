import type { CalendarDate } from '../../../core/calendar.ts';
import { change, type Db, row, rows, sql } from '../database/index.ts';

/** A pile with what lies in it. */
export interface Pile {
	folderId: number;
	path: string;
	messages: number;
	bytes: number;
	/** Since when the oldest in it has waited; mail that came there without the desk, since it was received. */
	waitsSince: CalendarDate | undefined;
	/** How many of its messages are to be looked at today, as their day has come. */
	due: number;
}

/** Makes a folder a pile. */
export async function putPile(
	db: Db,
	{ folderId, mailboxId, at, by }: { folderId: number; mailboxId: number; at: Date; by: string }
): Promise<void> {
	await change(
		db,
		sql`INSERT INTO pile (folder_id, mailbox_id, made_at, made_by) VALUES (${folderId}, ${mailboxId}, ${at.toISOString()}, ${by}) ON CONFLICT DO NOTHING`
	);
}

/** Makes a pile an ordinary folder again; its mail stays there, without the notes. */
export async function removePile(db: Db, folderId: number): Promise<void> {
	await change(db, sql`DELETE FROM pile_item WHERE folder_id = ${folderId}`);
	await change(db, sql`DELETE FROM pile WHERE folder_id = ${folderId}`);
}

/** Notes why messages wait in a pile, and until when. */
export async function putOnPileNotes(
	db: Db,
	note: {
		itemIds: readonly number[];
		folderId: number;
		because: string;
		until: CalendarDate | undefined;
		on: CalendarDate;
		by: string;
	}
): Promise<void> {
	await change(
		db,
		sql`INSERT INTO pile_item (item_id, folder_id, because, until, put_on, put_by)
		 SELECT value, ${note.folderId}, ${note.because}, ${note.until ?? null}, ${note.on}, ${note.by} FROM json_each(${JSON.stringify(note.itemIds)}) WHERE true
		 ON CONFLICT DO UPDATE SET folder_id = excluded.folder_id, because = excluded.because, until = excluded.until,
			put_on = CASE WHEN pile_item.folder_id = excluded.folder_id THEN pile_item.put_on ELSE excluded.put_on END, put_by = excluded.put_by`
	);
}

/** The piles of a mailbox, by path. */
export async function listPiles(db: Db, mailboxId: number, today: CalendarDate): Promise<Pile[]> {
	const found = await rows<Omit<Pile, 'waitsSince'> & { waitsSince: string | null }>(
		db,
		sql`SELECT pile.folder_id AS folderId, folder.path, ifnull(weight.messages, 0) AS messages, ifnull(weight.bytes, 0) AS bytes,
			(SELECT min(ifnull(put_on, received_on)) FROM item
				LEFT JOIN pile_item ON pile_item.item_id = item.id AND pile_item.folder_id = item.folder_id
				WHERE item.folder_id = pile.folder_id AND item.state = 'live') AS waitsSince,
			(SELECT count(*) FROM pile_item JOIN item ON item.id = item_id WHERE pile_item.folder_id = pile.folder_id
				AND item.folder_id = pile.folder_id AND item.state = 'live' AND until <= ${today}) AS due
		 FROM pile JOIN folder ON folder.id = pile.folder_id
			LEFT JOIN (SELECT folder_id, sum(messages) AS messages, sum(bytes) AS bytes FROM weight_by_month
				WHERE mailbox_id = ${mailboxId} AND state = 'live' GROUP BY folder_id) weight ON weight.folder_id = pile.folder_id
		 WHERE pile.mailbox_id = ${mailboxId} AND folder.removed_at IS NULL ORDER BY folder.path`
	);
	return found.map(({ waitsSince, ...pile }) => ({ ...pile, waitsSince: waitsSince ?? undefined }));
}

/** Why a message waits in the pile in which it lies, and until when. */
export async function waitingOf(
	db: Db,
	itemId: number
): Promise<{ because: string; until: CalendarDate | null; since: CalendarDate } | undefined> {
	return row(
		db,
		sql`SELECT because, until, put_on AS since FROM pile_item JOIN item ON item.id = item_id
		 WHERE item.id = ${itemId} AND item.folder_id = pile_item.folder_id AND item.state = 'live'`
	);
}
