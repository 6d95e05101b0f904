import { readFileSync, writeFileSync } from 'node:fs';
import BetterSqlite3 from 'better-sqlite3';
import { addFunctions } from '../database/functions.ts';
import { databaseFile } from '../database/open.ts';

/** Changes rows as flipped bits on a disk do: without the triggers that follow what Kovrel writes. */
export function damageRows(dataFolder: string, statement: string): void {
	const db = new BetterSqlite3(databaseFile(dataFolder));
	addFunctions(db);
	db.unsafeMode(true);
	const triggers = db.prepare(`SELECT name, sql FROM sqlite_master WHERE type = 'trigger'`).all() as {
		name: string;
		sql: string;
	}[];
	for (const { name } of triggers) db.exec(`DROP TRIGGER ${name}`);
	db.pragma('foreign_keys = OFF');
	db.exec(statement);
	for (const { sql } of triggers) db.exec(sql);
	db.close();
}

/**
 * Overwrites a page of a table or an index, as a disk does that loses one (https://www.sqlite.org/dbstat.html).
 *
 * @param name of the table or index
 */
export function breakPage(dataFolder: string, name: string): void {
	const file = databaseFile(dataFolder);
	const db = new BetterSqlite3(file);
	db.pragma('wal_checkpoint(TRUNCATE)');
	const pages = db
		.prepare(`SELECT pageno FROM dbstat WHERE name = ? AND pagetype = 'leaf' ORDER BY path`)
		.pluck()
		.all(name) as number[];
	const pageBytes = db.pragma('page_size', { simple: true }) as number;
	db.close();
	const bytes = readFileSync(file);
	const page = pages[Math.floor(pages.length / 2)] as number;
	bytes.fill(0xa5, (page - 1) * pageBytes, page * pageBytes);
	writeFileSync(file, bytes);
}
