import type { Layout, Month } from '../../../core/archive/layout.ts';
import { type Decision, isPlace } from '../../../core/docket/decisions.ts';
import { endsItems, type ItemState } from '../../../core/docket/effects.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import type { Db } from '../database/open.ts';
import type { Docket, DocketLine } from './dockets-store.ts';
import { IS_RECORD } from '../mail/item-marks-store.ts';
import { HELD } from '../mail/item-marks-store.ts';
import type { Paused } from '../standing/pauses-store.ts';
import { CLASS_NUMBERS } from '../mail/item-marks-store.ts';
import { change, row, rows } from '../database/rows.ts';
import type { Condition } from '../mail/conditions-store.ts';
import { selection } from './scopes-store.ts';
import { type Shifted, shiftWeights } from '../mail/weights-store.ts';

/* ---- freezing ----------------------------------------------------------------------------------------------------- */

/** A folder that items lie in (archiving), came from (arranging), or go back to (restoring), with a month of theirs. */
export interface Origin {
	/** Null: it is not known where they came from. */
	folderId: number | null;
	path: string;
	/** Empty where the archive is not divided. */
	month: Month;
}

/* Where items come from, as the archive's layout and the bin see it. */
const ORIGIN: Partial<Record<Decision, string>> = {
	arrange: 'ifnull(item.origin_folder_id, item.folder_id)',
	restore: 'item.origin_folder_id'
};
const originOf = (decision: Decision) => ORIGIN[decision] ?? 'item.folder_id';
const monthSql = (layout: Layout) =>
	layout.divide === 'none'
		? `''`
		: `CASE WHEN item.date_in_doubt = 1 OR item.received_on IS NULL THEN '' ELSE substr(item.received_on, 1, 7) END`;

/** Where the items of a line come from. */
export async function lineOrigins(db: Db, docket: Docket, line: DocketLine, paused: Paused): Promise<Origin[]> {
	const { within, chosen } = selection(docket.mailboxId, line, paused);
	return rows<Origin>(
		db,
		`SELECT chosen.folder_id AS folderId, ifnull(folder.path, '') AS path, chosen.month FROM (
			SELECT DISTINCT ${originOf(line.decision)} AS folder_id, ${monthSql(docket.layout)} AS month
			FROM item WHERE ${within.sql} AND ${chosen.sql}
		 ) chosen LEFT JOIN folder ON folder.id = chosen.folder_id`,
		[...within.bindings, ...chosen.bindings]
	);
}

/** A folder of the archive for what comes from a folder in a month. */
export interface Target extends Pick<Origin, 'folderId' | 'month'> {
	targetId: number;
}

/** Where the items of a line go. */
export type Destination =
	/** Into the archive, by where each comes from. */
	| { targets: readonly Target[] }
	/** Back to where each came from; into this folder where nobody knows. */
	| { backElse: number | undefined }
	/** All into one folder. */
	| { folderId: number }
	/** They stay where they are. */
	| 'here';

/* What goes into one folder comes from where it lay, or still from where it came from before it was archived. */
const ORIGIN_IN_ONE_FOLDER: Partial<Record<Decision, string>> = {
	delete: 'item.folder_id',
	arrange: 'item.origin_folder_id'
};

/* The folder each item goes to, and the folder it then counts as coming from. */
function places(decision: Decision, destination: Destination): { to: string; origin: string; bindings: unknown[] } {
	if (destination === 'here') return { to: 'item.folder_id', origin: 'item.origin_folder_id', bindings: [] };
	if ('backElse' in destination)
		return { to: 'ifnull(item.origin_folder_id, ?)', origin: 'NULL', bindings: [destination.backElse ?? null] };
	if ('folderId' in destination)
		return { to: '?', origin: ORIGIN_IN_ONE_FOLDER[decision] ?? 'NULL', bindings: [destination.folderId] };
	return { to: 'target.target_id', origin: originOf(decision), bindings: [] };
}

