import { MARKED_DELETED } from '../../../core/sources/server.ts';
import type { FolderRole } from '../../../core/weigh/roles.ts';
import { change, type Db, idOf, inList, insertRows, not, rows, setOfItem, type Sql, sql } from '../database/index.ts';
import { IS_ON_SERVER, shiftWeights } from '../mail/index.ts';
import { dropAheadOf } from './ahead-store.ts';

/** A folder of a server, as it was at the end of the last pass that went through it. */
export interface FollowedFolder {
	id: number;
	path: string;
	/** The folder here, and its path here when the two were last the same. */
	folderId: number;
	pathHere: string;
	/** The path of the folder here now, and whether it was removed. */
	pathNow: string;
	isRemoved: 0 | 1;
	uidValidity: string;
	uidNext: number;
	messages: number;
	/** The highest change number (RFC 7162); null: the server gives none. */
	modseq: string | null;
}

/** The folders of a source that were seen so far. */
export async function followedFolders(db: Db, sourceId: number): Promise<FollowedFolder[]> {
	return rows<FollowedFolder>(
		db,
		sql`SELECT source_folder.id, source_folder.path, folder_id AS folderId, path_here AS pathHere, folder.path AS pathNow,
			folder.removed_at IS NOT NULL AS isRemoved, uid_validity AS uidValidity, uid_next AS uidNext, messages, modseq
		 FROM source_folder JOIN folder ON folder.id = folder_id WHERE source_id = ${sourceId} ORDER BY source_folder.path`
	);
}

/** Notes a folder that was not seen before; nothing of its mail is known yet. */
export async function addFollowedFolder(
	db: Db,
	{
		sourceId,
		path,
		folderId,
		pathHere,
		uidValidity
	}: { sourceId: number; path: string; folderId: number; pathHere: string; uidValidity: string }
): Promise<number> {
	return idOf(
		db('source_folder').insert({
			source_id: sourceId,
			path,
			folder_id: folderId,
			path_here: pathHere,
			uid_validity: uidValidity,
			uid_next: 0,
			messages: 0,
			modseq: null
		})
	);
}

/** Notes how a folder is, once all of it is here. */
export async function putFollowedFolder(
	db: Db,
	{
		id,
		uidValidity,
		uidNext,
		messages,
		modseq
	}: Pick<FollowedFolder, 'id' | 'uidValidity' | 'uidNext' | 'messages' | 'modseq'>
): Promise<void> {
	await db('source_folder').where({ id }).update({ uid_validity: uidValidity, uid_next: uidNext, messages, modseq });
}

/** Gives a folder here the role that a server says, where no other has it yet. */
export async function putRole(
	db: Db,
	{ mailboxId, folderId, role }: { mailboxId: number; folderId: number; role: FolderRole }
): Promise<void> {
	await change(
		db,
		sql`UPDATE folder SET role = ${role} WHERE id = ${folderId} AND role IS NULL AND parent_id IS NULL
			AND NOT EXISTS (SELECT 1 FROM folder other WHERE other.mailbox_id = ${mailboxId} AND other.tree = 'mailbox' AND other.role = ${role})`
	);
}

/** A message of a server's folder, with the item that it is; item 0: it is none, and kept raw. */
export interface FollowedMessage {
	uid: number;
	itemId: number;
	/** Bits of core/sources. */
	flags: number;
	keywords: string[];
}

/** The messages of a folder that are known, by their number there. */
export async function followedIn(db: Db, folderId: number): Promise<Map<number, FollowedMessage>> {
	const found = await db('source_item')
		.where({ source_folder_id: folderId })
		.select('uid', { itemId: 'item_id' }, 'flags', 'keywords');
	return new Map(
		found.map(({ keywords, ...message }) => [message.uid, { ...message, keywords: JSON.parse(keywords) as string[] }])
	);
}

/** Forgets messages of a folder, which are no more the items that they were. */
export async function forgetFollowed(db: Db, folderId: number, uids: readonly number[]): Promise<void> {
	await change(db, sql`DELETE FROM source_item WHERE source_folder_id = ${folderId} AND uid IN ${inList(uids)}`);
}

