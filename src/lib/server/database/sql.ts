import sqlTag, { empty, join, raw, type Sql } from 'sql-template-tag';

/** A value in a statement: a value that SQLite stores, or a fragment. */
type Value = string | number | bigint | Uint8Array | null | Sql;

/**
 * SQL that composes: values become bindings in their place, and fragments nest. No value is put into the text of a
 * statement, and nobody counts question marks.
 */
export const sql: (strings: readonly string[], ...values: Value[]) => Sql = sqlTag;
export { empty, join, raw, type Sql };

/** A condition on an item, as SQL. */
export type Condition = Sql;

/** A list of any length as one binding: `item.id IN ${inList(ids)}`. */
export function inList(values: readonly (number | string | null)[]): Sql {
	return sql`(SELECT value FROM json_each(${JSON.stringify(values)}))`;
}

/** A range of numbers of rows, both ends with it. */
export interface Range {
	from: number;
	to: number;
}

/**
 * Whether the number of a row lies in a range. A single one is compared: a range reads its neighbour as well, which may
 * lie on a page that cannot be read.
 */
export function within(column: string, { from, to }: Range): Sql {
	return from === to ? sql`${raw(column)} = ${from}` : sql`${raw(column)} BETWEEN ${from} AND ${to}`;
}

/** The conjunction of conditions; of none: true. */
export function all(conditions: readonly Sql[]): Sql {
	return conditions.length === 0 ? sql`1` : join([...conditions], ' AND ');
}

/** The negation, of a conjunction as well. */
export function not(condition: Sql): Sql {
	return sql`NOT (${condition})`;
}

/**
 * A constant of the code as an SQL string: only where an index needs it in the text of the statement.
 *
 * @throws Error for a question mark, which Knex would take for a binding
 */
export function literal(word: string): Sql {
	if (word.includes('?')) throw new Error('A literal cannot hold a question mark.');
	return raw(`'${word.replaceAll("'", "''")}'`);
}