/* What a decision changes that is not a place: where it stands, and what it becomes. Tags stand in a table of their own. */
const VALUES: Partial<
	Record<
		Decision,
		{ column: 'flagged' | 'seen' | 'kept' | 'pause_id' | 'own_class' | 'own_retention_id'; to: number | null }
	>
> = {
	flag: { column: 'flagged', to: 1 },
	unflag: { column: 'flagged', to: 0 },
	read: { column: 'seen', to: 1 },
	unread: { column: 'seen', to: 0 },
	keep: { column: 'kept', to: 1 },
	release: { column: 'kept', to: 0 },
	pause: { column: 'pause_id', to: null },
	resume: { column: 'pause_id', to: null },
	classify: { column: 'own_class', to: null },
	retain: { column: 'own_retention_id', to: null }
};

/** Freezes the items of a line: what each is, and where it goes. */
export async function freezeItems(
	db: Db,
	docket: Docket,
	line: DocketLine,
	destination: Destination,
	paused: Paused
): Promise<void> {
	const { within, chosen } = selection(docket.mailboxId, line, paused);
	const { to, origin, bindings } = places(line.decision, destination);
	let join = '';
	if (destination !== 'here' && 'targets' in destination) {
		await change(
			db,
			`CREATE TEMP TABLE IF NOT EXISTS target (folder_id INTEGER, month TEXT, target_id INTEGER, PRIMARY KEY (folder_id, month)) WITHOUT ROWID`
		);
		await change(db, `DELETE FROM temp.target`);
		await change(
			db,
			`INSERT INTO temp.target SELECT value ->> 'folderId', value ->> 'month', value ->> 'targetId' FROM json_each(?)`,
			[JSON.stringify(destination.targets)]
		);
		join = `JOIN temp.target ON target.folder_id = ${originOf(line.decision)} AND target.month = ${monthSql(docket.layout)}`;
	}
	const column = VALUES[line.decision]?.column;
	await change(
		db,
		`INSERT INTO docket_item (line_id, item_id, from_state, from_folder_id, from_origin_folder_id, from_binned_on, from_docket_id,
			from_value, to_folder_id, to_origin_folder_id)
		 SELECT ?, item.id, item.state, item.folder_id, item.origin_folder_id, item.binned_on, item.docket_id,
			${column ? `item.${column}` : 'NULL'}, ${to}, ${origin}
		 FROM item ${join} WHERE ${within.sql} AND ${chosen.sql} ORDER BY item.id`,
		[line.id, ...bindings, ...within.bindings, ...chosen.bindings]
	);
}

/* ---- changing ----------------------------------------------------------------------------------------------------- */

/** Frozen items of a line, from the one behind `after` to `last`. */
export interface Batch {
	line: DocketLine;
	docketId: number;
	/** Numbers of the docket's other lines: they may change the same items. */
	otherLines: readonly number[];
	after: number;
	last: number;
}

/** What a batch has changed: by its line, and how much of it no other line of the docket has changed. */
export interface Changed extends Shifted {
	once: Weight;
}

/** The next batch of a docket from its mark of progress on; undefined: everything is done. */
export async function nextBatch(db: Db, docket: Docket, size: number): Promise<Batch | undefined> {
	for (const line of docket.lines) {
		if (line.position < docket.progressPosition) continue;
		const after = line.position === docket.progressPosition ? docket.progressItemId : 0;
		const found = await row<{ last: number | null }>(
			db,
			`SELECT max(item_id) AS last FROM (SELECT item_id FROM docket_item WHERE line_id = ? AND item_id > ? ORDER BY item_id LIMIT ?)`,
			[line.id, after, size]
		);
		const otherLines = docket.lines.flatMap(({ id }) => (id === line.id ? [] : [id]));
		if (found?.last) return { line, docketId: docket.id, otherLines, after, last: found.last };
	}
	return undefined;
}

