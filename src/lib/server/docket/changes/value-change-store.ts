import type { DecisionOptions } from '../../../../core/docket/decision.ts';
import { change, type Db, raw, setOfItem, type Sql, sql } from '../../database/index.ts';
import { shiftWeights } from '../../mail/index.ts';
import {
	type Batch,
	type Changed,
	countOnce,
	type Direction,
	frozenItems,
	frozenOf,
	weighItems
} from '../batches-store.ts';
import type { Change } from '../decision-work.ts';
import { BATCH_ITEMS } from './place-change-store.ts';

/* Values that people set on an item, and those that count in the summaries. */
type Column =
	'flagged' | 'seen' | 'kept' | 'never_archived' | 'for_digest' | 'pause_id' | 'own_class' | 'own_retention_id';

const here = { state: sql`item.state`, folder: sql`item.folder_id` };
const isUnread = (seen: Sql) => sql`ifnull(${seen} = 0, 0)`;

async function changeValues(
	db: Db,
	direction: Direction,
	batch: Batch,
	name: Column,
	to: number | Sql | null
): Promise<Changed> {
	const column = raw(name);
	const [before, after] =
		direction === 'carry-out' ? [sql`frozen.from_value`, sql`${to}`] : [sql`${to}`, sql`frozen.from_value`];
	const still = sql`item.${column} IS ${before}`;
	const from = frozenItems(batch, still);
	if (name === 'seen')
		await shiftWeights(db, {
			from,
			before: { ...here, unread: isUnread(before) },
			after: { ...here, unread: isUnread(after) }
		});
	const sums = await weighItems(db, from);
	const once = await countOnce(db, direction, batch, from, sums);
	await change(
		db,
		sql`UPDATE item SET ${setOfItem({ [name]: after })} FROM docket_item frozen
		 WHERE ${frozenOf(batch)} AND item.id = frozen.item_id AND ${still}`
	);
	return { ...sums, once };
}

/**
 * Changes one value of items, and restores its earlier one.
 *
 * @param given the value, from what stands on the line by then
 */
export function valueChange(
	column: Column,
	given: (options: DecisionOptions) => number | Sql | null,
	{ changesDue = false } = {}
): Change {
	const by =
		(direction: Direction): Change['carryOut'] =>
		(context, _docket, batch) =>
			changeValues(context.db, direction, batch, column, given(batch.line.options));
	return {
		keeps: raw(`item.${column}`),
		batchItems: BATCH_ITEMS,
		changesDue,
		carryOut: by('carry-out'),
		takeBack: by('take-back')
	};
}
