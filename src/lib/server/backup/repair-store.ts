import { change, type Db, inList, inTransaction, raw, row, rows, sql } from '../database/index.ts';
import type { SummedTable } from '../mail/index.ts';

/** A content by its number, with the SHA-256 (hexadecimal) of bytes that repair it: its own, or a message's around it. */
export interface WantedContent {
	id: number;
	sha256: string;
}

/** What repairs contents. Their own rows are not read: the index of hashes knows them. */
export async function wantedContents(db: Db, ids: readonly number[]): Promise<WantedContent[]> {
	return rows<WantedContent>(
		db,
		sql`SELECT id, lower(hex(sha256)) AS sha256 FROM content INDEXED BY sqlite_autoindex_content_1 WHERE id IN ${inList(ids)}
		 UNION SELECT part_id, lower(hex(whole.sha256)) FROM content_part JOIN content whole ON whole.id = content_id WHERE part_id IN ${inList(ids)}`
	);
}

/** The number in a backup of the content with a hash. */
export async function contentWithHash(db: Db, sha256: string): Promise<number | undefined> {
	const found = await row<{ id: number }>(db, sql`SELECT id FROM content WHERE sha256 = ${Buffer.from(sha256, 'hex')}`);
	return found?.id;
}

/** The content that a message refers to. */
export async function contentOfMessage(db: Db, id: number): Promise<number | undefined> {
	return (await row<{ id: number }>(db, sql`SELECT content_id AS id FROM message WHERE id = ${id}`))?.id;
}

/** Gives a content another number, as where a message refers to one that is gone. */
export async function renumberContent(db: Db, from: number, to: number): Promise<void> {
	await db.raw('PRAGMA defer_foreign_keys = ON');
	await change(db, sql`UPDATE content SET id = ${to} WHERE id = ${from}`);
	await change(db, sql`UPDATE content_part SET content_id = ${to} WHERE content_id = ${from}`);
}

/** Whether a row is what was written, by its sum. */
export async function isAsWritten(db: Db, table: SummedTable, id: number): Promise<boolean> {
	const compared =
		table === 'item'
			? sql`SELECT now.sum IS item.row_sum AS isSame FROM item JOIN item_now now ON now.id = item.id WHERE item.id = ${id}`
			: sql`SELECT now.sum IS kept.sum AS isSame FROM message_sum kept JOIN message_now now ON now.id = kept.message_id WHERE now.id = ${id}`;
	return (await row<{ isSame: number }>(db, compared))?.isSame === 1;
}

/** The values of a row; undefined: there is none. */
export async function valuesOf(db: Db, table: SummedTable, id: number): Promise<Record<string, unknown> | undefined> {
	return (await db(table).where({ id }).first()) as Record<string, unknown> | undefined;
}

class NotIt extends Error {}

/**
 * Writes values into a damaged row, if they make it what was written.
 *
 * @returns whether they did; else nothing is changed
 */
export async function putIfRight(
	db: Db,
	table: SummedTable,
	id: number,
	values: Readonly<Record<string, unknown>>
): Promise<boolean> {
	try {
		await inTransaction(db, async (within) => {
			const kept =
				table === 'message'
					? await row<{ sum: number }>(within, sql`SELECT sum FROM message_sum WHERE message_id = ${id}`)
					: undefined;
			const changed = await within(table)
				.where({ id })
				.update(values as never);
			// a row that is gone was destroyed meanwhile, unless a message's sum is still there
			if (changed === 0 && (table === 'item' || !kept)) throw new NotIt();
			if (changed === 0) await within(table).insert({ ...values, id } as never);
			// the trigger has followed the change: what counts is the sum of what was written
			if (kept) await putMessageSum(within, id, kept.sum);
			if (!(await isAsWritten(within, table, id))) throw new NotIt();
		});
		return true;
	} catch (error) {
		if (error instanceof NotIt || /^SQLITE_CONSTRAINT/.test((error as { code?: string }).code ?? '')) return false;
		throw error;
	}
}

async function putMessageSum(db: Db, id: number, sum: number): Promise<void> {
	await change(db, sql`UPDATE message_sum SET sum = ${sum} WHERE message_id = ${id}`);
}

/** Takes a message for whole whose values are those of its bytes; what is computed beside them is computed anew. */
export async function putProven(db: Db, id: number): Promise<void> {
	await db('message').where({ id }).update({ body_hash: null });
	await change(
		db,
		sql`UPDATE message_sum SET sum = (SELECT sum FROM message_now WHERE id = ${id}) WHERE message_id = ${id}`
	);
}

/** Whether a file is a data file, by its beginning (https://www.sqlite.org/fileformat.html). */
export const isDataFile = (head: Buffer): boolean => head.toString('latin1', 0, 16) === 'SQLite format 3\0';

/** The columns of a table: a backup may be of an earlier version, and lack some. */
export async function columnsOf(db: Db, table: SummedTable): Promise<string[]> {
	const found = await rows<{ name: string }>(db, sql`SELECT name FROM pragma_table_info(${raw(`'${table}'`)})`);
	return found.map(({ name }) => name);
}