export type Direction = 'carry-out' | 'take-back';

const TO_STATE: Partial<Record<Decision, ItemState>> = {
	archive: 'archived',
	arrange: 'archived',
	restore: 'live',
	move: 'live',
	delete: 'binned'
};

const RANGE = `frozen.line_id = ? AND frozen.item_id > ? AND frozen.item_id <= ?`;
const rangeOf = ({ line, after, last }: Batch) => [line.id, after, last];

/**
 * Counts what a batch is about to change, each message once in a docket of several lines (invariant 15): when the first line
 * changes it, and when the last one takes it back. Belongs before the change.
 *
 * @param from FROM and WHERE of what it changes, with `item` among it
 * @param sums what it changes by its line
 */
export async function countOnce(
	db: Db,
	direction: Direction,
	{ line, otherLines }: Batch,
	{ sql: from, bindings }: Condition,
	sums: Weight
): Promise<Weight> {
	if (otherLines.length === 0) return sums;
	const once = await row<Weight>(
		db,
		`SELECT count(*) AS messages, ifnull(sum(item.bytes), 0) AS bytes FROM ${from} AND NOT EXISTS (
			SELECT 1 FROM docket_item other WHERE other.line_id IN (SELECT value FROM json_each(?)) AND other.item_id = item.id AND other.done = 1)`,
		[...bindings, JSON.stringify(otherLines)]
	);
	await change(db, `UPDATE docket_item SET done = ? WHERE line_id = ? AND item_id IN (SELECT item.id FROM ${from})`, [
		direction === 'carry-out' ? 1 : 0,
		line.id,
		...bindings
	]);
	return once ?? { messages: 0, bytes: 0 };
}

/** How many messages a docket meant when it was frozen and did not change, as they had been changed since. */
export async function countLeftSince(db: Db, { lines }: Docket): Promise<number> {
	const [only, ...others] = lines;
	if (only && others.length === 0) return only.messages - only.doneMessages;
	const found = await row<{ n: number }>(
		db,
		`SELECT count(DISTINCT item_id) AS n FROM docket_item WHERE done = 0 AND line_id IN (SELECT value FROM json_each(?))`,
		[JSON.stringify(lines.map(({ id }) => id))]
	);
	return found?.n ?? 0;
}

/* A record that is moved stays the record that it was, whatever the folder it comes to says. */
const PINNED = `, own_class = CASE WHEN ${IS_RECORD} THEN item.class ELSE own_class END,
	own_retention_id = CASE WHEN ${IS_RECORD} THEN item.retention_id ELSE own_retention_id END`;

