import { brotliCompressSync, brotliDecompressSync, constants } from 'node:zlib';
import { READING } from '../../../core/message/summary.ts';
import { type Db, insertRows, row, rows, sql } from '../database/index.ts';

const FAST = { params: { [constants.BROTLI_PARAM_QUALITY]: 4 } };
const pack = (text: string) => (text === '' ? null : brotliCompressSync(text, FAST));
const unpack = (text: Buffer | null) => (text === null ? '' : brotliDecompressSync(text).toString('utf8'));

/** Stores the words inside the files of messages. */
export async function putFileTexts(
	db: Db,
	texts: readonly { messageId: number; text: string; outcome: string }[]
): Promise<void> {
	await insertRows(
		db,
		`INSERT INTO file_text (message_id, outcome, text)`,
		texts.map(({ messageId, text, outcome }) => [messageId, outcome, pack(text)])
	);
}

/** The words inside the files of messages, by message; only for those that have any. */
export async function fileTexts(db: Db, messageIds: readonly number[]): Promise<Map<number, string>> {
	const found = await rows<{ messageId: number; text: Buffer }>(
		db,
		sql`SELECT message_id AS messageId, text FROM file_text
		 WHERE message_id IN (SELECT value FROM json_each(${JSON.stringify(messageIds)})) AND text IS NOT NULL`
	);
	return new Map(found.map(({ messageId, text }) => [messageId, unpack(text)]));
}

/* Messages to be read again are left for later: their words are not in the index. */
const WAITS = sql`message.attachments <> '[]' AND message.reading = ${READING} AND NOT EXISTS (SELECT 1 FROM file_text WHERE message_id = message.id)`;

/** Messages with unread files, after a given one. */
export async function filesToRead(db: Db, after: number, limit: number): Promise<{ id: number; contentId: number }[]> {
	return rows(
		db,
		sql`SELECT message.id, content_id AS contentId FROM message WHERE message.id > ${after} AND ${WAITS} ORDER BY message.id LIMIT ${limit}`
	);
}

/** Whether there are any. */
export async function hasFilesToRead(db: Db): Promise<boolean> {
	return (await row(db, sql`SELECT 1 FROM message WHERE ${WAITS} LIMIT 1`)) !== undefined;
}

/** How many there are, and how many failed, by result. */
export async function countFileTexts(db: Db): Promise<{ outcome: string; messages: number }[]> {
	return rows(db, sql`SELECT outcome, count(*) AS messages FROM file_text GROUP BY outcome ORDER BY outcome`);
}
