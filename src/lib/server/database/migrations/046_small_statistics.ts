import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * By statistics of an archive that was small, SQLite read all mail once for each message of the next import
 * (database/statistics).
 */
const OF_SMALL_TABLES = `SELECT tbl FROM sqlite_stat1 WHERE tbl IN ('item', 'message', 'thread', 'source_item')
	GROUP BY tbl HAVING max(CAST(stat AS INTEGER)) < 1000`;

export async function up(knex: Knex): Promise<void> {
	await run(knex, [
		`DELETE FROM sqlite_stat4 WHERE tbl IN (${OF_SMALL_TABLES})`,
		`DELETE FROM sqlite_stat1 WHERE tbl IN (${OF_SMALL_TABLES})`,
		`ANALYZE sqlite_schema`
	]);
}
