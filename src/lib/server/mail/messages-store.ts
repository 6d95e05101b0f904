import { READING } from '../../../core/message/summary.ts';
import { organisationOf } from '../../../core/message/addresses.ts';
import { indexText } from '../../../core/search/words.ts';
import {
	change,
	type Db,
	inList,
	insertRows,
	inTransaction,
	join,
	raw,
	row,
	rows,
	setOfItem,
	sql
} from '../database/index.ts';
import { fileTexts, putFileTexts } from './file-texts-store.ts';
import { putLists, updateLists } from './message-lists-store.ts';
import { type MessageRows, READ_COLUMNS, WORD_COLUMNS } from './message-rows.ts';
import { shiftWeights } from './weights-store.ts';

/* The words of a message in the index. @param inside words inside its files */
function wordsRow(id: number, { words, fileNames }: MessageRows, inside = ''): unknown[] {
	return [id, ...words, indexText(inside === '' ? fileNames : `${fileNames}\n${inside}`)];
}

/** A message with the values read from its bytes. */
export interface ReadMessage {
	id: number;
	read: MessageRows;
}

/** A message to be stored: its content and the values read from it. */
export interface NewMessage {
	contentId: number;
	read: MessageRows;
}

const hasFiles = ({ read }: ReadMessage) => read.fileNames !== '';

/** Adds the words of messages to the index, with those of their files that have been read. */
export async function putWords(db: Db, messages: readonly ReadMessage[]): Promise<void> {
	const inside = await insideOf(db, messages);
	await insertRows(
		db,
		`INSERT INTO words (${WORD_COLUMNS})`,
		messages.map(({ id, read }) => wordsRow(id, read, inside.get(id)))
	);
	await insertRows(
		db,
		`INSERT INTO file_names (rowid, names)`,
		messages.filter(hasFiles).map(({ id, read }) => [id, read.fileNames])
	);
}

/* Only messages with files can have words in them. */
function insideOf(db: Db, messages: readonly ReadMessage[]): Promise<Map<number, string>> {
	return fileTexts(
		db,
		messages.filter(hasFiles).map(({ id }) => id)
	);
}

/**
 * Removes the words of messages from the index. It keeps no text, so that the messages have to be read again by the
 * same reading.
 */
export async function deleteWords(db: Db, messages: readonly ReadMessage[]): Promise<void> {
	const inside = await insideOf(db, messages);
	await insertRows(
		db,
		`INSERT INTO words (words, ${WORD_COLUMNS})`,
		messages.map(({ id, read }) => ['delete', ...wordsRow(id, read, inside.get(id))])
	);
	await insertRows(
		db,
		`INSERT INTO file_names (file_names, rowid, names)`,
		messages.filter(hasFiles).map(({ id, read }) => ['delete', id, read.fileNames])
	);
}

/** Those of the messages that have words in the index. */
export async function indexedAmong(db: Db, ids: readonly number[]): Promise<number[]> {
	const found = await rows<{ id: number }>(db, sql`SELECT id FROM words_docsize WHERE id IN ${inList(ids)}`);
	return found.map(({ id }) => id);
}

/* Pages of the index that one statement merges: some tens of milliseconds. */
const MERGED_PAGES = 1_000;

/**
 * Merges the index of words into one segment, as far as it is not, in short transactions (SQLite's documentation on
 * FTS5, section 6.8). Removing a word is looked for in each segment: from one, it takes a third of the time.
 *
 * @param signal stops it between two transactions
 */
export async function mergeWords(db: Db, signal: AbortSignal): Promise<void> {
	// a negative number begins the merge of all segments, a positive one continues it
	for (let pages = -MERGED_PAGES; !signal.aborted; pages = MERGED_PAGES)
		if ((await inTransaction(db, (trx) => mergeSome(trx, pages))) < 2) return;
}

/* @returns how many rows changed: less than two, there was nothing to merge */
async function mergeSome(db: Db, pages: number): Promise<number> {
	const changes = async () => (await row<{ n: number }>(db, sql`SELECT total_changes() AS n`))?.n ?? 0;
	const before = await changes();
	await change(db, sql`INSERT INTO words (words, rank) VALUES ('merge', ${pages})`);
	return (await changes()) - before;
}

/** How many messages the index has. */
export async function countIndexed(db: Db): Promise<number> {
	return (await row<{ n: number }>(db, sql`SELECT count(*) AS n FROM words_docsize`))?.n ?? 0;
}