/** Notes messages that a folder does not have any more: their items may lie in another one by now. */
export async function putGone(
	db: Db,
	{ sourceId, folderId, uids }: { sourceId: number; folderId: number; uids: readonly number[] }
): Promise<void> {
	const which = sql`source_folder_id = ${folderId} AND uid IN ${inList(uids)}`;
	await change(
		db,
		sql`INSERT OR IGNORE INTO source_gone (item_id, source_id) SELECT item_id, ${sourceId} FROM source_item WHERE ${which} AND item_id > 0`
	);
	await forgetFollowed(db, folderId, uids);
}

/** An item whose message may have moved to another folder of the server. */
export interface MovedItem {
	id: number;
	messageId: number;
	state: 'live' | 'archived' | 'binned';
	/** The folder here of the server's folder in which it was last. */
	folderId: number;
	/** Whether its state and folder here were decided here, and stand: only its place there is another one. */
	stays: 0 | 1;
	/** Whether its message lies in the former folder as well, marked as deleted. */
	isMarked: 0 | 1;
	/** Whether the server had it no more, or was rid of it by Kovrel, when it was binned. */
	wasMissing: 0 | 1;
	/** Whether it was imported from a file, and the server was never seen to have it. */
	isFromFile: 0 | 1;
}

const IS_NOWHERE = not(IS_ON_SERVER);

interface Among {
	mailboxId: number;
	messageIds: readonly number[];
}

const movedItem = ({
	stays,
	isMarked = sql`0`,
	wasMissing = sql`0`,
	isFromFile = sql`0`
}: {
	stays: Sql;
	isMarked?: Sql;
	wasMissing?: Sql;
	isFromFile?: Sql;
}) =>
	sql`item.id, item.message_id AS messageId, item.state, item.imported_folder_id AS folderId,
		${stays} AS stays, ${isMarked} AS isMarked, ${wasMissing} AS wasMissing, ${isFromFile} AS isFromFile`;

const WAITS_FOR_PLACE = sql`EXISTS (SELECT 1 FROM outbox WHERE outbox.item_id = item.id AND places = 1)`;

/* What is archived stays archived, wherever it lies there; unless it was moved while it was to be removed there. */
const IS_ARCHIVED_FOR_GOOD = sql`item.state = 'archived' AND NOT ${WAITS_FOR_PLACE}`;

/** The items of some messages that are gone from their folders in this pass. */
export async function goneNow(db: Db, sourceId: number, messageIds: readonly number[]): Promise<MovedItem[]> {
	return rows<MovedItem>(
		db,
		sql`SELECT ${movedItem({ stays: IS_ARCHIVED_FOR_GOOD })}
		 FROM source_gone JOIN item ON item.id = item_id
		 WHERE source_id = ${sourceId} AND item.state <> 'destroyed' AND item.message_id IN ${inList(messageIds)} AND ${IS_NOWHERE} ORDER BY item.id`
	);
}

/** The items of some messages that others have marked as deleted wherever they lie there. */
export async function markedEverywhere(db: Db, { mailboxId, messageIds }: Among): Promise<MovedItem[]> {
	return rows<MovedItem>(
		db,
		sql`SELECT ${movedItem({ stays: IS_ARCHIVED_FOR_GOOD, isMarked: sql`1` })}
		 FROM item WHERE item.message_id IN ${inList(messageIds)} AND item.mailbox_id = ${mailboxId} AND item.state <> 'destroyed' AND ${IS_ON_SERVER}
			AND NOT EXISTS (SELECT 1 FROM source_item WHERE source_item.item_id = item.id AND (flags & ${MARKED_DELETED} = 0 OR removal_begun = 1))
		 ORDER BY item.id`
	);
}

/** The items of some messages that are in the bin, and lie on the server in no folder since an earlier pass. */
export async function binnedAndMissing(db: Db, { mailboxId, messageIds }: Among): Promise<MovedItem[]> {
	const wasMissing = sql`item.id IN (SELECT item_id FROM source_removed)
		OR EXISTS (SELECT 1 FROM docket_line WHERE docket_line.docket_id = item.docket_id AND scope ->> 'missingOnServer')`;
	return rows<MovedItem>(
		db,
		sql`SELECT ${movedItem({ stays: sql`0`, wasMissing })}
		 FROM item WHERE item.message_id IN ${inList(messageIds)} AND item.mailbox_id = ${mailboxId} AND item.state = 'binned' AND ${IS_NOWHERE}
			AND item.id NOT IN (SELECT item_id FROM source_gone) AND item.id NOT IN (SELECT item_id FROM outbox)
		 ORDER BY item.id`
	);
}

