import type { Layout, Month } from '../../../core/archive/layout.ts';
import type { ItemState } from '../../../core/docket/effects.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import type { Db } from '../database/open.ts';
import type { Docket, DocketLine } from './dockets.ts';
import { change, row, rows } from './rows.ts';
import { type FolderSums, selection } from './scopes.ts';
import { shiftWeights } from './weights.ts';

/* ---- freezing ----------------------------------------------------------------------------------------------------- */

/** Folder by folder, of a docket whose items are frozen. */
export async function frozenByFolder(db: Db, docketId: number): Promise<FolderSums[]> {
	return rows<FolderSums>(
		db,
		`SELECT folder.path, count(*) AS messages, sum(item.bytes) AS bytes, min(received_on) AS oldest, max(received_on) AS newest
		 FROM docket_item JOIN item ON item.id = docket_item.item_id JOIN folder ON folder.id = docket_item.from_folder_id
		 WHERE docket_item.docket_id = ? GROUP BY folder.id ORDER BY folder.path`,
		[docketId]
	);
}

/** A folder that items lie in (archiving), came from (arranging), or go back to (restoring), with a month of theirs. */
export interface Origin {
	/** Null: it is not known where they came from. */
	folderId: number | null;
	path: string;
	/** Empty where the archive is not divided. */
	month: Month;
}

/* Where items come from, as the archive's layout sees it. */
const ORIGIN: Record<DocketLine['decision'], string> = {
	archive: 'item.folder_id',
	arrange: 'ifnull(item.origin_folder_id, item.folder_id)',
	restore: 'item.origin_folder_id'
};
const monthSql = (layout: Layout) =>
	layout.divide === 'none'
		? `''`
		: `CASE WHEN item.date_in_doubt = 1 OR item.received_on IS NULL THEN '' ELSE substr(item.received_on, 1, 7) END`;

/** Where the items of a line come from. */
export async function lineOrigins(db: Db, docket: Docket, line: DocketLine): Promise<Origin[]> {
	const { within, chosen } = selection(docket.mailboxId, line.decision, line.scope);
	return rows<Origin>(
		db,
		`SELECT chosen.folder_id AS folderId, ifnull(folder.path, '') AS path, chosen.month FROM (
			SELECT DISTINCT ${ORIGIN[line.decision]} AS folder_id, ${monthSql(docket.layout)} AS month
			FROM item WHERE ${within.sql} AND ${chosen.sql}
		 ) chosen LEFT JOIN folder ON folder.id = chosen.folder_id`,
		[...within.bindings, ...chosen.bindings]
	);
}

/** A folder of the archive for what comes from a folder in a month. */
export interface Target extends Pick<Origin, 'folderId' | 'month'> {
	targetId: number;
}

/**
 * Freezes the items of a line: what each is and what it becomes.
 *
 * @param targets for archiving and arranging
 * @param fallbackFolderId for restoring: where items go of which nobody knows where they came from
 */
export async function freezeItems(
	db: Db,
	docket: Docket,
	line: DocketLine,
	targets: readonly Target[],
	fallbackFolderId: number | undefined
): Promise<number> {
	const { within, chosen } = selection(docket.mailboxId, line.decision, line.scope);
	const restoring = line.decision === 'restore';
	const toState: ItemState = restoring ? 'live' : 'archived';
	await change(
		db,
		`CREATE TEMP TABLE IF NOT EXISTS target (folder_id INTEGER, month TEXT, target_id INTEGER, PRIMARY KEY (folder_id, month)) WITHOUT ROWID`
	);
	await change(db, `DELETE FROM temp.target`);
	await change(
		db,
		`INSERT INTO temp.target SELECT value ->> 'folderId', value ->> 'month', value ->> 'targetId' FROM json_each(?)`,
		[JSON.stringify(targets)]
	);
	const origin = ORIGIN[line.decision];
	return change(
		db,
		`INSERT INTO docket_item (docket_id, item_id, line_id, from_state, from_folder_id, from_origin_folder_id, from_binned_on,
			from_docket_id, to_state, to_folder_id, to_origin_folder_id)
		 SELECT ?, item.id, ?, item.state, item.folder_id, item.origin_folder_id, item.binned_on, item.docket_id, ?,
			${restoring ? 'ifnull(item.origin_folder_id, ?)' : 'target.target_id'}, ${restoring ? 'NULL' : origin}
		 FROM item ${restoring ? '' : `JOIN temp.target ON target.folder_id = ${origin} AND target.month = ${monthSql(docket.layout)}`}
		 WHERE ${within.sql} AND ${chosen.sql} ORDER BY item.id`,
		[
			docket.id,
			line.id,
			toState,
			...(restoring ? [fallbackFolderId ?? null] : []),
			...within.bindings,
			...chosen.bindings
		]
	);
}

