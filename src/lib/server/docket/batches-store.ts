import type { Weight } from '../../../core/weigh/tree.ts';
import { change, type Db, inList, row, rows, type Sql, sql } from '../database/index.ts';
import type { Shifted } from '../mail/index.ts';
import type { Docket, DocketLine } from './dockets-store.ts';
import type { Destination } from './decision-work.ts';
import type { Paused } from '../standing/index.ts';
import { selection } from './selection-store.ts';

/* ---- freezing ---- */

/** Freezes the items of a line: each one's present state and its target. */
export async function freezeItems(
	db: Db,
	docket: Docket,
	line: DocketLine,
	{ destination, keeps, paused }: { destination: Destination | undefined; keeps: Sql | undefined; paused: Paused }
): Promise<void> {
	const { within, selected } = selection(docket.mailboxId, line, paused);
	const { folder, origin, join } = destination ?? { folder: sql`item.folder_id`, origin: sql`item.origin_folder_id` };
	await change(
		db,
		sql`INSERT INTO docket_item (line_id, item_id, from_state, from_folder_id, from_origin_folder_id, from_binned_on, from_docket_id,
			from_value, to_folder_id, to_origin_folder_id)
		 SELECT ${line.id}, item.id, item.state, item.folder_id, item.origin_folder_id, item.binned_on, item.docket_id,
			${keeps ?? sql`NULL`}, ${folder}, ${origin}
		 FROM item ${join ?? sql``} WHERE ${within} AND ${selected} ORDER BY item.id`
	);
}

/* ---- batches ---- */

/** The direction of a change. */
export type Direction = 'carry-out' | 'take-back';

/** A line's frozen items after `after`, up to `last`. */
export interface Batch {
	line: DocketLine;
	docketId: number;
	/** Numbers of the docket's other lines: they may change the same items. */
	otherLines: readonly number[];
	after: number;
	last: number;
}

/** The changes of a batch: of its line, and the part not changed by another line of the docket. */
export interface Changed extends Shifted {
	once: Weight;
}

/** A batch without changes. */
export const UNCHANGED: Changed = {
	messages: 0,
	bytes: 0,
	freedMessages: 0,
	freedBytes: 0,
	once: { messages: 0, bytes: 0 }
};

/* The lines left to be carried out. */
function linesToGoOn({ lines, progressPosition }: Docket): DocketLine[] {
	return lines.filter(({ position }) => position >= progressPosition);
}

/** The next batch of a docket after its mark of progress; undefined: it is done. */
export async function nextBatch(
	db: Db,
	docket: Docket,
	sizeOf: (line: DocketLine) => number
): Promise<Batch | undefined> {
	for (const line of linesToGoOn(docket)) {
		const after = line.position === docket.progressPosition ? docket.progressItemId : 0;
		const found = await row<{ last: number | null }>(
			db,
			sql`SELECT max(item_id) AS last FROM (
				SELECT item_id FROM docket_item WHERE line_id = ${line.id} AND item_id > ${after} ORDER BY item_id LIMIT ${sizeOf(line)})`
		);
		const otherLines = docket.lines.flatMap(({ id }) => (id === line.id ? [] : [id]));
		if (found?.last) return { line, docketId: docket.id, otherLines, after, last: found.last };
	}
	return undefined;
}

/** The batch's frozen items that meet a condition, with `item` and `frozen`, as FROM and WHERE. */
export function frozenItems({ line, after, last }: Batch, still: Sql): Sql {
	return sql`docket_item frozen CROSS JOIN item ON item.id = frozen.item_id
		WHERE frozen.line_id = ${line.id} AND frozen.item_id > ${after} AND frozen.item_id <= ${last} AND ${still}`;
}

/** The frozen items of a batch, as WHERE of a statement that changes `item`. */
export function frozenOf({ line, after, last }: Batch): Sql {
	return sql`frozen.line_id = ${line.id} AND frozen.item_id > ${after} AND frozen.item_id <= ${last}`;
}

/** The weight of items, with nothing freed. */
export async function weighItems(db: Db, from: Sql): Promise<Shifted> {
	const found = await row<Shifted>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(item.bytes), 0) AS bytes, 0 AS freedMessages, 0 AS freedBytes FROM ${from}`
	);
	return found ?? UNCHANGED;
}

/**
 * Counts what a batch is about to change; a message of several lines counts once (invariant 15): with the first line
 * that changes it, and with the last that takes it back. Runs before the change.
 *
 * @param from FROM and WHERE of what it changes, with `item` among it
 * @param sums what it changes by its line
 */
export async function countOnce(
	db: Db,
	direction: Direction,
	{ line, otherLines }: Batch,
	from: Sql,
	sums: Weight
): Promise<Weight> {
	if (otherLines.length === 0) return sums;
	const once = await row<Weight>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(item.bytes), 0) AS bytes FROM ${from} AND NOT EXISTS (
			SELECT 1 FROM docket_item other WHERE other.line_id IN ${inList(otherLines)} AND other.item_id = item.id AND other.done = 1)`
	);
	await change(
		db,
		sql`UPDATE docket_item SET done = ${direction === 'carry-out' ? 1 : 0}
		 WHERE line_id = ${line.id} AND item_id IN (SELECT item.id FROM ${from})`
	);
	return once ?? { messages: 0, bytes: 0 };
}

/** How many frozen messages of a docket it did not change, because they had been changed since. */
export async function countLeftSince(db: Db, { lines }: Docket): Promise<number> {
	const [only, ...others] = lines;
	if (only && others.length === 0) return only.messages - only.doneMessages;
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(DISTINCT item_id) AS n FROM docket_item WHERE done = 0 AND line_id IN ${inList(lines.map(({ id }) => id))}`
	);
	return found?.n ?? 0;
}

/** Stores a docket's progress, and a line's real counts. */
export async function putProgress(db: Db, direction: Direction, batch: Batch, done: Changed): Promise<void> {
	const { line, last, docketId } = batch;
	await db('docket').where({ id: docketId }).update({ progress_position: line.position, progress_item_id: last });
	const { messages, bytes } = done.once;
	if (direction === 'take-back') {
		await addTakenBack(db, docketId, messages);
		return;
	}
	await change(
		db,
		sql`UPDATE docket_line SET done_messages = done_messages + ${done.messages}, done_bytes = done_bytes + ${done.bytes}
		 WHERE id = ${line.id}`
	);
	await change(
		db,
		sql`UPDATE docket SET messages = messages + ${messages}, bytes = bytes + ${bytes} WHERE id = ${docketId}`
	);
}

/** Adds to the messages of a docket that were taken back. */
export async function addTakenBack(db: Db, docketId: number, messages: number): Promise<void> {
	await change(
		db,
		sql`UPDATE docket SET taken_back_messages = taken_back_messages + ${messages} WHERE id = ${docketId}`
	);
}

/** The folders that taking back needs. */
export async function formerFolders(db: Db, docketId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT DISTINCT from_folder_id AS id FROM docket_item
		 WHERE line_id IN (SELECT id FROM docket_line WHERE docket_id = ${docketId})`
	);
	return found.map(({ id }) => id);
}
