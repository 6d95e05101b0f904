import type { ItemState } from '../../../../core/docket/decision.ts';
import { today } from '../../context/index.ts';
import { change, type Db, empty, literal, setOfItem, type Sql, sql } from '../../database/index.ts';
import { HELD, IS_RECORD, shiftWeights } from '../../mail/index.ts';
import { type Batch, type Changed, countOnce, type Direction, frozenItems, frozenOf } from '../batches-store.ts';
import type { Change } from '../decision-work.ts';

/* A transaction of this many takes about a second, and changes the summaries once. */
export const BATCH_ITEMS = 20_000;

/* A moved record stays a record, regardless of its new folder. */
const PINNED = {
	own_class: sql`CASE WHEN ${IS_RECORD} THEN item.class ELSE item.own_class END`,
	own_retention_id: sql`CASE WHEN ${IS_RECORD} THEN item.retention_id ELSE item.own_retention_id END`
};

interface Place {
	to: Exclude<ItemState, 'destroyed'>;
	/** Whether it takes items away: a hold placed meanwhile forbids that. */
	takesAway?: boolean;
	/** Whether a record keeps its retention in the new folder. */
	pinsRecords?: boolean;
}

/* An item before and after, in either direction. */
function ends(to: Sql, direction: Direction) {
	const now = { state: to, folder: sql`frozen.to_folder_id` };
	const then = { state: sql`frozen.from_state`, folder: sql`frozen.from_folder_id` };
	return direction === 'carry-out' ? { before: then, after: now } : { before: now, after: then };
}

/* A hold also applies to frozen items; nothing under it goes back into the bin. */
function barred({ takesAway = false }: Place, direction: Direction): Sql {
	if (direction === 'take-back') return sql` AND NOT (frozen.from_state = 'binned' AND ${HELD})`;
	return takesAway ? sql` AND NOT (${HELD} OR ${IS_RECORD})` : empty;
}

/* Both directions are one statement over the frozen items that are unchanged since. */
async function changePlaces(db: Db, direction: Direction, batch: Batch, place: Place, on: string): Promise<Changed> {
	const carrying = direction === 'carry-out';
	const to = literal(place.to);
	const { before, after } = ends(to, direction);
	const still = sql`item.state = ${before.state} AND item.folder_id = ${before.folder}
		${carrying ? empty : sql`AND item.docket_id = ${batch.docketId}`}${barred(place, direction)}`;
	const from = frozenItems(batch, still);
	const sums = await shiftWeights(db, { from, before, after });
	const once = await countOnce(db, direction, batch, from, sums);
	const set: Record<string, Sql> = carrying
		? {
				state: to,
				folder_id: sql`frozen.to_folder_id`,
				origin_folder_id: sql`frozen.to_origin_folder_id`,
				binned_on: sql`${place.to === 'binned' ? on : null}`,
				docket_id: sql`${batch.docketId}`,
				...(place.pinsRecords ? PINNED : {})
			}
		: {
				state: sql`frozen.from_state`,
				folder_id: sql`frozen.from_folder_id`,
				origin_folder_id: sql`frozen.from_origin_folder_id`,
				binned_on: sql`frozen.from_binned_on`,
				docket_id: sql`frozen.from_docket_id`
			};
	await change(
		db,
		sql`UPDATE item SET ${setOfItem(set)} FROM docket_item frozen WHERE ${frozenOf(batch)} AND item.id = frozen.item_id AND ${still}`
	);
	return { ...sums, once };
}

/** Puts items into another folder and state, and back. */
export function placeChange(place: Place): Change {
	const by =
		(direction: Direction): Change['carryOut'] =>
		(context, _docket, batch) =>
			changePlaces(context.db, direction, batch, place, today(context));
	return { batchItems: BATCH_ITEMS, changesDue: true, carryOut: by('carry-out'), takeBack: by('take-back') };
}
