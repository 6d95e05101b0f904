import type { Db } from './open.ts';
import { change, rows } from './rows.ts';
import { inList, sql } from './sql.ts';

/* Tables to which one import or one pass over a mail server may add many times what they hold. */
const GROWING = ['item', 'message', 'thread', 'source_item'];
/*
 * By the statistics of a table with fewer rows, SQLite may read all of it for each row that it looks for, even after it
 * has grown. Without statistics it takes any table for a large one.
 */
const SMALL = 1_000;

/**
 * Runs ANALYZE if the statistics are old, so that large tables keep good plans. Tables that are small and may grow
 * have none.
 */
export async function refreshStatistics(db: Db): Promise<void> {
	await change(db, sql`PRAGMA optimize`);
	const small = await rows<{ tbl: string }>(
		db,
		sql`SELECT tbl FROM sqlite_stat1 WHERE tbl IN ${inList(GROWING)} GROUP BY tbl HAVING max(CAST(stat AS INTEGER)) < ${SMALL}`
	);
	if (small.length === 0) return;
	const names = inList(small.map(({ tbl }) => tbl));
	await change(db, sql`DELETE FROM sqlite_stat1 WHERE tbl IN ${names}`);
	await change(db, sql`DELETE FROM sqlite_stat4 WHERE tbl IN ${names}`);
	// this connection reads them anew
	await change(db, sql`ANALYZE sqlite_schema`);
}
