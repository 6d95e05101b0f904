import type { Decision, ItemState, Left, LeftReason } from '../../../core/docket/effects.ts';
import type { Db } from '../database/open.ts';
import { change, insert, row, rows } from './rows.ts';
import { shiftWeights } from './weights.ts';

/** Which items a line of a docket means. */
export type Scope =
	/** Live items received before a date, of one folder with its subfolders or of the whole mailbox. */
	| { kind: 'before'; before: string; folderIds: number[] | undefined; folderPath: string | undefined }
	| { kind: 'items'; ids: number[] };

export type DocketState = 'drafted' | 'carrying-out' | 'carried-out' | 'taking-back' | 'taken-back' | 'dropped';

/** Sums of the items that a line means. */
export interface LineSums {
	messages: number;
	bytes: number;
	folders: number;
	oldest: string | undefined;
	newest: string | undefined;
	left: Left[];
}

/** One decision of a docket. */
export interface DocketLine extends LineSums {
	id: number;
	decision: Decision;
	scope: Scope;
}

/** A docket. */
export interface Docket {
	id: number;
	mailboxId: number;
	state: DocketState;
	draftedAt: string;
	draftedBy: string;
	carriedOutAt: string | null;
	carriedOutBy: string | null;
	takenBackAt: string | null;
	messages: number;
	bytes: number;
	takenBackMessages: number;
	progressItemId: number;
	lines: DocketLine[];
}

/* ---- which items a scope means ----------------------------------------------------------------------------------- */

interface Condition {
	sql: string;
	bindings: unknown[];
}

/* The store's form of core/docket/effects: of the items within reach of a scope, which ones the decision changes, and
   under which name the others are left. */
interface Selection {
	within: Condition;
	chosen: Condition;
	/** SQL that gives the reason for the items that are not chosen. */
	reason: Condition;
}

function within(mailboxId: number, scope: Scope): Condition {
	if (scope.kind === 'items')
		return {
			sql: `item.id IN (SELECT value FROM json_each(?)) AND item.mailbox_id = ?`,
			bindings: [JSON.stringify(scope.ids), mailboxId]
		};
	const limited = scope.folderIds !== undefined;
	return {
		sql: `item.mailbox_id = ? AND item.state IN ('live', 'binned')${limited ? ` AND item.folder_id IN (SELECT value FROM json_each(?))` : ''}`,
		bindings: [mailboxId, ...(limited ? [JSON.stringify(scope.folderIds)] : [])]
	};
}

function selection(mailboxId: number, decision: Decision, scope: Scope): Selection {
	if (decision === 'restore')
		return {
			within: within(mailboxId, scope),
			chosen: { sql: `item.state IN ('archived', 'binned')`, bindings: [] },
			reason: { sql: `item.state`, bindings: [] }
		};
	const before = scope.kind === 'before' ? scope.before : '';
	return {
		within: within(mailboxId, scope),
		chosen: { sql: `item.state = 'live' AND item.date_in_doubt = 0 AND item.received_on < ?`, bindings: [before] },
		reason: {
			sql: `CASE WHEN item.state <> 'live' THEN item.state
				WHEN item.date_in_doubt = 1 OR item.received_on IS NULL THEN 'date-in-doubt' ELSE 'newer' END`,
			bindings: []
		}
	};
}

/** Counts what a decision would do, without doing it. */
export async function countSelection(db: Db, mailboxId: number, decision: Decision, scope: Scope): Promise<LineSums> {
	const { within, chosen, reason } = selection(mailboxId, decision, scope);
	const sums = await row<{
		messages: number;
		bytes: number;
		folders: number;
		oldest: string | null;
		newest: string | null;
	}>(
		db,
		`SELECT count(*) AS messages, ifnull(sum(bytes), 0) AS bytes, count(DISTINCT folder_id) AS folders,
			min(received_on) AS oldest, max(received_on) AS newest
		 FROM item WHERE ${within.sql} AND ${chosen.sql}`,
		[...within.bindings, ...chosen.bindings]
	);
	const left = await rows<{ reason: LeftReason; messages: number }>(
		db,
		`SELECT ${reason.sql} AS reason, count(*) AS messages FROM item
		 WHERE ${within.sql} AND NOT ifnull(${chosen.sql}, 0) GROUP BY 1 ORDER BY 2 DESC`,
		[...reason.bindings, ...within.bindings, ...chosen.bindings]
	);
	return {
		messages: sums?.messages ?? 0,
		bytes: sums?.bytes ?? 0,
		folders: sums?.folders ?? 0,
		oldest: sums?.oldest ?? undefined,
		newest: sums?.newest ?? undefined,
		left
	};
}

/** What a decision would do in one folder. */
export interface FolderSums {
	path: string;
	messages: number;
	bytes: number;
	oldest: string | null;
	newest: string | null;
}

