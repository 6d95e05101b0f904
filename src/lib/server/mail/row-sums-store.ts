import { type Db, inList, row, rows, sql } from '../database/index.ts';

/** Rows that have a sum of their own (migration 040). */
export type SummedTable = 'item' | 'message';

/** A range of rows, both ends with it. */
export interface Range {
	from: number;
	to: number;
}

/* By the sums: a row that is gone has still its own. */
const SUMS = {
	item: sql`SELECT min(item_id) AS "from", max(item_id) AS "to" FROM item_sum`,
	message: sql`SELECT min(message_id) AS "from", max(message_id) AS "to" FROM message_sum`
};

/** The numbers of a table's rows; undefined: it has none. */
export async function idsOf(db: Db, table: SummedTable): Promise<Range | undefined> {
	const found = await row<{ from: number | null; to: number | null }>(db, SUMS[table]);
	return found?.from && found.to ? { from: found.from, to: found.to } : undefined;
}

/** The items and messages of a range that were counted, and those whose rows are not what was written. */
export async function differingRows(
	db: Db,
	table: SummedTable,
	{ from, to }: Range
): Promise<{ rows: number; differing: number[] }> {
	const [sums, now, key] =
		table === 'item'
			? [sql`item_sum`, sql`item_now`, sql`item_id`]
			: [sql`message_sum`, sql`message_now`, sql`message_id`];
	const counted = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM ${sums} WHERE ${key} BETWEEN ${from} AND ${to}`
	);
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT kept.${key} AS id FROM ${sums} kept LEFT JOIN ${now} now ON now.id = kept.${key}
		 WHERE kept.${key} BETWEEN ${from} AND ${to} AND now.sum IS NOT kept.sum
		 UNION ALL SELECT now.id FROM ${now} now WHERE now.id BETWEEN ${from} AND ${to}
			AND NOT EXISTS (SELECT 1 FROM ${sums} kept WHERE kept.${key} = now.id) ORDER BY 1`
	);
	return { rows: counted?.n ?? 0, differing: found.map(({ id }) => id) };
}

/** Messages of a range without their bytes or without their words in the index. */
export async function messagesLackingParts(db: Db, { from, to }: Range): Promise<{ bytes: number[]; words: number[] }> {
	const found = await rows<{ id: number; lacksBytes: number; lacksWords: number }>(
		db,
		sql`SELECT message.id, content.id IS NULL AS lacksBytes, known.id IS NULL AND message.reading >= 0 AS lacksWords
		 FROM message LEFT JOIN content ON content.id = message.content_id LEFT JOIN words_docsize known ON known.id = message.id
		 WHERE message.id BETWEEN ${from} AND ${to} AND (content.id IS NULL OR (known.id IS NULL AND message.reading >= 0))`
	);
	return {
		bytes: found.filter(({ lacksBytes }) => lacksBytes).map(({ id }) => id),
		words: found.filter(({ lacksWords }) => lacksWords).map(({ id }) => id)
	};
}

/** Numbers in the index of words without their message, as a destroyed one's would be. */
export async function wordsWithoutMessage(db: Db): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM words_docsize WHERE NOT EXISTS (SELECT 1 FROM message WHERE message.id = words_docsize.id) LIMIT 1000`
	);
	return found.map(({ id }) => id);
}

/** Whether the index finds a word in a message. */
export async function indexFinds(db: Db, messageId: number, word: string): Promise<boolean> {
	const found = await row(
		db,
		sql`SELECT 1 FROM words WHERE words MATCH ${`"${word.replaceAll('"', '""')}"`} AND rowid = ${messageId}`
	);
	return found !== undefined;
}

/** Messages spread over the mailbox, read by the present reading. */
export async function someMessages(db: Db, at: readonly number[]): Promise<{ id: number; contentId: number }[]> {
	return rows(
		db,
		sql`SELECT id, content_id AS contentId FROM message WHERE id IN ${inList([...at])} AND reading >= 0 ORDER BY id`
	);
}

/** Where damaged mail lies. */
export interface Place {
	subject: string;
	mailbox: string;
	folder: string;
}

/** Where the messages lie that use a content, wholly or as a part. */
export async function placesOfContent(db: Db, contentId: number): Promise<Place[]> {
	return rows<Place>(
		db,
		sql`SELECT subject, mailbox.name AS mailbox, folder.path AS folder FROM message JOIN item ON item.message_id = message.id
			JOIN mailbox ON mailbox.id = item.mailbox_id JOIN folder ON folder.id = item.folder_id
		 WHERE message.content_id IN (SELECT ${contentId} UNION SELECT content_id FROM content_part WHERE part_id = ${contentId}) ORDER BY item.id`
	);
}

/** Where a message lies. */
export async function placesOfMessage(db: Db, messageId: number): Promise<Place[]> {
	return rows<Place>(
		db,
		sql`SELECT subject, mailbox.name AS mailbox, folder.path AS folder FROM item JOIN message ON message.id = item.message_id
			JOIN mailbox ON mailbox.id = item.mailbox_id JOIN folder ON folder.id = item.folder_id
		 WHERE item.message_id = ${messageId} ORDER BY item.id`
	);
}

/** Where an item lies, as far as its row can be read. */
export async function placeOfItem(db: Db, itemId: number): Promise<Place | undefined> {
	return row<Place>(
		db,
		sql`SELECT ifnull(subject, '') AS subject, ifnull(mailbox.name, '') AS mailbox, ifnull(folder.path, '') AS folder
		 FROM item LEFT JOIN message ON message.id = item.message_id LEFT JOIN mailbox ON mailbox.id = item.mailbox_id
			LEFT JOIN folder ON folder.id = item.folder_id WHERE item.id = ${itemId}`
	);
}
