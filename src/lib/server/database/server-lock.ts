import { readFileSync, writeFileSync } from 'node:fs';
import { hostname } from 'node:os';
import path from 'node:path';
import BetterSqlite3 from 'better-sqlite3';
import { Refusal } from '../refusal.ts';

/*
 * One server works in a data folder; the terminal may work beside it. The lock is one of SQLite's on a file of its own:
 * the operating system releases it when the process ends, however it ends (https://www.sqlite.org/lockingv3.html).
 */

const lockFile = (folder: string) => path.join(folder, 'server.lock');
const noteFile = (folder: string) => path.join(folder, 'server.json');

/* Who works there, as far as they have said so. */
function holderOf(folder: string): string {
	try {
		const {
			process: id,
			machine,
			since
		} = JSON.parse(readFileSync(noteFile(folder), 'utf8')) as Record<string, unknown>;
		return ` (process ${String(id)} on ${String(machine)}, since ${String(since)})`;
	} catch {
		return '';
	}
}

/**
 * Takes a data folder for this server, until it is released or the process ends.
 *
 * @returns releases it
 * @throws Refusal if another server works in it
 */
export function holdDataFolder(folder: string, now: Date): () => void {
	const lock = new BetterSqlite3(lockFile(folder), { timeout: 0 });
	try {
		lock.exec('BEGIN EXCLUSIVE');
	} catch (error) {
		lock.close();
		if (!/^SQLITE_BUSY/.test((error as { code?: string }).code ?? '')) throw error;
		throw new Refusal(
			'not-possible',
			`Another Kovrel server works in ${folder}${holderOf(folder)}. End it first, or use its pages. Nothing was done.`
		);
	}
	writeFileSync(
		noteFile(folder),
		`${JSON.stringify({ process: process.pid, machine: hostname(), since: now.toISOString() })}\n`,
		{ mode: 0o600 }
	);
	return () => lock.close();
}