/** The same counts, folder by folder. */
export async function countByFolder(
	db: Db,
	mailboxId: number,
	decision: Decision,
	scope: Scope
): Promise<FolderSums[]> {
	const { within, chosen } = selection(mailboxId, decision, scope);
	return rows<FolderSums>(
		db,
		`SELECT folder.path, chosen.messages, chosen.bytes, chosen.oldest, chosen.newest FROM (
			SELECT folder_id, count(*) AS messages, sum(bytes) AS bytes, min(received_on) AS oldest, max(received_on) AS newest
			FROM item WHERE ${within.sql} AND ${chosen.sql} GROUP BY folder_id
		 ) chosen JOIN folder ON folder.id = chosen.folder_id ORDER BY folder.path`,
		[...within.bindings, ...chosen.bindings]
	);
}

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

/* ---- dockets ------------------------------------------------------------------------------------------------------ */

interface DocketRow extends Omit<Docket, 'lines'> {
	id: number;
}

const COLUMNS = `id, mailbox_id AS mailboxId, state, drafted_at AS draftedAt, drafted_by AS draftedBy,
	carried_out_at AS carriedOutAt, carried_out_by AS carriedOutBy, taken_back_at AS takenBackAt, messages, bytes,
	taken_back_messages AS takenBackMessages, progress_item_id AS progressItemId`;

async function withLines(db: Db, dockets: DocketRow[]): Promise<Docket[]> {
	const lines = await rows<{
		docketId: number;
		id: number;
		decision: Decision;
		scope: string;
		messages: number;
		bytes: number;
		folders: number;
		oldest: string | null;
		newest: string | null;
		left: string;
	}>(
		db,
		`SELECT docket_id AS docketId, id, decision, scope, messages, bytes, folders, oldest, newest, "left" FROM docket_line
		 WHERE docket_id IN (SELECT value FROM json_each(?)) ORDER BY docket_id, position`,
		[JSON.stringify(dockets.map(({ id }) => id))]
	);
	return dockets.map((docket) => ({
		...docket,
		lines: lines
			.filter(({ docketId }) => docketId === docket.id)
			.map(({ scope, left, oldest, newest, id, decision, messages, bytes, folders }) => ({
				id,
				decision,
				messages,
				bytes,
				folders,
				scope: JSON.parse(scope) as Scope,
				left: JSON.parse(left) as Left[],
				oldest: oldest ?? undefined,
				newest: newest ?? undefined
			}))
	}));
}

/** The docket with that number. */
export async function getDocket(db: Db, id: number): Promise<Docket | undefined> {
	return (await withLines(db, await rows<DocketRow>(db, `SELECT ${COLUMNS} FROM docket WHERE id = ?`, [id])))[0];
}

/** Dockets of a mailbox in certain states, the newest first. */
export async function listDockets(
	db: Db,
	mailboxId: number,
	states: readonly DocketState[],
	limit: number
): Promise<Docket[]> {
	return withLines(
		db,
		await rows<DocketRow>(
			db,
			`SELECT ${COLUMNS} FROM docket WHERE mailbox_id = ? AND state IN (SELECT value FROM json_each(?)) ORDER BY id DESC LIMIT ?`,
			[mailboxId, JSON.stringify(states), limit]
		)
	);
}

