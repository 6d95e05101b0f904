import type { ServerMessage } from '../../../core/sources/operations.ts';
import { MARKED_DELETED } from '../../../core/sources/server.ts';
import { change, type Db, inList, insertRows, row, rows, type Sql, sql } from '../database/index.ts';
import type { WaitingForServer } from '../mail/index.ts';

/** An item of the outbox as it is here; without a state: it was destroyed. */
export interface OutboxItem {
	/** Its number in the outbox, and how often it was noted: what is noted again meanwhile stays in it. */
	id: number;
	changes: number;
	itemId: number;
	places: number;
	tries: number;
	state: 'live' | 'archived' | 'binned' | null;
	folderId: number;
	folderPath: string;
	contentId: number;
	seen: number | null;
	answered: number;
	flagged: number;
	/** Seconds since 1970: when it came to the server first, else when it was received. */
	date: number | null;
}

/** The next items that a server has still to show as they are here, in the order in which they were noted. */
export async function nextOfOutbox(db: Db, sourceId: number, after: number, limit: number): Promise<OutboxItem[]> {
	return rows<OutboxItem>(
		db,
		sql`SELECT outbox.id, changes, outbox.item_id AS itemId, places, tries, item.state, item.folder_id AS folderId, folder.path AS folderPath,
			message.content_id AS contentId, item.seen, item.answered, item.flagged,
			ifnull(source_removed.internal_date, item.received_at) AS date
		 FROM outbox LEFT JOIN item ON item.id = outbox.item_id LEFT JOIN folder ON folder.id = item.folder_id
			LEFT JOIN message ON message.id = item.message_id LEFT JOIN source_removed ON source_removed.item_id = outbox.item_id
		 WHERE outbox.source_id = ${sourceId} AND trouble IS NULL AND outbox.id > ${after} ORDER BY outbox.id LIMIT ${limit}`
	);
}

/** Where some items lie on a server, by its last answers. */
export async function messagesOnServer(db: Db, sourceId: number, itemIds: readonly number[]): Promise<ServerMessage[]> {
	const found = await rows<Omit<ServerMessage, 'keywords'> & { keywords: string }>(
		db,
		sql`SELECT source_item.item_id AS itemId, source_folder.path AS folder, uid, flags, keywords
		 FROM source_item JOIN source_folder ON source_folder.id = source_folder_id
		 WHERE source_id = ${sourceId} AND item_id IN ${inList(itemIds)} ORDER BY item_id, source_folder_id, uid`
	);
	return found.map(({ keywords, ...message }) => ({ ...message, keywords: JSON.parse(keywords) as string[] }));
}

/** A message of a folder, with the item that it is. */
export interface Placed {
	uid: number;
	itemId: number;
}

/** Notes that Kovrel begins to remove messages of a folder from its server. */
export async function putRemovalsBegun(db: Db, folderId: number, uids: readonly number[]): Promise<void> {
	await change(
		db,
		sql`UPDATE source_item SET removal_begun = 1 WHERE source_folder_id = ${folderId} AND uid IN ${inList(uids)}`
	);
}

/** Notes that Kovrel took its own mark off messages of a folder, which stay there. */
export async function putRemovalsEnded(db: Db, folderId: number, uids: readonly number[]): Promise<void> {
	await change(
		db,
		sql`UPDATE source_item SET removal_begun = 0, flags = flags & ~${MARKED_DELETED} WHERE source_folder_id = ${folderId} AND uid IN ${inList(uids)}`
	);
}

/** Messages that Kovrel began to remove from a server, and that are still there by its last answers. */
export async function removalsBegun(db: Db, sourceId: number): Promise<{ folder: string; uid: number }[]> {
	return rows(
		db,
		sql`SELECT source_folder.path AS folder, uid FROM source_item JOIN source_folder ON source_folder.id = source_folder_id
		 WHERE removal_begun = 1 AND source_id = ${sourceId} ORDER BY source_folder_id, uid`
	);
}

/** Notes what a server has removed; the date that it had there is kept, for putting it back. */
export async function putRemoved(db: Db, sourceId: number, folderId: number, uids: readonly number[]): Promise<void> {
	const which = sql`source_folder_id = ${folderId} AND uid IN ${inList(uids)}`;
	await change(
		db,
		sql`INSERT INTO source_removed (item_id, source_id, internal_date)
		 SELECT item_id, ${sourceId}, internal_date FROM source_item WHERE ${which} AND item_id IN (SELECT id FROM item)
		 ON CONFLICT (item_id) DO UPDATE SET internal_date = excluded.internal_date`
	);
	await change(db, sql`DELETE FROM source_item WHERE ${which}`);
}

/** Notes where a server has moved messages, by the numbers that they had and have. */
export async function putMoved(
	db: Db,
	{ from, to, numbers }: { from: number; to: number; numbers: ReadonlyMap<number, number> }
): Promise<void> {
	const moved = JSON.stringify([...numbers]);
	await change(
		db,
		sql`INSERT INTO source_item (source_folder_id, uid, item_id, flags, keywords, internal_date)
		 SELECT ${to}, moved.value ->> 1, item_id, flags, keywords, internal_date FROM json_each(${moved}) moved
			CROSS JOIN source_item ON source_folder_id = ${from} AND uid = moved.value ->> 0 WHERE 1
		 ON CONFLICT (source_folder_id, uid) DO UPDATE SET item_id = excluded.item_id`
	);
	await change(
		db,
		sql`DELETE FROM source_item WHERE source_folder_id = ${from} AND uid IN ${inList([...numbers.keys()])}`
	);
}