/**
 * The items of some messages that were imported from files, and that the server was never seen to have; those first whose
 * folder it has not either.
 */
export async function onlyFromFiles(db: Db, { mailboxId, messageIds }: Among): Promise<MovedItem[]> {
	const isUndecided = sql`item.state = 'live' AND item.folder_id = item.imported_folder_id`;
	return rows<MovedItem>(
		db,
		sql`SELECT ${movedItem({ stays: not(isUndecided), isFromFile: sql`1` })}
		 FROM item WHERE item.message_id IN ${inList(messageIds)} AND item.mailbox_id = ${mailboxId} AND item.state IN ('live', 'archived', 'binned')
			AND ${IS_NOWHERE} AND item.id NOT IN (SELECT item_id FROM source_gone)
			AND item.id NOT IN (SELECT item_id FROM source_removed) AND item.id NOT IN (SELECT item_id FROM outbox)
		 ORDER BY item.imported_folder_id IN (SELECT folder_id FROM source_folder), item.id`
	);
}

/** Those messages of a folder whose items lie in other places as well, where they are not marked as deleted. */
export async function copiesOfOthers(db: Db, folderId: number, uids: readonly number[]): Promise<number[]> {
	const found = await rows<{ uid: number }>(
		db,
		sql`SELECT uid FROM source_item here WHERE source_folder_id = ${folderId} AND uid IN ${inList(uids)} AND item_id > 0 AND removal_begun = 0
			AND EXISTS (SELECT 1 FROM source_item other WHERE other.item_id = here.item_id AND other.flags & ${MARKED_DELETED} = 0
				AND other.source_folder_id <> here.source_folder_id)`
	);
	return found.map(({ uid }) => uid);
}

/** Those of some items that lie in the bin by no docket: they came in as deleted. */
export async function binnedByNobody(db: Db, itemIds: readonly number[]): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM item WHERE id IN ${inList(itemIds)} AND state = 'binned' AND docket_id IS NULL ORDER BY id`
	);
	return found.map(({ id }) => id);
}

/** Has items belong to another folder of the server, where that has no item of the same message. @returns how many do */
export async function adopt(db: Db, itemIds: readonly number[], folderId: number): Promise<number> {
	return change(
		db,
		sql`UPDATE OR IGNORE item SET ${setOfItem({ imported_folder_id: sql`${folderId}` })} WHERE id IN ${inList(itemIds)} AND imported_folder_id <> ${folderId}`
	);
}

/** Notes which items the messages of a folder are. @returns the item of each; 0: it is none */
export async function putFollowed(
	db: Db,
	messages: readonly {
		followed: number;
		uid: number;
		messageId: number | undefined;
		folderId: number;
		flags: number;
		keywords: string[];
		/** Seconds since 1970. */
		internalDate: number | undefined;
		/** Which item it is, where that is known. */
		itemId: number | undefined;
	}[]
): Promise<number[]> {
	const items = new Map(
		(
			await rows<{ key: number; id: number }>(
				db,
				sql`SELECT wanted.key, item.id FROM json_each(${JSON.stringify(messages.map(({ messageId, folderId }) => [folderId, messageId ?? 0]))}) wanted
				 CROSS JOIN item ON item.imported_folder_id = wanted.value ->> 0 AND item.message_id = wanted.value ->> 1`
			)
		).map(({ key, id }) => [key, id])
	);
	const itemOf = (at: number) => messages[at]?.itemId ?? items.get(at) ?? 0;
	await insertRows(
		db,
		`INSERT INTO source_item (source_folder_id, uid, item_id, flags, keywords, internal_date)`,
		messages.map(({ followed, uid, flags, keywords, internalDate }, at) => [
			followed,
			uid,
			itemOf(at),
			flags,
			JSON.stringify(keywords),
			internalDate ?? null
		]),
		`ON CONFLICT (source_folder_id, uid) DO UPDATE SET item_id = excluded.item_id, flags = excluded.flags, keywords = excluded.keywords`
	);
	return messages.map((_, at) => itemOf(at));
}

/** Notes the marks that the messages of a folder have now. */
export async function putFollowedMarks(
	db: Db,
	folderId: number,
	messages: readonly Pick<FollowedMessage, 'uid' | 'flags' | 'keywords'>[]
): Promise<void> {
	// the folder stands in each row: as a condition of its own it has all its messages read for each of them
	const json = JSON.stringify(
		messages.map(({ uid, flags, keywords }) => [folderId, uid, flags, JSON.stringify(keywords)])
	);
	await change(
		db,
		sql`UPDATE source_item SET flags = now.value ->> 2, keywords = now.value ->> 3 FROM json_each(${json}) now
		 WHERE source_folder_id = now.value ->> 0 AND uid = now.value ->> 1`
	);
}

/** The items that a whole pass found nowhere, those that are still live here. */
export async function goneForGood(db: Db, sourceId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM source_gone JOIN item ON item.id = item_id
		 WHERE source_id = ${sourceId} AND item.state = 'live' AND ${IS_NOWHERE} ORDER BY 1`
	);
	return found.map(({ id }) => id);
}

