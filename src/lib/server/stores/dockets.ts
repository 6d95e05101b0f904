import type { Layout } from '../../../core/archive/layout.ts';
import type { Decision, Left } from '../../../core/docket/effects.ts';
import type { Db } from '../database/open.ts';
import { change, insert, rows } from './rows.ts';
import type { LineSums, Scope } from './scopes.ts';

export type DocketState = 'drafted' | 'carrying-out' | 'carried-out' | 'taking-back' | 'taken-back' | 'dropped';

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
	/** Where archived items go. */
	layout: Layout;
	lines: DocketLine[];
}

interface DocketRow extends Omit<Docket, 'lines' | 'layout'> {
	paths: Layout['paths'];
	divide: Layout['divide'];
}

const COLUMNS = `id, mailbox_id AS mailboxId, state, drafted_at AS draftedAt, drafted_by AS draftedBy,
	carried_out_at AS carriedOutAt, carried_out_by AS carriedOutBy, taken_back_at AS takenBackAt, messages, bytes,
	taken_back_messages AS takenBackMessages, progress_item_id AS progressItemId,
	archive_paths AS paths, archive_divide AS divide`;

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
	return dockets.map(({ paths, divide, ...docket }) => ({
		...docket,
		layout: { paths, divide },
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
	draft: { mailboxId: number; at: Date; who: string; layout: Layout; lines: Omit<DocketLine, 'id'>[] }
): Promise<number> {
	const sum = (key: 'messages' | 'bytes') => draft.lines.reduce((total, line) => total + line[key], 0);
	const id = await insert(
		db,
		`INSERT INTO docket (mailbox_id, state, drafted_at, drafted_by, messages, bytes, archive_paths, archive_divide)
		 VALUES (?, 'drafted', ?, ?, ?, ?, ?, ?)`,
		[
			draft.mailboxId,
			draft.at.toISOString(),
			draft.who,
			sum('messages'),
			sum('bytes'),
			draft.layout.paths,
			draft.layout.divide
		]
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