/* Both directions are one statement over the frozen items that are still as they were, or as the docket left them. */
async function changePlaces(db: Db, direction: Direction, batch: Batch, today: string): Promise<Changed> {
	const state = TO_STATE[batch.line.decision];
	if (!state) throw new Error(`No state follows from "${batch.line.decision}"`);
	const carrying = direction === 'carry-out';
	// the words are the code's own
	const left = `'${state}'`;
	const [old, next] = carrying ? ['frozen.from_state', left] : [left, 'frozen.from_state'];
	const [oldFolder, nextFolder] = carrying
		? ['frozen.from_folder_id', 'frozen.to_folder_id']
		: ['frozen.to_folder_id', 'frozen.from_folder_id'];
	// a hold that was placed meanwhile stands, also against what is frozen, and nothing under it goes back into the bin
	const ends = carrying ? endsItems(batch.line.decision) && '1' : `frozen.from_state = 'binned'`;
	const barred = batch.line.decision === 'delete' && carrying ? `(${HELD} OR ${IS_RECORD})` : HELD;
	const free = ends ? ` AND NOT (${ends} AND ${barred})` : '';
	const still = `item.state = ${old} AND item.folder_id = ${oldFolder}${carrying ? '' : ` AND item.docket_id = ?`}${free}`;
	const stillBindings = carrying ? [] : [batch.docketId];
	const bindings = [...rangeOf(batch), ...stillBindings];
	const from = `docket_item frozen CROSS JOIN item ON item.id = frozen.item_id WHERE ${RANGE} AND ${still}`;
	const sums = await shiftWeights(db, {
		from,
		bindings,
		before: { state: old, folder: oldFolder },
		after: { state: next, folder: nextFolder }
	});
	const once = await countOnce(db, direction, batch, { sql: from, bindings }, sums);
	const set = carrying
		? `state = ${left}, folder_id = frozen.to_folder_id, origin_folder_id = frozen.to_origin_folder_id,
			binned_on = ${state === 'binned' ? '?' : 'NULL'}, docket_id = ?${batch.line.decision === 'move' ? PINNED : ''}`
		: `state = frozen.from_state, folder_id = frozen.from_folder_id, origin_folder_id = frozen.from_origin_folder_id,
			binned_on = frozen.from_binned_on, docket_id = frozen.from_docket_id`;
	const setBindings = carrying ? [...(state === 'binned' ? [today] : []), batch.docketId] : [];
	await change(
		db,
		`UPDATE item SET ${set} FROM docket_item frozen WHERE ${RANGE} AND item.id = frozen.item_id AND ${still}`,
		[...setBindings, ...bindings]
	);
	return { ...sums, once };
}

const SUMS = `SELECT count(*) AS messages, ifnull(sum(item.bytes), 0) AS bytes, 0 AS freedMessages, 0 AS freedBytes`;
const NOTHING: Shifted = { messages: 0, bytes: 0, freedMessages: 0, freedBytes: 0 };

async function changeTags(db: Db, direction: Direction, batch: Batch, tagId: number): Promise<Changed> {
	const adds = (batch.line.decision === 'tag') === (direction === 'carry-out');
	const between = `tag_id = ? AND item_id > ? AND item_id <= ?`;
	const someHaveIt = await row(db, `SELECT 1 FROM item_tag WHERE ${between} LIMIT 1`, [tagId, batch.after, batch.last]);
	// by one look for each, where there is anything to see: what else has the tag may be much more than the batch
	const has = `EXISTS (SELECT 1 FROM item_tag WHERE item_tag.item_id = frozen.item_id AND tag_id = ?)`;
	const changes: Condition = someHaveIt
		? { sql: ` AND ${adds ? 'NOT ' : ''}${has}`, bindings: [tagId] }
		: { sql: adds ? '' : ' AND 0', bindings: [] };
	const from = `docket_item frozen CROSS JOIN item ON item.id = frozen.item_id WHERE ${RANGE}${changes.sql}`;
	const bindings = [...rangeOf(batch), ...changes.bindings];
	const sums = (await row<Shifted>(db, `${SUMS} FROM ${from}`, bindings)) ?? NOTHING;
	const once = await countOnce(db, direction, batch, { sql: from, bindings }, sums);
	await change(
		db,
		adds
			? `INSERT INTO item_tag (item_id, tag_id) SELECT frozen.item_id, ? FROM docket_item frozen WHERE ${RANGE} ON CONFLICT DO NOTHING`
			: `DELETE FROM item_tag WHERE tag_id = ? AND item_id IN (SELECT frozen.item_id FROM docket_item frozen WHERE ${RANGE})`,
		[tagId, ...rangeOf(batch)]
	);
	return { ...sums, once };
}

/* What a decision puts on items, where that is not always the same. */
function givenBy(
	{ decision, options }: DocketLine,
	given: Pick<ChangeWith, 'pauseId' | 'retentionId'>
): number | undefined {
	if (decision === 'pause') return given.pauseId;
	if (decision === 'classify') return options.class ? CLASS_NUMBERS[options.class] : undefined;
	return decision === 'retain' ? (given.retentionId ?? undefined) : undefined;
}