/** Forgets what was gone, after it was settled. */
export async function clearGone(db: Db, sourceId: number): Promise<void> {
	await db('source_gone').where({ source_id: sourceId }).delete();
}

/** The place here of a server's folder. */
export async function folderHere(db: Db, followedId: number): Promise<number> {
	return (await db('source_folder').where({ id: followedId }).first('folder_id'))?.folder_id ?? 0;
}

/** What is known of the numbers of a folder; empty: nothing yet. */
export async function numberingOf(db: Db, followedId: number): Promise<string> {
	return (await db('source_folder').where({ id: followedId }).first('uid_validity'))?.uid_validity ?? '';
}

/** Notes that a folder has another path on the server, and that it is as here. */
export async function putFolderPath(db: Db, id: number, path: string, pathHere: string): Promise<void> {
	await db('source_folder').where({ id }).update({ path, path_here: pathHere });
}

/** Forgets folders that a server has no more; their messages were noted as gone. */
export async function removeFollowedFolders(db: Db, ids: readonly number[]): Promise<void> {
	await dropAheadOf(db, ids);
	await db('source_item')
		.whereIn('source_folder_id', [...ids])
		.delete();
	await db('source_folder')
		.whereIn('id', [...ids])
		.delete();
}

/** A change of marks: what was changed on the server is changed here, and nothing else. */
export interface MarkChange {
	itemId: number;
	/** Bits that changed, and what they are now. */
	changed: number;
	now: number;
}

/* A flag that changed, else as it is here: somebody may have set it in Kovrel alone. */
const value = (bit: number) => sql`(marks.value ->> 'now' & ${bit}) <> 0`;
const hasChanged = (bit: number) => sql`(marks.value ->> 'changed' & ${bit}) <> 0`;

/** Takes over marks that were changed on the server. */
export async function putMarks(db: Db, changes: readonly MarkChange[]): Promise<void> {
	if (changes.length === 0) return;
	const json = JSON.stringify(changes);
	const here = { state: sql`item.state`, folder: sql`item.folder_id` };
	await shiftWeights(db, {
		from: sql`json_each(${json}) marks CROSS JOIN item ON item.id = marks.value ->> 'itemId' AND ${hasChanged(1)}`,
		before: { ...here, unread: sql`ifnull(item.seen = 0, 0)` },
		after: { ...here, unread: sql`NOT ${value(1)}` }
	});
	await change(
		db,
		sql`UPDATE item SET ${setOfItem({
			seen: sql`CASE WHEN ${hasChanged(1)} THEN ${value(1)} ELSE item.seen END`,
			answered: sql`CASE WHEN ${hasChanged(2)} THEN ${value(2)} ELSE item.answered END`,
			flagged: sql`CASE WHEN ${hasChanged(4)} THEN ${value(4)} ELSE item.flagged END`,
			draft: sql`CASE WHEN ${hasChanged(8)} THEN ${value(8)} ELSE item.draft END`
		})}
		 FROM json_each(${json}) marks WHERE item.id = marks.value ->> 'itemId'`
	);
}
