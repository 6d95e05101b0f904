import sqlTag, { empty, join, raw, type Sql } from 'sql-template-tag';

/** What may stand as a value in a statement: what SQLite stores, or a fragment. */
type Value = string | number | bigint | Uint8Array | null | Sql;

/**
 * SQL that composes: values become bindings where they stand, and fragments nest. No value is ever put into the text of a
 * statement, and nobody counts question marks.
 */
export const sql: (strings: readonly string[], ...values: Value[]) => Sql = sqlTag;
export { empty, join, raw, type Sql };

/** What is true of an item, as SQL. */
export type Condition = Sql;

/** The members of a list of any length, as one binding: `item.id IN ${inList(ids)}`. */
export function inList(values: readonly (number | string | null)[]): Sql {
	return sql`(SELECT value FROM json_each(${JSON.stringify(values)}))`;
}

/** Conditions that all hold; none: true. */
export function all(conditions: readonly Sql[]): Sql {
	return conditions.length === 0 ? sql`1` : join([...conditions], ' AND ');
}

/** The other way round. */
export function not(condition: Sql): Sql {
	return sql`NOT ${condition}`;
}

/** A word of the code's own as an SQL string: only for what an index is chosen by, which has to stand in the text. */
export function literal(word: string): Sql {
	return raw(`'${word.replaceAll("'", "''")}'`);
}
