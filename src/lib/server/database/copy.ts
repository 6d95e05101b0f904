import { closeSync, copyFileSync, existsSync, fsyncSync, linkSync, openSync, renameSync } from 'node:fs';
import path from 'node:path';
import BetterSqlite3 from 'better-sqlite3';
import { addFunctions } from './functions.ts';

/* So many pages between two looks at the signal: some tens of megabytes. */
const PAGES_AT_ONCE = 2_000;

/** What is told while a copy is made. */
export interface Copying {
	signal: AbortSignal;
	onPages: (done: number, total: number) => void;
}

/** A copy that was stopped on the way. */
export class CopyStopped extends Error {}

/**
 * Copies a database that is in use, as it is at one moment: the copy reads within one transaction, so that whatever is
 * written meanwhile neither shows in it nor makes it begin again (https://www.sqlite.org/backup.html, isolation.html).
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

/** Has a database be one file by itself: whoever finds it needs nothing beside it. */
export function alone(file: string): void {
	const opened = new BetterSqlite3(file);
	opened.pragma('journal_mode = DELETE');
	opened.close();
}

/**
 * Makes the indexes of a database anew from its tables, where they can be read.
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
 * Gives a file a second name, which stands on the disk when this returns, whole. Some file systems have no second names: there it
 * is a copy.
 *
 * @param link for tests of such a file system
 * @returns whether there was no file of that name yet; one that is there stays as it is
 */
export function nameAgain(
	file: string,
	again: string,
	link: (file: string, again: string) => void = linkSync
): boolean {
	try {
		link(file, again);
	} catch (error) {
		if ((error as NodeJS.ErrnoException).code === 'EEXIST' || existsSync(again)) return false;
		// half a copy must not stand under a name that says it is there
		const unfinished = `${again}.${process.pid}`;
		copyFileSync(file, unfinished);
		flush(unfinished);
		renameSync(unfinished, again);
	}
	flush(path.dirname(again));
	return true;
}

/** Has a file, or a folder's list of files, reach the disk. */
export function flush(place: string): void {
	const handle = openSync(place, 'r');
	try {
		fsyncSync(handle);
	} finally {
		closeSync(handle);
	}
}

/**
 * Whether somebody else has a database open: out of the write-ahead log it comes only for who is alone with it. Of one that is too
 * damaged to be opened nobody can tell; it must be possible to put it aside.
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

/* So many of the things that are wrong with a file are named. */
const MOST_NAMED = 20;

/** What SQLite itself says is wrong with a file, each index compared with its table; nothing where it is whole. */
export function checkDatabase(file: string): string[] {
	const opened = new BetterSqlite3(file, { readonly: true, fileMustExist: true });
	try {
		addFunctions(opened);
		const said = opened.pragma(`integrity_check(${MOST_NAMED})`) as { integrity_check: string }[];
		return said.map((line) => line.integrity_check).filter((line) => line !== 'ok');
	} finally {
		opened.close();
	}
}
