import { change, type Db, inList, insertRows, rows, sql } from '../database/index.ts';

/** A message whose headers are known, and whose bytes are still on the server alone. */
export interface AheadMessage {
	uid: number;
	bytes: number;
	/** Seconds since 1970, and the day in the office's calendar; undefined: the server does not say. */
	receivedAt: number | undefined;
	receivedOn: string | undefined;
	address: string;
	name: string;
	organisation: string;
	unread: boolean;
}

/** Notes messages of a folder that are still to come. */
export async function putAhead(db: Db, folderId: number, messages: readonly AheadMessage[]): Promise<void> {
	await insertRows(
		db,
		`INSERT OR REPLACE INTO source_ahead (source_folder_id, uid, bytes, received_at, received_on, address, name, organisation, unread)`,
		messages.map(({ uid, bytes, receivedAt, receivedOn, address, name, organisation, unread }) => [
			folderId,
			uid,
			bytes,
			receivedAt ?? null,
			receivedOn ?? null,
			address,
			name,
			organisation,
			unread ? 1 : 0
		])
	);
}

/** What is noted of a folder's messages that are still to come, by their number there. */
export async function aheadIn(
	db: Db,
	folderId: number
): Promise<Map<number, { bytes: number; receivedAt: number | undefined }>> {
	const found = await db('source_ahead')
		.where({ source_folder_id: folderId })
		.select('uid', 'bytes', { receivedAt: 'received_at' });
	return new Map(found.map(({ uid, bytes, receivedAt }) => [uid, { bytes, receivedAt: receivedAt ?? undefined }]));
}

/** Forgets messages of a folder that are here by now, or that it does not have any more. */
export async function dropAhead(db: Db, folderId: number, uids: readonly number[]): Promise<void> {
	await change(db, sql`DELETE FROM source_ahead WHERE source_folder_id = ${folderId} AND uid IN ${inList(uids)}`);
}

/** Forgets all that was to come from a folder. */
export async function dropAheadOf(db: Db, folderIds: readonly number[]): Promise<void> {
	await db('source_ahead')
		.whereIn('source_folder_id', [...folderIds])
		.delete();
}

/** How much of each live mailbox is still to come. */
export async function aheadBySource(db: Db): Promise<Map<number, { messages: number; bytes: number }>> {
	const found = await rows<{ id: number; messages: number; bytes: number }>(
		db,
		sql`SELECT source_id AS id, count(*) AS messages, sum(bytes) AS bytes FROM source_ahead JOIN source_folder ON source_folder.id = source_folder_id GROUP BY 1`
	);
	return new Map(found.map(({ id, ...weight }) => [id, weight]));
}
