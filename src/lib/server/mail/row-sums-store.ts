import { READING } from '../../../core/message/summary.ts';
import { type Db, inList, type Range, row, rows, sql, within } from '../database/index.ts';

/** Rows that have a sum of their own (migration 040). */
export type SummedTable = 'item' | 'message';

/* By the table, and by what else knows its numbers: pages of either may be broken. */
const NUMBERS = {
	item: sql`SELECT min(id) AS "from", max(id) AS "to" FROM item NOT INDEXED`,
	message: sql`SELECT min(message_id) AS "from", max(message_id) AS "to" FROM message_sum`
};

const NUMBERS_BESIDE = {
	item: sql`SELECT min(id) AS "from", max(id) AS "to" FROM item INDEXED BY item_by_message`,
	message: sql`SELECT min(id) AS "from", max(id) AS "to" FROM message NOT INDEXED`
};

/**
 * The numbers of a table's rows; undefined: it has none.
 *
 * @param beside by what else knows them
 */
export async function idsOf(
	db: Db,
	table: SummedTable,
	{ beside = false }: { beside?: boolean } = {}
): Promise<Range | undefined> {
	const found = await row<{ from: number | null; to: number | null }>(db, (beside ? NUMBERS_BESIDE : NUMBERS)[table]);
	return found?.from && found.to ? { from: found.from, to: found.to } : undefined;
}

/** Those of the numbers that are rows of a table, as an index knows them. */
export async function knownRows(db: Db, table: SummedTable, ids: readonly number[]): Promise<number[]> {
	const known =
		table === 'item'
			? sql`SELECT id FROM item INDEXED BY item_by_message WHERE id IN ${inList(ids)}`
			: sql`SELECT message_id AS id FROM message_sum WHERE message_id IN ${inList(ids)}`;
	return (await rows<{ id: number }>(db, known)).map(({ id }) => id);
}

/** How many items or messages of a range there are, and those whose rows are not what was written. */
export async function differingRows(
	db: Db,
	table: SummedTable,
	range: Range
): Promise<{ rows: number; differing: number[] }> {
	const compared =
		table === 'item'
			? sql`SELECT item.id, now.sum IS NOT item.row_sum AS differs FROM item JOIN item_now now ON now.id = item.id WHERE ${within('item.id', range)}`
			: sql`SELECT kept.message_id AS id, now.sum IS NOT kept.sum AS differs FROM message_sum kept LEFT JOIN message_now now ON now.id = kept.message_id
				WHERE ${within('kept.message_id', range)}`;
	const found = await rows<{ id: number; differs: number }>(
		db,
		sql`WITH compared AS MATERIALIZED (${compared})
		 SELECT id, differs FROM compared WHERE differs UNION ALL SELECT count(*), -1 FROM compared`
	);
	return {
		rows: found.find(({ differs }) => differs === -1)?.id ?? 0,
		differing: found.filter(({ differs }) => differs === 1).map(({ id }) => id)
	};
}

/** Messages of a range without their bytes or without their words in the index. */
export async function messagesLackingParts(db: Db, range: Range): Promise<{ bytes: number[]; words: number[] }> {
	const found = await rows<{ id: number; lacksBytes: number; lacksWords: number }>(
		db,
		sql`SELECT message.id, content.id IS NULL AS lacksBytes, known.id IS NULL AND message.reading >= 0 AS lacksWords
		 FROM message LEFT JOIN content ON content.id = message.content_id LEFT JOIN words_docsize known ON known.id = message.id
		 WHERE ${within('message.id', range)} AND (content.id IS NULL OR (known.id IS NULL AND message.reading >= 0))`
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

/** Whether the index finds all of some words in a message. */
export async function indexFinds(db: Db, messageId: number, words: readonly string[]): Promise<boolean> {
	if (words.length === 0) return true;
	const all = words.map((word) => `"${word.replaceAll('"', '""')}"`).join(' ');
	const found = await row(db, sql`SELECT 1 FROM words WHERE words MATCH ${all} AND rowid = ${messageId}`);
	return found !== undefined;
}

/** Messages spread over the mailbox, read by the present reading. */
export async function someMessages(db: Db, at: readonly number[]): Promise<{ id: number; contentId: number }[]> {
	return rows(
		db,
		sql`SELECT id, content_id AS contentId FROM message WHERE id IN ${inList(at)} AND reading = ${READING} ORDER BY id`
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