async function changeValues(
	db: Db,
	direction: Direction,
	batch: Batch,
	given: Pick<ChangeWith, 'pauseId' | 'retentionId'>
): Promise<Changed> {
	const value = VALUES[batch.line.decision];
	if (!value) throw new Error(`Nothing on an item is changed by "${batch.line.decision}"`);
	const { column } = value;
	const to = givenBy(batch.line, given) ?? value.to;
	const carrying = direction === 'carry-out';
	const still = carrying ? `item.${column} IS frozen.from_value` : `item.${column} IS ?`;
	const stillBindings = carrying ? [] : [to];
	const from = `docket_item frozen CROSS JOIN item ON item.id = frozen.item_id WHERE ${RANGE} AND ${still}`;
	const bindings = [...rangeOf(batch), ...stillBindings];
	if (column === 'seen') {
		const [old, next] = carrying ? ['frozen.from_value', String(to)] : [String(to), 'frozen.from_value'];
		const here = { state: 'item.state', folder: 'item.folder_id' };
		await shiftWeights(db, {
			from,
			bindings,
			before: { ...here, unread: `ifnull(${old} = 0, 0)` },
			after: { ...here, unread: `ifnull(${next} = 0, 0)` }
		});
	}
	const sums = (await row<Shifted>(db, `${SUMS} FROM ${from}`, bindings)) ?? NOTHING;
	const once = await countOnce(db, direction, batch, { sql: from, bindings }, sums);
	await change(
		db,
		`UPDATE item SET ${column} = ${carrying ? '?' : 'frozen.from_value'} FROM docket_item frozen
		 WHERE ${RANGE} AND item.id = frozen.item_id AND ${still}`,
		[...(carrying ? [to] : []), ...bindings]
	);
	return { ...sums, once };
}

/** What a batch needs beside its items. */
export interface ChangeWith {
	/** On which date of the office's calendar it happens. */
	today: string;
	tagId: number | undefined;
	pauseId: number | undefined;
	retentionId: number | null | undefined;
}

/**
 * Changes the items of one batch, and the summaries with them. The one place in Kovrel that changes an item's state, or what
 * people have put on it; what is destroyed goes by docket/destroying-store.
 */
export async function changeBatch(
	db: Db,
	direction: Direction,
	batch: Batch,
	{ today, tagId, ...given }: ChangeWith
): Promise<Changed> {
	const { decision } = batch.line;
	if (isPlace(decision)) return changePlaces(db, direction, batch, today);
	if (decision === 'tag' || decision === 'untag') return changeTags(db, direction, batch, tagId as number);
	return changeValues(db, direction, batch, given);
}

/** Notes how far a docket has come, and what a line has really done. */
export async function putProgress(db: Db, direction: Direction, batch: Batch, done: Changed): Promise<void> {
	await change(db, `UPDATE docket SET progress_position = ?, progress_item_id = ? WHERE id = ?`, [
		batch.line.position,
		batch.last,
		batch.docketId
	]);
	if (direction === 'take-back')
		await change(db, `UPDATE docket SET taken_back_messages = taken_back_messages + ? WHERE id = ?`, [
			done.once.messages,
			batch.docketId
		]);
	else {
		await change(
			db,
			`UPDATE docket_line SET done_messages = done_messages + ?, done_bytes = done_bytes + ? WHERE id = ?`,
			[done.messages, done.bytes, batch.line.id]
		);
		await change(db, `UPDATE docket SET messages = messages + ?, bytes = bytes + ? WHERE id = ?`, [
			done.once.messages,
			done.once.bytes,
			batch.docketId
		]);
	}
}

/** The folders that taking back needs. */
export async function formerFolders(db: Db, docketId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		`SELECT DISTINCT from_folder_id AS id FROM docket_item WHERE line_id IN (SELECT id FROM docket_line WHERE docket_id = ?)`,
		[docketId]
	);
	return found.map(({ id }) => id);
}