/* ---- changing ----------------------------------------------------------------------------------------------------- */

/** The frozen items of a docket, from the one behind `after` as far as a batch reaches; undefined: there are no more. */
export async function batchEnd(db: Db, docketId: number, after: number, size: number): Promise<number | undefined> {
	const found = await row<{ last: number | null }>(
		db,
		`SELECT max(item_id) AS last FROM (SELECT item_id FROM docket_item WHERE docket_id = ? AND item_id > ? ORDER BY item_id LIMIT ?)`,
		[docketId, after, size]
	);
	return found?.last ?? undefined;
}

/** How many items were frozen, and how many of them lie behind the mark of progress. */
export async function frozenCount(db: Db, docketId: number, after = 0): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		`SELECT count(*) AS n FROM docket_item WHERE docket_id = ? AND item_id > ?`,
		[docketId, after]
	);
	return found?.n ?? 0;
}

interface Batch {
	docketId: number;
	after: number;
	last: number;
}

/* Both directions are one statement over the frozen items that are still as they were, or as the docket left them. */
const DIRECTIONS = {
	'carry-out': {
		old: 'from',
		next: 'to',
		still: `item.state = frozen.from_state AND item.folder_id = frozen.from_folder_id`,
		set: `state = frozen.to_state, folder_id = frozen.to_folder_id, origin_folder_id = frozen.to_origin_folder_id,
			binned_on = NULL, docket_id = frozen.docket_id`
	},
	'take-back': {
		old: 'to',
		next: 'from',
		still: `item.docket_id = frozen.docket_id AND item.state = frozen.to_state AND item.folder_id = frozen.to_folder_id`,
		set: `state = frozen.from_state, folder_id = frozen.from_folder_id, origin_folder_id = frozen.from_origin_folder_id,
			binned_on = frozen.from_binned_on, docket_id = frozen.from_docket_id`
	}
} as const;

/**
 * Changes the items of one batch, and the summaries with them. The one place in Kovrel that changes the state of an item.
 */
export async function changeBatch(
	db: Db,
	direction: keyof typeof DIRECTIONS,
	{ docketId, after, last }: Batch
): Promise<Weight> {
	const { old, next, still, set } = DIRECTIONS[direction];
	const range = `frozen.docket_id = ? AND frozen.item_id > ? AND frozen.item_id <= ?`;
	const bindings = [docketId, after, last];
	const from = `docket_item frozen CROSS JOIN item ON item.id = frozen.item_id WHERE ${range} AND ${still}`;
	const sums = await shiftWeights(db, {
		from,
		bindings,
		before: { state: `frozen.${old}_state`, folder: `frozen.${old}_folder_id` },
		after: { state: `frozen.${next}_state`, folder: `frozen.${next}_folder_id` }
	});
	await change(
		db,
		`UPDATE item SET ${set} FROM docket_item frozen WHERE ${range} AND item.id = frozen.item_id AND ${still}`,
		bindings
	);
	await change(db, `UPDATE docket SET progress_item_id = ? WHERE id = ?`, [last, docketId]);
	return sums;
}

/** Counts what carrying out has really changed so far, for the docket's own record. */
export async function addDone(db: Db, docketId: number, { messages, bytes }: Weight, first: boolean): Promise<void> {
	await change(
		db,
		first
			? `UPDATE docket SET messages = ?, bytes = ? WHERE id = ?`
			: `UPDATE docket SET messages = messages + ?, bytes = bytes + ? WHERE id = ?`,
		[messages, bytes, docketId]
	);
}

/** Counts what taking back has really changed so far. */
export async function addTakenBack(db: Db, docketId: number, messages: number): Promise<void> {
	await change(db, `UPDATE docket SET taken_back_messages = taken_back_messages + ? WHERE id = ?`, [
		messages,
		docketId
	]);
}

/** The folders that taking back needs. */
export async function formerFolders(db: Db, docketId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		`SELECT DISTINCT from_folder_id AS id FROM docket_item WHERE docket_id = ?`,
		[docketId]
	);
	return found.map(({ id }) => id);
}
