import { randomUUID } from 'node:crypto';
import {
	closeSync,
	existsSync,
	fsyncSync,
	mkdirSync,
	openSync,
	readdirSync,
	readFileSync,
	renameSync,
	rmSync,
	statSync,
	writeSync
} from 'node:fs';
import path from 'node:path';
import BetterSqlite3 from 'better-sqlite3';
import { Refusal } from '../refusal.ts';
import { flush, linkFile } from './copy.ts';
import { databaseFile } from './open.ts';

/*
 * A mark beside the data file, repeated inside it, identifies a data folder (invariant 17): a missing, empty or
 * foreign data file is never taken for a new archive.
 */

const MARK = 'kovrel-data.json';
/** The setting in the data file that repeats the mark. */
export const DATA_ID = 'data-id';

const markOf = (folder: string) => path.join(folder, MARK);

/** The identity in a data folder's mark; undefined: it has none. */
export function readMark(folder: string): string | undefined {
	try {
		const { id } = JSON.parse(readFileSync(markOf(folder), 'utf8')) as { id?: unknown };
		return typeof id === 'string' ? id : '';
	} catch (error) {
		if ((error as NodeJS.ErrnoException).code === 'ENOENT') return undefined;
		// an unreadable mark is no reason to start a new archive
		return '';
	}
}

/** Writes the mark of a data folder, completely or not at all. */
export function writeMark(folder: string, id: string): void {
	const unfinished = `${markOf(folder)}.${process.pid}`;
	const handle = openSync(unfinished, 'w', 0o600);
	try {
		writeSync(
			handle,
			`${JSON.stringify({ id, note: 'This folder holds an archive of Kovrel. Keep this file with it.' })}\n`
		);
		fsyncSync(handle);
	} finally {
		closeSync(handle);
	}
	renameSync(unfinished, markOf(folder));
	flush(folder);
}

/** A new identity. */
export const newDataId = (): string => randomUUID();

/* Files that an archive leaves in its folder, even if its data file is lost. */
const hasTraces = (folder: string) =>
	existsSync(folder) &&
	readdirSync(folder).some((name) => name === MARK || name.startsWith('kovrel.sqlite') || name === 'uploads');

/**
 * Whether a folder has a data file.
 *
 * @returns false where the folder has nothing of an archive
 * @throws Refusal where there was one, and it is gone or empty
 */
export function hasDataFile(folder: string): boolean {
	const file = databaseFile(folder);
	const size = existsSync(file) ? statSync(file).size : undefined;
	if (size !== undefined && size > 0) return true;
	if (size === undefined && !hasTraces(folder)) return false;
	throw new Refusal(
		'damaged',
		`The data file ${file} is ${size === undefined ? 'missing' : 'empty'}. No new archive is begun in its place. Is the right disk there? Else restore a backup ("kovrel restore-backup FILE --replace"). Nothing was done.`
	);
}

/**
 * Rolls back what a power cut has left half-done while nobody had the log open: a reader cannot
 * (https://www.sqlite.org/lockingv3.html#hot_journals).
 */
export function rollBack(folder: string): void {
	const file = databaseFile(folder);
	if (!existsSync(`${file}-journal`)) return;
	const opened = new BetterSqlite3(file);
	try {
		opened.pragma('schema_version');
	} finally {
		opened.close();
	}
}

/**
 * Puts a new data file into a folder: completed beside it first, so that nobody sees half of one. If several start at
 * once, the first one's stays.
 *
 * @param fill makes the tables, in a folder of its own
 */
export async function makeDataFile(folder: string, fill: (workplace: string) => Promise<void>): Promise<void> {
	mkdirSync(folder, { recursive: true, mode: 0o700 });
	const workplace = path.join(folder, `.new-${process.pid}-${randomUUID()}`);
	mkdirSync(workplace, { mode: 0o700 });
	try {
		await fill(workplace);
		flush(databaseFile(workplace));
		linkFile(databaseFile(workplace), databaseFile(folder));
	} finally {
		rmSync(workplace, { recursive: true, force: true });
	}
}
