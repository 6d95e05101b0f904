import { setImmediate } from 'node:timers/promises';
import type BetterSqlite3 from 'better-sqlite3';
import type { Knex } from 'knex';
import { type Db, inTransaction } from './open.ts';
import type { Sql } from './sql.ts';

/** A condition for the builder: `db('item').where(asRaw(db, condition))`. */
export function asRaw(db: Db, condition: Sql): Knex.Raw {
	return db.raw(condition.sql, condition.values as never);
}

/* So long a thread works before it reads its messages: that it is to stop, or what somebody else asks. */
const TURN_MS = 50;
let turnBegan = performance.now();

/* The driver answers within the same turn of the event loop: work of many statements would go on as one turn, to its end. */
async function run(db: Db, statement: Sql): Promise<unknown> {
	const result: unknown = await db.raw(statement.sql, statement.values as never);
	if (performance.now() - turnBegan > TURN_MS) {
		await setImmediate();
		turnBegan = performance.now();
	}
	return result;
}

/** Runs a query and returns its rows. */
export async function rows<T>(db: Db, query: Sql): Promise<T[]> {
	return (await run(db, query)) as T[];
}

/** Runs a query and returns its first row, undefined if there is none. */
export async function row<T>(db: Db, query: Sql): Promise<T | undefined> {
	return (await rows<T>(db, query))[0];
}

/** Runs a statement and returns how many rows it changed. */
export async function change(db: Db, statement: Sql): Promise<number> {
	const result = (await run(db, statement)) as { changes?: number } | unknown[];
	return Array.isArray(result) ? result.length : (result.changes ?? 0);
}

/** Runs the builder's insertion of one row, and returns its id. */
export async function idOf(insertion: PromiseLike<number[]>): Promise<number> {
	const [id] = await insertion;
	return Number(id);
}

/** `(?, ?), (?, ?)`: placeholders for so many rows of so many values. */
function placeholders(rowCount: number, columns: number): string {
	const one = `(${Array.from({ length: columns }, () => '?').join(', ')})`;
	return Array.from({ length: rowCount }, () => one).join(', ');
}

/* Statements that are run row by row, by connection. */
const prepared = new WeakMap<BetterSqlite3.Database, Map<string, BetterSqlite3.Statement>>();

function statementFor(connection: BetterSqlite3.Database, sql: string): BetterSqlite3.Statement {
	const known = prepared.get(connection) ?? new Map<string, BetterSqlite3.Statement>();
	prepared.set(connection, known);
	const statement = known.get(sql) ?? connection.prepare(sql);
	known.set(sql, statement);
	return statement;
}

/* Lets other work of this thread run between batches. */
const ROWS_IN_A_TURN = 50;

/**
 * Inserts rows, all or none, by one prepared statement run for each. Only Knex's connection is used, as Knex would
 * inspect every value; RETURNING would make SQLite build a table for every row.
 *
 * @param into `INSERT INTO …`, in front of VALUES
 * @param behind what stands behind them, such as ON CONFLICT
 * @returns the number of each row, in the given order; undefined for a row that existed
 */
export async function insertRows(
	db: Db,
	into: string,
	values: readonly (readonly unknown[])[],
	behind = ''
): Promise<(number | undefined)[]> {
	const [first] = values;
	if (!first) return [];
	if (!db.isTransaction) return inTransaction(db, (trx) => insertRows(trx, into, values, behind));
	const connection = (await db.client.acquireConnection()) as BetterSqlite3.Database;
	const statement = statementFor(connection, `${into} VALUES ${placeholders(1, first.length)} ${behind}`);
	const ids: (number | undefined)[] = [];
	for (const [at, row] of values.entries()) {
		const { changes, lastInsertRowid } = statement.run(row);
		ids.push(changes === 1 ? Number(lastInsertRowid) : undefined);
		if (at % ROWS_IN_A_TURN === ROWS_IN_A_TURN - 1) await setImmediate();
	}
	return ids;
}

/** Whether SQLite could not read a page of the data file. */
export const isBrokenPage = (error: unknown): boolean =>
	/^SQLITE_(CORRUPT|IOERR|NOTADB)/.test((error as { code?: string } | null)?.code ?? '');
