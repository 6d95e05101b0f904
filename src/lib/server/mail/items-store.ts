import type { CalendarDate } from '../../../core/calendar.ts';
import type { DueAction } from '../../../core/retention/terms.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import type { ItemState } from '../../../core/docket/decision.ts';
import {
	all,
	type Condition,
	type Db,
	getSetting,
	inList,
	insertRows,
	isBrokenPage,
	putSetting,
	raw,
	row,
	rows,
	sql
} from '../database/index.ts';
import { HELD } from './item-marks-store.ts';
import { shiftWeights } from './weights-store.ts';

/** A new item. */
export interface NewItem {
	mailboxId: number;
	messageId: number;
	state: Extract<ItemState, 'live' | 'binned'>;
	folderId: number;
	/** Its folder in the source: it is not added twice there. */
	importedFolderId: number;
	/** The folder to which a binned item is restored. */
	originFolderId: number | undefined;
	receivedAt: number | undefined;
	receivedOn: string | undefined;
	dateInDoubt: boolean;
	bytes: number;
	seen: boolean | undefined;
	answered: boolean;
	flagged: boolean;
	draft: boolean;
	attachments: number;
	/** Bits of core/message/kinds. */
	attachmentKinds: number;
	correspondentId: number;
	organisationId: number;
	/** Undefined: from no list. */
	listId: number | undefined;
	/** Number of core/message/mail-kind. */
	mailKind: number;
	/** 1, 0 or -1. */
	importance: number;
	/** The instant from which the bin counts its days. */
	binnedOn: string | undefined;
}

/*
 * Dockets, certificates, standing decisions and mail servers know items by their numbers: that of a destroyed one is never
 * given again, though SQLite would give the highest one.
 */
const LAST_DESTROYED = 'last-destroyed-item';

/* The highest number of a destroyed item, if no item has a higher one: SQLite would give it again. */
async function lastDestroyed(db: Db): Promise<number | undefined> {
	const last = Number((await getSetting(db, LAST_DESTROYED)) ?? 0);
	if (last === 0) return undefined;
	const found = await row<{ id: number | null }>(db, sql`SELECT max(id) AS id FROM item`);
	return (found?.id ?? 0) < last ? last : undefined;
}

/** Notes the highest number of an item, before items are destroyed. */
export async function keepItemNumbers(db: Db): Promise<void> {
	const found = await row<{ id: number | null }>(db, sql`SELECT max(id) AS id FROM item`);
	const last = Number((await getSetting(db, LAST_DESTROYED)) ?? 0);
	if (found?.id && found.id > last) await putSetting(db, LAST_DESTROYED, String(found.id));
}

function itemRow(item: NewItem): unknown[] {
	const flag = (value: boolean | undefined) => (value === undefined ? null : Number(value));
	return [
		item.mailboxId,
		item.messageId,
		item.state,
		item.folderId,
		item.originFolderId ?? null,
		item.importedFolderId,
		item.receivedAt ?? null,
		item.receivedOn ?? null,
		flag(item.dateInDoubt),
		item.bytes,
		flag(item.seen),
		flag(item.answered),
		flag(item.flagged),
		flag(item.draft),
		item.attachments,
		item.attachmentKinds,
		item.correspondentId,
		item.organisationId,
		item.listId ?? null,
		item.mailKind,
		item.importance,
		item.binnedOn ?? null
	];
}

/**
 * Stores new items; those imported into the same folder before are skipped, wherever they are now.
 *
 * @returns how many were new
 */
export async function addItems(db: Db, items: readonly NewItem[]): Promise<number> {
	if (items.length === 0) return 0;
	const last = await lastDestroyed(db);
	const added = await insertRows(
		db,
		`INSERT INTO item (id, mailbox_id, message_id, state, folder_id, origin_folder_id, imported_folder_id, received_at,
			received_on, date_in_doubt, bytes, seen, answered, flagged, draft, attachments, attachment_kinds, correspondent_id,
			organisation_id, list_id, mail_kind, importance, binned_on)`,
		items.map((item, at) => [last === undefined ? null : last + at + 1, ...itemRow(item)]),
		`ON CONFLICT (imported_folder_id, message_id) DO NOTHING`
	);
	return countIn(
		db,
		added.filter((id) => id !== undefined)
	);
}

/* New items count in the summaries at once. */
async function countIn(db: Db, ids: readonly number[]): Promise<number> {
	if (ids.length > 0)
		await shiftWeights(db, {
			from: sql`item WHERE item.id IN ${inList(ids)}`,
			before: undefined,
			after: { state: sql`item.state`, folder: sql`item.folder_id` }
		});
	return ids.length;
}