/** Notes messages that were put on a server. */
export async function putAppended(
	db: Db,
	folderId: number,
	messages: readonly (Placed & { flags: number; keywords: readonly string[]; date: number | null })[]
): Promise<void> {
	await insertRows(
		db,
		`INSERT INTO source_item (source_folder_id, uid, item_id, flags, keywords, internal_date)`,
		messages.map(({ uid, itemId, flags, keywords, date }) => [
			folderId,
			uid,
			itemId,
			flags,
			JSON.stringify(keywords),
			date
		]),
		`ON CONFLICT (source_folder_id, uid) DO UPDATE SET item_id = excluded.item_id, flags = excluded.flags, keywords = excluded.keywords`
	);
	await change(db, sql`DELETE FROM source_removed WHERE item_id IN ${inList(messages.map(({ itemId }) => itemId))}`);
}

type Noted = Pick<OutboxItem, 'id' | 'changes'>;

/* Those that were not noted again since they were read. */
const unchanged = (items: readonly Noted[]) =>
	sql`(id, changes) IN (SELECT value ->> 0, value ->> 1 FROM json_each(${JSON.stringify(items.map(({ id, changes }) => [id, changes]))}))`;

/** Takes items that the server shows as they are here off the outbox. */
export async function takeOffOutbox(db: Db, items: readonly Noted[]): Promise<void> {
	await change(db, sql`DELETE FROM outbox WHERE ${unchanged(items)}`);
}

/** Notes that items were tried in vain; with a trouble, they wait for a person. */
export async function putTried(db: Db, items: readonly Noted[], trouble: string | null): Promise<void> {
	if (items.length === 0) return;
	await change(db, sql`UPDATE outbox SET tries = tries + 1, trouble = ${trouble} WHERE ${unchanged(items)}`);
}

/** How many items a server has still to show as they are here. */
export async function countWaiting(db: Db, sourceId: number): Promise<number> {
	const found = await row<{ n: number }>(db, sql`SELECT count(*) AS n FROM outbox WHERE source_id = ${sourceId}`);
	return found?.n ?? 0;
}

/** Whether something waits to be carried to a server, and was not refused; or a folder has another name here. */
export async function hasToCarry(db: Db, sourceId: number): Promise<boolean> {
	const found = await row<{ has: number }>(
		db,
		sql`SELECT EXISTS (SELECT 1 FROM outbox WHERE source_id = ${sourceId} AND trouble IS NULL)
			OR EXISTS (SELECT 1 FROM source_folder JOIN folder ON folder.id = folder_id
				WHERE source_id = ${sourceId} AND (folder.path <> path_here OR folder.removed_at IS NOT NULL)) AS has`
	);
	return found?.has === 1;
}

/** What waits for each server, and what it refused. */
export async function waitingBySource(db: Db): Promise<Map<number, WaitingForServer & { trouble: string | null }>> {
	const found = await rows<WaitingForServer & { trouble: string | null; id: number }>(
		db,
		sql`SELECT source_id AS id, count(*) AS waiting, count(trouble) AS refused, max(trouble) AS trouble FROM outbox GROUP BY 1`
	);
	return new Map(found.map(({ id, ...waiting }) => [id, waiting]));
}

/** Has what a server refused tried again. @returns how many items */
export async function retryOutbox(db: Db, sourceId: number): Promise<number> {
	return change(
		db,
		sql`UPDATE outbox SET trouble = NULL, tries = 0 WHERE source_id = ${sourceId} AND trouble IS NOT NULL`
	);
}

/** Items that lie on a server in another way than here, by what was decided before Kovrel might write there. */
export const decidedEarlier = (sourceId: number): Sql =>
	sql`SELECT DISTINCT item.id AS id FROM source_folder JOIN source_item ON source_folder_id = source_folder.id JOIN item ON item.id = source_item.item_id
			JOIN source ON source.id = source_id
		WHERE source_id = ${sourceId} AND CASE item.state
			WHEN 'archived' THEN archive_on = 'kovrel' OR source_folder.folder_id = item.origin_folder_id
			ELSE item.folder_id <> source_folder.folder_id END`;

/** How many items were archived, deleted or moved here, and still lie on the server as before. */
export async function countDecidedEarlier(db: Db, sourceId: number): Promise<number> {
	const found = await row<{ n: number }>(db, sql`SELECT count(*) AS n FROM (${decidedEarlier(sourceId)})`);
	return found?.n ?? 0;
}

/** An item that waits to be shown in a folder. */
export interface WantedIn {
	itemId: number;
	messageId: number;
	state: 'live' | 'archived' | 'binned';
	folderId: number;
	/** Path of its folder here; for an archived one, in the archive. */
	path: string;
}

/** Items that wait to be put or moved into some folder, of some messages; what turns up there is them. */
export async function wantedItems(db: Db, sourceId: number, messageIds: readonly number[]): Promise<WantedIn[]> {
	return rows<WantedIn>(
		db,
		sql`SELECT item.id AS itemId, item.message_id AS messageId, item.state, item.folder_id AS folderId, folder.path
		 FROM item JOIN folder ON folder.id = item.folder_id JOIN outbox ON outbox.item_id = item.id AND outbox.source_id = ${sourceId} AND places = 1
		 WHERE item.message_id IN ${inList(messageIds)} AND item.state <> 'destroyed'
			AND NOT EXISTS (SELECT 1 FROM source_item JOIN source_folder ON source_folder.id = source_folder_id
				WHERE source_item.item_id = item.id AND source_folder.folder_id = item.folder_id)`
	);
}