/** Those of the messages that exist and are in the index by this reading. */
export async function inTheIndex(db: Db, ids: readonly number[]): Promise<Set<number>> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM message WHERE reading = ${READING} AND id IN (SELECT value FROM json_each(${JSON.stringify(ids)}))`
	);
	return new Set(found.map(({ id }) => id));
}

/** How many messages have an earlier reading. */
export async function countToReadAgain(db: Db): Promise<number> {
	const found = await row<{ n: number }>(db, sql`SELECT count(*) AS n FROM message WHERE reading < ${READING}`);
	return found?.n ?? 0;
}

/** Messages with an earlier reading, ordered by number. */
export async function messagesToReadAgain(db: Db, limit: number): Promise<{ id: number; contentId: number }[]> {
	return db('message')
		.where('reading', '<', READING)
		.orderBy('id')
		.limit(limit)
		.select('id', { contentId: 'content_id' });
}

/** Whether the index has words of an earlier reading. */
export async function anotherReadingIsIndexed(db: Db): Promise<boolean> {
	return (await row(db, sql`SELECT 1 FROM message WHERE reading < ${READING} AND reading >= 0 LIMIT 1`)) !== undefined;
}

/** Marks messages that cannot be read better. */
export async function markAsRead(db: Db, ids: readonly number[]): Promise<void> {
	await change(
		db,
		sql`UPDATE message SET reading = ${READING} WHERE reading < ${READING} AND id IN (SELECT value FROM json_each(${JSON.stringify(ids)}))`
	);
}

/** Empties the index of words: those of an earlier reading cannot be removed one by one. */
export async function emptyWords(db: Db): Promise<void> {
	for (const index of ['words', 'file_names'])
		await change(db, sql`INSERT INTO ${raw(index)} (${raw(index)}) VALUES ('delete-all')`);
	await db('message').update({ reading: -1 });
}

/** Replaces the values of an earlier reading of messages. Needs a transaction. */
export async function putReadAgain(db: Db, messages: readonly ReadMessage[]): Promise<void> {
	const ids = JSON.stringify(messages.map(({ id }) => id));
	const from = sql`item WHERE item.message_id IN (SELECT value FROM json_each(${ids})) AND item.state <> 'destroyed'`;
	const counted = { state: sql`item.state`, folder: sql`item.folder_id` };
	await shiftWeights(db, { from, before: counted, after: undefined });
	for (const { id, read } of messages) {
		await change(db, sql`UPDATE message SET (${raw(READ_COLUMNS)}) = (${join([...read.columns])}) WHERE id = ${id}`);
		const set = setOfItem({
			mail_kind: sql`${read.mailKind}`,
			importance: sql`${read.importance}`,
			thread_id: sql`NULL`,
			reference_set: sql`NULL`
		});
		await change(db, sql`UPDATE item SET ${set} WHERE message_id = ${id}`);
	}
	await shiftWeights(db, { from, before: undefined, after: counted });
	const lists = await putLists(
		db,
		messages.map(({ read }) => read.list)
	);
	await updateLists(
		db,
		messages.map(({ id, read }) => ({ messageId: id, listId: lists.get(read.list.listId) ?? null }))
	);
	await putWords(db, messages);
}

/**
 * Stores messages, each content only once, and adds the words of new ones to the index.
 *
 * @returns the id of each, in the order given
 */
export async function putMessages(db: Db, messages: readonly NewMessage[]): Promise<number[]> {
	const once = [...new Map(messages.map((message) => [message.contentId, message])).values()];
	if (once.length === 0) return [];
	const added = await insertRows(
		db,
		`INSERT INTO message (content_id, ${READ_COLUMNS})`,
		once.map(({ contentId, read }) => [contentId, ...read.columns]),
		`ON CONFLICT (content_id) DO NOTHING`
	);
	const ids = new Map<number, number>();
	const fresh = once.flatMap(({ contentId, read }, at): ReadMessage[] => {
		const id = added[at];
		if (id === undefined) return [];
		ids.set(contentId, id);
		return [{ id, read }];
	});
	await putWords(db, fresh);
	// files without a reader need no reading
	await putFileTexts(
		db,
		fresh
			.filter((message) => hasFiles(message) && !message.read.readableFiles)
			.map(({ id }) => ({ messageId: id, text: '', outcome: 'nothing' }))
	);
	if (ids.size < once.length) {
		const known = await rows<{ id: number; content_id: number }>(
			db,
			sql`SELECT id, content_id FROM message WHERE content_id IN (SELECT value FROM json_each(${JSON.stringify(once.map(({ contentId }) => contentId).filter((contentId) => !ids.has(contentId)))}))`
		);
		for (const { id, content_id } of known) ids.set(content_id, id);
	}
	return messages.map(({ contentId }) => ids.get(contentId) as number);
}

/** A sender and the organisation. */
export interface Correspondent {
	id: number;
	organisationId: number;
}

/**
 * The correspondents with some addresses, created if new; the first name seen with an address is kept.
 *
 * @returns by address
 */
export async function putCorrespondents(
	db: Db,
	people: readonly { name: string; address: string }[]
): Promise<Map<string, Correspondent>> {
	const byAddress = new Map<string, string>();
	for (const { name, address } of people) if (!byAddress.get(address)) byAddress.set(address, name);
	const entries = [...byAddress].map(([address, name]) => ({ address, name, domain: organisationOf(address) }));
	const json = JSON.stringify(entries);
	await change(
		db,
		sql`INSERT INTO organisation (domain) SELECT DISTINCT value ->> 'domain' FROM json_each(${json}) WHERE true ON CONFLICT (domain) DO NOTHING`
	);
	await change(
		db,
		sql`INSERT INTO correspondent (address, name, organisation_id)
		 SELECT value ->> 'address', value ->> 'name', organisation.id
		 FROM json_each(${json}) JOIN organisation ON organisation.domain = value ->> 'domain'
		 WHERE true ON CONFLICT (address) DO UPDATE SET name = excluded.name WHERE name = '' AND excluded.name <> ''`
	);
	const found = await rows<{ id: number; address: string; organisationId: number }>(
		db,
		sql`SELECT id, address, organisation_id AS organisationId FROM correspondent
		 WHERE address IN (SELECT value ->> 'address' FROM json_each(${json}))`
	);
	return new Map(found.map(({ id, address, organisationId }) => [address, { id, organisationId }]));
}

/** One item with the facts of its message. */
export interface ItemDetails {
	id: number;
	mailboxId: number;
	mailbox: string;
	state: string;
	folder: string;
	origin: string | null;
	receivedAt: number | null;
	receivedOn: string | null;
	dateInDoubt: number;
	bytes: number;
	seen: number | null;
	answered: number;
	flagged: number;
	contentId: number;
	messageId: string;
	subject: string;
	fromName: string;
	fromAddress: string;
	recipients: string;
	/** Its list; empty if it is from none. */
	list: string;
	/** The number of its list; null if it is from none. */
	listId: number | null;
	/** The number of its thread; null until it is threaded. */
	threadId: number | null;
	/** How many other items have the same message (invariant 4). */
	elsewhere: number;
	/** What its mail server said against showing it as it is here; empty: it has still to; null: nothing waits. */
	waits: string | null;
}

/** The other items of the same message. */
export async function otherItems(db: Db, id: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT other.id FROM item JOIN item other ON other.message_id = item.message_id AND other.id <> item.id
		 WHERE item.id = ${id} AND other.state <> 'destroyed' LIMIT 1000`
	);
	return found.map((other) => other.id);
}

