import { closeSync, copyFileSync, existsSync, fsyncSync, linkSync, openSync, renameSync } from 'node:fs';
import path from 'node:path';
import BetterSqlite3 from 'better-sqlite3';
import { addFunctions } from './functions.ts';

/* Pages copied between two checks of the signal: some tens of megabytes. */
const PAGES_AT_ONCE = 2_000;

/** Progress of a copy. */
export interface Copying {
	signal: AbortSignal;
	onPages: (done: number, total: number) => void;
}

/** A copy that was stopped. */
export class CopyStopped extends Error {}

/**
 * Copies a database in use as of one moment: the copy reads within one transaction, so that writes meanwhile neither
 * show in it nor restart it (https://www.sqlite.org/backup.html, isolation.html).
 *
 * @param to a new file; on disk when this returns
 * @throws CopyStopped
 */
export async function copyDatabase(file: string, to: string, { signal, onPages }: Copying): Promise<void> {
	const source = new BetterSqlite3(file, { readonly: true });
	try {
		source.exec('BEGIN');
		source.prepare('SELECT count(*) FROM sqlite_master').get();
		await source.backup(to, {
			progress({ totalPages, remainingPages }) {
				if (signal.aborted) throw new CopyStopped();
				onPages(totalPages - remainingPages, totalPages);
				return PAGES_AT_ONCE;
			}
		});
	} finally {
		source.close();
	}
	alone(to);
	flush(to);
}

/** Makes a database a single file that needs no other beside it. @throws Error of SQLite where it is in use */
export function alone(file: string): void {
	const opened = new BetterSqlite3(file, { timeout: 0 });
	try {
		opened.pragma('journal_mode = DELETE');
	} finally {
		opened.close();
	}
}

/**
 * Leaves a data file that nobody uses any more as a single file: it can then be read where nothing can be written, as
 * on a disk that is read-only or full. Where somebody still works in it, or nothing can be written, it stays as it is.
 */
export function leaveAlone(file: string): void {
	try {
		alone(file);
	} catch {
		// whoever closes it last tries again
	}
}

/**
 * Rebuilds the indexes of a database from its tables, as far as they can be read.
 *
 * @throws Error of SQLite where not even that can be done
 */
export function repairIndexes(file: string): void {
	const opened = new BetterSqlite3(file);
	try {
		addFunctions(opened);
		opened.exec('REINDEX');
	} finally {
		opened.close();
	}
}

/**
 * Gives a file a second name, durable when this returns. File systems without hard links get a copy.
 *
 * @param link for tests of such a file system
 * @returns whether the name was free; an existing file stays as it is
 */
export function linkFile(file: string, again: string, link: (file: string, again: string) => void = linkSync): boolean {
	try {
		link(file, again);
	} catch (error) {
		if ((error as NodeJS.ErrnoException).code === 'EEXIST' || existsSync(again)) return false;
		// half a copy must not stand under the final name
		const unfinished = `${again}.${process.pid}`;
		copyFileSync(file, unfinished);
		flush(unfinished);
		renameSync(unfinished, again);
	}
	flush(path.dirname(again));
	return true;
}

/** Flushes a file or a folder to disk. */
export function flush(place: string): void {
	const handle = openSync(place, 'r');
	try {
		fsyncSync(handle);
	} finally {
		closeSync(handle);
	}
}

/**
 * Whether another process has a database open: leaving the write-ahead log needs exclusive access. Nobody can tell
 * for one too damaged to be opened, which can still be set aside.
 */
export function isInUse(file: string): boolean {
	try {
		const opened = new BetterSqlite3(file, { timeout: 500 });
		try {
			return opened.pragma('journal_mode = DELETE', { simple: true }) !== 'delete';
		} finally {
			opened.close();
		}
	} catch (error) {
		return !/^SQLITE_(NOTADB|CORRUPT)/.test((error as { code?: string }).code ?? '');
	}
}

/* How many faults of a file are named. */
const MOST_NAMED = 20;

/** The faults of a file by SQLite's own check, each index compared with its table; empty if it is intact. */
export function checkDatabase(file: string): string[] {
	const opened = new BetterSqlite3(file, { readonly: true, fileMustExist: true });
	try {
		addFunctions(opened);
		const said: string[] = [];
		try {
			for (const line of opened.prepare(`PRAGMA integrity_check(${MOST_NAMED})`).pluck().iterate())
				said.push(line as string);
		} catch (error) {
			// the check itself may end at a page that cannot be read, after it has named others
			if ((error as { code?: string }).code !== 'SQLITE_CORRUPT') throw error;
			said.push((error as Error).message);
		}
		return said.filter((line) => line !== 'ok');
	} finally {
		opened.close();
	}
}
