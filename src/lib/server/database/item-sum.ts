import { ITEM_SUM } from './migrations/040_row_sums.ts';
import { join, raw, type Sql, sql } from './sql.ts';

/* A value as its number in the sum. */
function inSum(name: string, of: Sql): Sql {
	const column = ITEM_SUM.get(name);
	if (!column) throw new Error(`${name} is no column of the sum of an item`);
	const [before = '', after = ''] = column.value.split('?');
	return sql`${raw(`${column.weight} * (${before}`)}${of}${raw(`${after})`)}`;
}

/**
 * What an UPDATE sets of items, with the sum over their row (migration 040): the one way to change them. The sum changes
 * by the difference, so that a row that was damaged before still differs afterwards.
 *
 * @param values by column; each may refer to the row as it was, as `item`
 */
export function setOfItem(values: Readonly<Record<string, Sql>>): Sql {
	const set = Object.entries(values);
	const difference = set.map(([name, to]) => sql`${inSum(name, to)} - ${inSum(name, raw(`item.${name}`))}`);
	return sql`${join(set.map(([name, to]) => sql`${raw(name)} = ${to}`))}, row_sum = item.row_sum + ${join(difference, ' + ')}`;
}