/** One item; undefined if there is none, or it was destroyed. */
export async function getItem(db: Db, id: number): Promise<ItemDetails | undefined> {
	return row<ItemDetails>(
		db,
		sql`SELECT item.id, item.mailbox_id AS mailboxId, mailbox.name AS mailbox, item.state, folder.path AS folder,
			origin.path AS origin, received_at AS receivedAt, received_on AS receivedOn, date_in_doubt AS dateInDoubt,
			bytes, seen, answered, flagged, content_id AS contentId, message.message_id AS messageId, subject,
			from_name AS fromName, from_address AS fromAddress, recipients, message.list_id AS list, item.list_id AS listId,
			item.thread_id AS threadId,
			(SELECT count(*) FROM item other WHERE other.message_id = item.message_id AND other.id <> item.id
				AND other.state <> 'destroyed') AS elsewhere,
			(SELECT ifnull(trouble, '') FROM outbox WHERE outbox.item_id = item.id) AS waits
		 FROM item JOIN message ON message.id = item.message_id JOIN mailbox ON mailbox.id = item.mailbox_id
			JOIN folder ON folder.id = item.folder_id LEFT JOIN folder origin ON origin.id = item.origin_folder_id
		 WHERE item.id = ${id} AND item.state <> 'destroyed'`
	);
}