/**
 * Stores the messages of items again, as live items of another folder; those copied there before are skipped.
 *
 * @returns how many were new
 */
export async function addItemsLike(
	db: Db,
	ids: readonly number[],
	{ mailboxId, folderId }: { mailboxId: number; folderId: number }
): Promise<number> {
	const last = await lastDestroyed(db);
	const added = await rows<{ id: number }>(
		db,
		sql`INSERT INTO item (id, mailbox_id, message_id, state, folder_id, imported_folder_id, received_at, received_on, date_in_doubt,
			bytes, seen, answered, flagged, draft, attachments, attachment_kinds, correspondent_id, organisation_id, list_id, mail_kind, importance)
		 SELECT ${last ?? null} + row_number() OVER (ORDER BY id), ${mailboxId}, message_id, 'live', ${folderId}, ${folderId}, received_at, received_on, date_in_doubt, bytes, seen, answered, flagged, draft,
			attachments, attachment_kinds, correspondent_id, organisation_id, list_id, mail_kind, importance
		 FROM item WHERE id IN (SELECT value FROM json_each(${JSON.stringify(ids)}))
		 ON CONFLICT (imported_folder_id, message_id) DO NOTHING RETURNING id`
	);
	return countIn(
		db,
		added.map(({ id }) => id)
	);
}

/** An item as it is exported. */
export interface ExportedItem {
	id: number;
	mailboxId: number;
	mailbox: string;
	state: ItemState;
	bytes: number;
	contentId: number;
	/** In hexadecimal digits; '' where the bytes are not there. */
	sha256: string;
	messageId: string;
	subject: string;
	fromName: string;
	fromAddress: string;
	recipients: string;
	receivedAt: number | null;
	receivedOn: string | null;
	folder: string;
	seen: number | null;
	answered: number;
	flagged: number;
	draft: number;
}

/** The items with these ids, in the order of the list; also those whose bytes are damaged or gone. */
export async function itemsById(db: Db, ids: readonly number[]): Promise<ExportedItem[]> {
	try {
		return await itemsWithHash(db, ids);
	} catch (error) {
		if (!isBrokenPage(error)) throw error;
		if (ids.length > 1) {
			const found: ExportedItem[] = [];
			for (const id of ids) found.push(...(await itemsById(db, [id])));
			return found;
		}
		return itemsWithHash(db, ids, { isHashRead: false });
	}
}

/* A broken page of contents hides the hashes on it. */
async function itemsWithHash(
	db: Db,
	ids: readonly number[],
	{ isHashRead = true }: { isHashRead?: boolean } = {}
): Promise<ExportedItem[]> {
	const hash = isHashRead
		? sql`ifnull((SELECT lower(hex(sha256)) FROM content WHERE content.id = message.content_id), '')`
		: sql`''`;
	return rows<ExportedItem>(
		db,
		sql`SELECT item.id, item.mailbox_id AS mailboxId, mailbox.name AS mailbox, item.state, item.bytes,
			message.content_id AS contentId, ${hash} AS sha256, message.message_id AS messageId, subject,
			from_name AS fromName, from_address AS fromAddress, recipients, received_at AS receivedAt,
			received_on AS receivedOn, folder.path AS folder, seen, answered, flagged, draft
		 FROM json_each(${JSON.stringify(ids)}) wanted CROSS JOIN item ON item.id = wanted.value JOIN message ON message.id = item.message_id
			JOIN mailbox ON mailbox.id = item.mailbox_id
			JOIN folder ON folder.id = item.folder_id ORDER BY wanted.key`
	);
}

