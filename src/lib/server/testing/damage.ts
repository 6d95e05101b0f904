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
