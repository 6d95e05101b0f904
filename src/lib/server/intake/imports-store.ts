import { change, type Db, idOf, insertRows, row, rows, sql } from '../database/index.ts';

/** The counts of an import: read = added + already + unreadable (invariant 14). */
export interface ImportCounts {
	read: number;
	added: number;
	/** Existed before. */
	already: number;
	/** Kept raw, without an item. */
	unreadable: number;
	bytes: number;
}

/** An odd message of an import. */
export interface Oddity {
	contentId: number;
	/** File name, with the offset in a file with many messages. */
	place: string;
	reason: string;
}

/** The identity of an import: the same one is continued after an interruption. */
export interface ImportKey {
	mailboxId: number;
	path: string;
	folder: string;
	/** A hash of the names, sizes and versions of the files: a changed source is read from its beginning. */
	fingerprint: string;
}

/** After this many bytes of the file with that number. */
export interface ImportPosition {
	file: number;
	offset: number;
}

/** Stores the beginning of an import. */
export async function addImport(db: Db, key: ImportKey, source: string, at: Date): Promise<number> {
	return idOf(
		db('import').insert({
			mailbox_id: key.mailboxId,
			path: key.path,
			folder: key.folder,
			fingerprint: key.fingerprint,
			source,
			process: process.pid,
			state: 'running',
			began_at: at.toISOString()
		})
	);
}

/* Whether a process of this machine is running; the data folder is local. */
function isRunning(pid: number): boolean {
	try {
		process.kill(pid, 0);
		return true;
	} catch (error) {
		return (error as NodeJS.ErrnoException).code === 'EPERM';
	}
}

/** The same import, if it was stopped or interrupted, and where it continues; this process takes it over. */
export async function takeUnfinishedImport(
	db: Db,
	key: ImportKey
): Promise<{ id: number; position: ImportPosition } | undefined> {
	const found = await db('import')
		.where({ mailbox_id: key.mailboxId, path: key.path, folder: key.folder, fingerprint: key.fingerprint })
		.orderBy('id', 'desc')
		.first('id', 'state', 'process', { file: 'next_file', offset: 'next_offset' });
	if (!found || found.state === 'done') return undefined;
	if (found.state === 'running' && found.process !== process.pid && isRunning(found.process)) return undefined;
	await db('import').where({ id: found.id }).update({ state: 'running', process: process.pid, ended_at: null });
	return { id: found.id, position: { file: found.file, offset: found.offset } };
}

/** Whether mail of a mailbox came from anywhere else than from one source. */
export async function hasOtherImports(db: Db, mailboxId: number, source: string): Promise<boolean> {
	return (await db('import').where({ mailbox_id: mailboxId }).whereNot({ source }).first('id')) !== undefined;
}

/** Adds a batch to an import: its counts, and where to continue after it. Part of the batch's transaction. */
export async function addImportCounts(db: Db, id: number, counts: ImportCounts, next: ImportPosition): Promise<void> {
	await change(
		db,
		sql`UPDATE import SET "read" = "read" + ${counts.read}, added = added + ${counts.added}, already = already + ${counts.already}, unreadable = unreadable + ${counts.unreadable},
			bytes = bytes + ${counts.bytes}, next_file = ${next.file}, next_offset = ${next.offset} WHERE id = ${id}`
	);
}

/** Stores the end of an import. */
export async function endImport(db: Db, id: number, state: 'done' | 'stopped', at: Date): Promise<void> {
	await db('import').where({ id }).update({ state, ended_at: at.toISOString() });
}

/** The counts of an import. */
export async function getImportCounts(db: Db, id: number): Promise<ImportCounts> {
	const found = await db('import').where({ id }).first('read', 'added', 'already', 'unreadable', 'bytes');
	return found ?? { read: 0, added: 0, already: 0, unreadable: 0, bytes: 0 };
}

/** Lists odd messages. */
export async function addOddities(db: Db, importId: number, oddities: readonly Oddity[]): Promise<void> {
	await insertRows(
		db,
		`INSERT INTO import_oddity (import_id, content_id, place, reason)`,
		oddities.map(({ contentId, place, reason }) => [importId, contentId, place, reason])
	);
}

/** An import in the list. */
export interface ImportReport extends ImportCounts {
	id: number;
	mailboxId: number;
	source: string;
	state: string;
	beganAt: string;
	endedAt: string | null;
	odd: number;
}

/** Imports, the newest first. */
export async function listImports(db: Db, limit: number): Promise<ImportReport[]> {
	return rows<ImportReport>(
		db,
		sql`SELECT id, mailbox_id AS mailboxId, source, state, began_at AS beganAt, ended_at AS endedAt, "read", added, already,
			unreadable, bytes, (SELECT count(*) FROM import_oddity WHERE import_id = import.id) AS odd
		 FROM import ORDER BY id DESC LIMIT ${limit}`
	);
}

/** A page of the odd messages of an import. */
export async function listOddities(
	db: Db,
	importId: number,
	limit: number,
	after = 0
): Promise<(Oddity & { id: number; bytes: number })[]> {
	return rows(
		db,
		sql`SELECT import_oddity.id, content_id AS contentId, place, reason, ifnull(content.raw_bytes, 0) AS bytes
		 FROM import_oddity LEFT JOIN content ON content.id = content_id WHERE import_id = ${importId} AND import_oddity.id > ${after}
		 ORDER BY import_oddity.id LIMIT ${limit}`
	);
}

/** The content of an odd message; undefined if there is none. */
export async function oddityContent(db: Db, id: number): Promise<{ contentId: number; place: string } | undefined> {
	return db('import_oddity').where({ id }).whereNotNull('content_id').first('place', { contentId: 'content_id' });
}

/** How many contents an import has listed as odd. */
export async function countOddities(db: Db, importId: number): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(DISTINCT content_id) AS n FROM import_oddity WHERE import_id = ${importId}`
	);
	return found?.n ?? 0;
}

/** Whether the mail of a mailbox may answer something that is awaited. */
export async function awaitsAnswers(db: Db, mailboxId: number): Promise<boolean> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT EXISTS (SELECT 1 FROM awaited WHERE mailbox_id = ${mailboxId} AND ended_on IS NULL)
			OR EXISTS (SELECT 1 FROM mailbox WHERE id = ${mailboxId} AND returns_answered = 1) AS n`
	);
	return found?.n === 1;
}
