import type { Db } from '../database/open.ts';

/** Runs a query and returns its rows. */
export async function rows<T>(db: Db, sql: string, bindings: readonly unknown[] = []): Promise<T[]> {
	return (await db.raw(sql, bindings as never)) as unknown as T[];
}

/** Runs a query and returns its first row, undefined where there is none. */
export async function row<T>(db: Db, sql: string, bindings: readonly unknown[] = []): Promise<T | undefined> {
	return (await rows<T>(db, sql, bindings))[0];
}

/** Runs a statement and returns how many rows it changed. */
export async function change(db: Db, sql: string, bindings: readonly unknown[] = []): Promise<number> {
	const result = (await db.raw(sql, bindings as never)) as unknown as { changes?: number } | unknown[];
	return Array.isArray(result) ? result.length : (result.changes ?? 0);
}

/** Inserts a row and returns its id. */
export async function insert(db: Db, sql: string, bindings: readonly unknown[] = []): Promise<number> {
	const result = (await db.raw(sql, bindings as never)) as unknown as { lastInsertRowid: number | bigint };
	return Number(result.lastInsertRowid);
}

/** `(?, ?), (?, ?)`: placeholders for so many rows of so many values. */
export function placeholders(rowCount: number, columns: number): string {
	const one = `(${Array.from({ length: columns }, () => '?').join(', ')})`;
	return Array.from({ length: rowCount }, () => one).join(', ');
}

/* SQLite takes 32,766 values for one statement. */
const MOST_VALUES = 30_000;

/**
 * Inserts rows, by as few statements as there can be.
 *
 * @param into `INSERT INTO …`, in front of VALUES
 * @param behind what stands behind them: ON CONFLICT, RETURNING
 * @returns what RETURNING returns, of all of them
 */
export async function insertRows<T = never>(
	db: Db,
	into: string,
	values: readonly (readonly unknown[])[],
	behind = ''
): Promise<T[]> {
	const returned: T[] = [];
	const columns = values[0]?.length ?? 1;
	const atOnce = Math.floor(MOST_VALUES / columns);
	for (let from = 0; from < values.length; from += atOnce) {
		const some = values.slice(from, from + atOnce);
		const result = await rows<T>(db, `${into} VALUES ${placeholders(some.length, columns)} ${behind}`, some.flat());
		if (Array.isArray(result)) for (const row of result) returned.push(row);
	}
	return returned;
}