/** The ids of existing items by mailbox and folder path. */
export async function itemIdsInOrder(
	db: Db,
	selected: { ids?: readonly number[]; mailboxId?: number | undefined; folderIds?: readonly number[] | undefined }
): Promise<number[]> {
	const { ids, mailboxId, folderIds } = selected;
	const conditions = [
		sql`item.state <> 'destroyed'`,
		...(ids ? [sql`item.id IN ${inList(ids)}`] : []),
		...(mailboxId === undefined ? [] : [sql`item.mailbox_id = ${mailboxId}`]),
		...(folderIds ? [sql`item.folder_id IN ${inList(folderIds)}`] : [])
	];
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM item JOIN folder ON folder.id = item.folder_id
		 WHERE ${all(conditions)} ORDER BY item.mailbox_id, folder.path, item.id`
	);
	return found.map(({ id }) => id);
}

/** The first unthreaded item of a mailbox: all after it are new. */
export async function firstItemNotThreaded(db: Db, mailboxId: number): Promise<number | undefined> {
	const [found] = await rows<{ id: number | null }>(
		db,
		sql`SELECT min(id) AS id FROM item WHERE mailbox_id = ${mailboxId} AND thread_id IS NULL`
	);
	return found?.id ?? undefined;
}

/** An item in a list. */
export interface ItemRow {
	id: number;
	mailboxId: number;
	receivedOn: string | null;
	dateInDoubt: number;
	fromName: string;
	fromAddress: string;
	subject: string;
	folder: string;
	bytes: number;
	attachments: number;
	seen: number | null;
	flagged: number;
	kept: number;
	pauseId: number | null;
	/** Whether it is under a hold. */
	held: number;
	binnedOn: string | null;
	/** The folder to which it is restored. */
	origin: string | null;
	messageId: string;
	/** Number of core/retention/classes. */
	class: number;
	/** Its retention and its next disposition. */
	retentionId: number | null;
	/** Code of its series; null without one. */
	series: string | null;
	dueOn: CalendarDate | null;
	dueAction: DueAction | null;
}

/** A page of the items under a condition, the newest first, and their number. */
export async function itemsWhere(
	db: Db,
	condition: Condition,
	limit: number,
	offset: number,
	order = sql`item.received_on DESC, item.received_at DESC, item.id DESC`
): Promise<{ items: ItemRow[]; total: number }> {
	const items = await rows<ItemRow>(
		db,
		sql`SELECT item.id, item.mailbox_id AS mailboxId, received_on AS receivedOn, date_in_doubt AS dateInDoubt,
			from_name AS fromName, from_address AS fromAddress, subject, folder.path AS folder, bytes, item.attachments, seen,
			flagged, kept, pause_id AS pauseId, ${HELD} AS held, binned_on AS binnedOn, origin.path AS origin,
			message.message_id AS messageId, item.class, item.retention_id AS retentionId, item.due_on AS dueOn, item.due_action AS dueAction,
			(SELECT code FROM retention JOIN series ON series.id = series_id WHERE retention.id = item.retention_id) AS series
		 FROM (SELECT item.id, row_number() OVER () AS place FROM (
			SELECT item.id FROM item WHERE ${condition} ORDER BY ${order} LIMIT ${limit} OFFSET ${offset}) item) page
		 CROSS JOIN item ON item.id = page.id JOIN message ON message.id = item.message_id
		 JOIN folder ON folder.id = item.folder_id LEFT JOIN folder origin ON origin.id = item.origin_folder_id
		 ORDER BY page.place`
	);
	const [counted] = await rows<{ n: number }>(db, sql`SELECT count(*) AS n FROM item WHERE ${condition}`);
	return { items, total: counted?.n ?? 0 };
}

/** Whether a mailbox has folders or messages that are never archived. */
export async function hasNeverArchived(db: Db, mailboxId: number): Promise<boolean> {
	const found = await row(
		db,
		sql`SELECT 1 FROM folder WHERE mailbox_id = ${mailboxId} AND never_archived = 1
		 UNION ALL SELECT 1 FROM item WHERE mailbox_id = ${mailboxId} AND never_archived = 1 LIMIT 1`
	);
	return found !== undefined;
}

/** How many items meet a condition, and their bytes. */
export async function weighItems(db: Db, condition: Condition): Promise<Weight> {
	const found = await row<Weight>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(item.bytes), 0) AS bytes FROM item WHERE ${condition}`
	);
	return found ?? { messages: 0, bytes: 0 };
}

/** The roles of the folders of some items, and whether the items are kept. */
export async function folderOfItems(
	db: Db,
	ids: readonly number[]
): Promise<Map<number, { role: string | null; kept: number }>> {
	const found = await rows<{ id: number; role: string | null; kept: number }>(
		db,
		sql`SELECT item.id, folder.role, item.kept FROM json_each(${JSON.stringify(ids)}) wanted CROSS JOIN item ON item.id = wanted.value
			JOIN folder ON folder.id = item.folder_id`
	);
	return new Map(found.map(({ id, ...place }) => [id, place]));
}

/** The lowest and the highest item number of a mailbox; 1 and 0 if it has none. */
export async function itemRange(db: Db, mailboxId: number): Promise<{ first: number; last: number }> {
	const end = async (which: 'min' | 'max') =>
		(
			await rows<{ id: number | null }>(
				db,
				sql`SELECT ${raw(which)}(id) AS id FROM item WHERE mailbox_id = ${mailboxId}`
			)
		)[0]?.id;
	return { first: (await end('min')) ?? 1, last: (await end('max')) ?? 0 };
}