/** Stores a draft and returns its number. */
export async function addDocket(
	db: Db,
	draft: { mailboxId: number; at: Date; who: string; lines: Omit<DocketLine, 'id'>[] }
): Promise<number> {
	const sum = (key: 'messages' | 'bytes') => draft.lines.reduce((total, line) => total + line[key], 0);
	const id = await insert(
		db,
		`INSERT INTO docket (mailbox_id, state, drafted_at, drafted_by, messages, bytes) VALUES (?, 'drafted', ?, ?, ?, ?)`,
		[draft.mailboxId, draft.at.toISOString(), draft.who, sum('messages'), sum('bytes')]
	);
	let position = 0;
	for (const line of draft.lines)
		await insert(
			db,
			`INSERT INTO docket_line (docket_id, position, decision, scope, messages, bytes, folders, oldest, newest, "left")
			 VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
			[id, ++position, line.decision, JSON.stringify(line.scope), ...sumsRow(line)]
		);
	return id;
}

function sumsRow({ messages, bytes, folders, oldest, newest, left }: LineSums): unknown[] {
	return [messages, bytes, folders, oldest ?? null, newest ?? null, JSON.stringify(left)];
}

/** Puts new counts on a draft. */
export async function putLineSums(db: Db, docketId: number, lineId: number, sums: LineSums): Promise<void> {
	await change(
		db,
		`UPDATE docket_line SET messages = ?, bytes = ?, folders = ?, oldest = ?, newest = ?, "left" = ? WHERE id = ?`,
		[...sumsRow(sums), lineId]
	);
	await change(
		db,
		`UPDATE docket SET (messages, bytes) = (SELECT sum(messages), sum(bytes) FROM docket_line WHERE docket_id = ?) WHERE id = ?`,
		[docketId, docketId]
	);
}

/** Changes the state of a docket, with what belongs to the new state. */
export async function putDocketState(
	db: Db,
	id: number,
	state: DocketState,
	by?: { at: Date; who: string }
): Promise<void> {
	const stamp = by && (state === 'carrying-out' ? 'carried_out' : 'taken_back');
	await change(
		db,
		`UPDATE docket SET state = ?${stamp ? `, ${stamp}_at = ?, ${stamp}_by = ?, progress_item_id = 0` : ''} WHERE id = ?`,
		[state, ...(by ? [by.at.toISOString(), by.who] : []), id]
	);
}

/* ---- carrying out and taking back -------------------------------------------------------------------------------- */

/** Where the items of a line go: the folder for each folder that they lie in. */
export type Targets = ReadonlyMap<number, number>;

/** The folders in which the items of a line lie (archiving), or to which they go back (restoring). */
export async function selectionFolders(
	db: Db,
	mailboxId: number,
	line: DocketLine
): Promise<{ id: number | null; path: string }[]> {
	const { within, chosen } = selection(mailboxId, line.decision, line.scope);
	const column = line.decision === 'restore' ? 'origin_folder_id' : 'folder_id';
	return rows<{ id: number | null; path: string }>(
		db,
		`SELECT chosen.id, ifnull(folder.path, '') AS path FROM (
			SELECT DISTINCT item.${column} AS id FROM item WHERE ${within.sql} AND ${chosen.sql}
		 ) chosen LEFT JOIN folder ON folder.id = chosen.id`,
		[...within.bindings, ...chosen.bindings]
	);
}

/**
 * Freezes the items of a line: what each is and what it becomes.
 *
 * @param targets for archiving, the archive folder for each folder; for restoring, only used for items without origin
 */
export async function freezeItems(
	db: Db,
	docket: Docket,
	line: DocketLine,
	targets: Targets,
	fallbackFolderId: number | undefined
): Promise<number> {
	const { within, chosen } = selection(docket.mailboxId, line.decision, line.scope);
	const toState: ItemState = line.decision === 'restore' ? 'live' : 'archived';
	const restoring = line.decision === 'restore';
	return change(
		db,
		`INSERT INTO docket_item (docket_id, item_id, line_id, from_state, from_folder_id, from_origin_folder_id, from_binned_on,
			from_docket_id, to_state, to_folder_id, to_origin_folder_id)
		 SELECT ?, item.id, ?, item.state, item.folder_id, item.origin_folder_id, item.binned_on, item.docket_id, ?,
			${restoring ? 'ifnull(item.origin_folder_id, ?)' : 'target.value ->> 1'}, ${restoring ? 'NULL' : 'item.folder_id'}
		 FROM item ${restoring ? '' : `JOIN json_each(?) target ON target.value ->> 0 = item.folder_id`}
		 WHERE ${within.sql} AND ${chosen.sql} ORDER BY item.id`,
		[
			docket.id,
			line.id,
			toState,
			restoring ? (fallbackFolderId ?? null) : JSON.stringify([...targets]),
			...within.bindings,
			...chosen.bindings
		]
	);
}

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

/** Items changed by a batch, and their bytes. */
export interface BatchSums {
	messages: number;
	bytes: number;
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
): Promise<BatchSums> {
	const { old, next, still, set } = DIRECTIONS[direction];
	const range = `frozen.docket_id = ? AND frozen.item_id > ? AND frozen.item_id <= ?`;
	const bindings = [docketId, after, last];
	const from = `docket_item frozen CROSS JOIN item ON item.id = frozen.item_id WHERE ${range} AND ${still}`;
	const sums = await row<BatchSums>(
		db,
		`SELECT count(*) AS messages, ifnull(sum(item.bytes), 0) AS bytes FROM ${from}`,
		bindings
	);
	await shiftWeights(db, [
		{ sign: -1, state: `frozen.${old}_state`, folder: `frozen.${old}_folder_id`, from, bindings },
		{ sign: 1, state: `frozen.${next}_state`, folder: `frozen.${next}_folder_id`, from, bindings }
	]);
	await change(
		db,
		`UPDATE item SET ${set} FROM docket_item frozen WHERE ${range} AND item.id = frozen.item_id AND ${still}`,
		bindings
	);
	await change(db, `UPDATE docket SET progress_item_id = ? WHERE id = ?`, [last, docketId]);
	return sums ?? { messages: 0, bytes: 0 };
}

/** Counts what carrying out has really changed so far, for the docket's own record. */
export async function addDone(db: Db, docketId: number, { messages, bytes }: BatchSums, first: boolean): Promise<void> {
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
