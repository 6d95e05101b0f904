import type { Actor, By } from '../../../core/access/roles.ts';
import type { Layout } from '../../../core/archive/layout.ts';
import type { Left } from '../../../core/docket/left.ts';
import type { Conflict } from '../../../core/docket/sentences.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { change, type Db, idOf, putSetting, row, rows, sql } from '../database/index.ts';
import type { Decided, LineSums, Scope } from './scope.ts';

export type DocketState = 'drafted' | 'carrying-out' | 'carried-out' | 'taking-back' | 'taken-back' | 'dropped';

/** States of unfinished dockets. */
export const OPEN_STATES: readonly DocketState[] = ['drafted', 'carrying-out', 'taking-back'];

/** One decision of a docket. */
export interface DocketLine extends Decided, LineSums {
	id: number;
	/** From 1, in the order in which they were decided. */
	position: number;
	/** Items that this and other lines claim. */
	conflicts: Conflict[];
	/** The real counts. */
	doneMessages: number;
	doneBytes: number;
	/** The name of the class that it sets. */
	className: string | null;
}

/** A docket. */
export interface Docket {
	id: number;
	mailboxId: number;
	/** Empty without a name. */
	name: string;
	state: DocketState;
	draftedAt: string;
	draftedBy: string;
	carriedOutAt: string | null;
	carriedOutBy: string | null;
	/** The person's number; null if no person did it. */
	draftedById: number | null;
	carriedOutById: number | null;
	takenBackAt: string | null;
	messages: number;
	bytes: number;
	takenBackMessages: number;
	/** The progress of carrying out or taking back: the line, and its last item. */
	progressPosition: number;
	progressItemId: number;
	/** The layout for archived items. */
	layout: Layout;
	/** The person who approved its destruction, if that was needed. */
	approvedAt: string | null;
	approvedBy: string | null;
	approvedById: number | null;
	/** Everybody who added or removed lines since it was drafted. */
	changedBy: By[];
	lines: DocketLine[];
}

interface DocketRow extends Omit<Docket, 'lines' | 'layout' | 'changedBy'> {
	levels: string;
}

const COLUMNS = {
	id: 'id',
	mailboxId: 'mailbox_id',
	name: 'name',
	state: 'state',
	draftedAt: 'drafted_at',
	draftedBy: 'drafted_by',
	carriedOutAt: 'carried_out_at',
	carriedOutBy: 'carried_out_by',
	takenBackAt: 'taken_back_at',
	messages: 'messages',
	bytes: 'bytes',
	takenBackMessages: 'taken_back_messages',
	progressPosition: 'progress_position',
	progressItemId: 'progress_item_id',
	levels: 'archive_levels',
	approvedAt: 'approved_at',
	approvedBy: 'approved_by',
	draftedById: 'drafted_by_id',
	carriedOutById: 'carried_out_by_id',
	approvedById: 'approved_by_id'
} as const;

const LINE_COLUMNS = {
	docketId: 'docket_id',
	id: 'id',
	position: 'position',
	decision: 'decision',
	options: 'options',
	scope: 'scope',
	messages: 'messages',
	bytes: 'bytes',
	folders: 'folders',
	oldest: 'oldest',
	newest: 'newest',
	flagged: 'flagged',
	left: 'left',
	conflicts: 'conflicts',
	elsewhere: 'elsewhere',
	doneMessages: 'done_messages',
	doneBytes: 'done_bytes'
} as const;

async function withLines(db: Db, dockets: DocketRow[]): Promise<Docket[]> {
	const ids = dockets.map(({ id }) => id);
	const lines = await db('docket_line')
		.whereIn('docket_id', ids)
		.orderBy(['docket_id', 'position'])
		.select(LINE_COLUMNS)
		.select({
			className: db('record_class')
				.whereRaw("record_class.word = json_extract(docket_line.options, '$.class')")
				.select('name')
		});
	const changers = await db('docket_changer')
		.whereIn('docket_id', ids)
		.select({ docketId: 'docket_id', personId: 'person_id', name: 'name' });
	return dockets.map(({ levels, ...docket }) => ({
		...docket,
		changedBy: changers.flatMap(({ docketId, ...by }) => (docketId === docket.id ? [by] : [])),
		layout: JSON.parse(levels) as Layout,
		lines: lines
			.filter(({ docketId }) => docketId === docket.id)
			.map(({ scope, options, left, conflicts, oldest, newest, ...line }) => ({
				...line,
				scope: JSON.parse(scope) as Scope,
				options: JSON.parse(options) as DocketLine['options'],
				left: JSON.parse(left) as Left[],
				conflicts: JSON.parse(conflicts) as Conflict[],
				oldest: oldest ?? undefined,
				newest: newest ?? undefined
			}))
	}));
}

/** The docket with that number. */
export async function getDocket(db: Db, id: number): Promise<Docket | undefined> {
	return (await withLines(db, await db('docket').where({ id }).select(COLUMNS)))[0];
}

/** When an archived item was archived; undefined if no docket did it. */
export async function archivingOf(db: Db, itemId: number): Promise<string | undefined> {
	const found = await row<{ at: string | null }>(
		db,
		sql`SELECT max(carried_out_at) AS at FROM docket_line CROSS JOIN docket_item ON line_id = docket_line.id AND item_id = ${itemId}
			JOIN docket ON docket.id = docket_line.docket_id
		 WHERE decision = 'archive' AND docket.state IN ('carrying-out', 'carried-out')`
	);
	return found?.at ?? undefined;
}

/** The states of some dockets, by their numbers. */
export async function docketStates(db: Db, ids: readonly number[]): Promise<Map<number, DocketState>> {
	const found = await db('docket').whereIn('id', ids).select('id', 'state');
	return new Map(found.map(({ id, state }) => [id, state]));
}

/** Dockets in certain states, the newest first. */
export async function listDockets(
	db: Db,
	{ mailboxId, states, limit }: { mailboxId?: number; states: readonly DocketState[]; limit: number }
): Promise<Docket[]> {
	const ofMailbox = mailboxId === undefined ? {} : { mailbox_id: mailboxId };
	return withLines(
		db,
		await db('docket').whereIn('state', states).where(ofMailbox).orderBy('id', 'desc').limit(limit).select(COLUMNS)
	);
}

/**
 * For a scheduled decision in a mailbox: whether a docket of it was carried out, which one is drafted, and which one
 * was begun, by whom. Dockets before {@link askAnew} do not count.
 */
export async function scheduledDockets(
	db: Db,
	mailboxId: number,
	name: string
): Promise<{ hasRun: boolean; draftId: number | undefined; begun: { id: number; by: By } | undefined }> {
	const found = await row<{
		hasRun: number | null;
		draftId: number | null;
		begunId: number | null;
		who: string | null;
		personId: number | null;
	}>(
		db,
		sql`SELECT max(state = 'carried-out' AND id > behind) AS hasRun, max(CASE WHEN state = 'drafted' THEN id END) AS draftId,
			max(CASE WHEN state = 'carrying-out' THEN id END) AS begunId,
			max(CASE WHEN state = 'carrying-out' AND id > behind THEN carried_out_by END) AS who,
			max(CASE WHEN state = 'carrying-out' AND id > behind THEN carried_out_by_id END) AS personId
		 FROM docket CROSS JOIN (SELECT ifnull(max(CAST(value AS INTEGER)), 0) AS behind FROM setting WHERE key = 'asks-anew-behind')
		 WHERE mailbox_id = ${mailboxId} AND by_itself = ${name}`
	);
	return {
		hasRun: found?.hasRun === 1,
		draftId: found?.draftId ?? undefined,
		begun: found?.begunId ? { id: found.begunId, by: { personId: found.personId, name: found.who ?? '' } } : undefined
	};
}

/** Makes every scheduled decision ask again before it next runs. */
export async function askAnew(db: Db): Promise<void> {
	const last = await row<{ id: number | null }>(db, sql`SELECT max(id) AS id FROM docket`);
	await putSetting(db, 'asks-anew-behind', String(last?.id ?? 0));
}

/** Stores an empty draft and returns its number. */
export async function addDocket(
	db: Db,
	draft: { mailboxId: number; at: Date; by: By; layout: Layout; name?: string; byItself?: boolean }
): Promise<number> {
	const { mailboxId, at, by, layout, name = '', byItself = false } = draft;
	return idOf(
		db('docket').insert({
			mailbox_id: mailboxId,
			name,
			state: 'drafted',
			drafted_at: at.toISOString(),
			drafted_by: by.name,
			drafted_by_id: by.personId,
			messages: 0,
			bytes: 0,
			archive_levels: JSON.stringify(layout),
			by_itself: byItself ? name : ''
		})
	);
}

/** Adds lines to a draft, in their order. */
export async function addDocketLines(db: Db, docketId: number, lines: readonly Decided[]): Promise<void> {
	const json = JSON.stringify(
		lines.map(({ decision, options, scope }) => ({
			decision,
			options: JSON.stringify(options),
			scope: JSON.stringify(scope)
		}))
	);
	await change(
		db,
		sql`INSERT INTO docket_line (docket_id, position, decision, options, scope, messages, bytes, folders, "left")
		 SELECT ${docketId}, (SELECT ifnull(max(position), 0) FROM docket_line WHERE docket_id = ${docketId}) + key + 1,
			value ->> 'decision', value ->> 'options', value ->> 'scope', 0, 0, 0, '[]' FROM json_each(${json}) WHERE true ORDER BY key`
	);
	await putApproval(db, docketId, undefined);
}

/** Removes a line from a draft. @returns whether it existed */
export async function discardDocketLine(db: Db, docketId: number, lineId: number): Promise<boolean> {
	await putApproval(db, docketId, undefined);
	return (await db('docket_line').where({ docket_id: docketId, id: lineId }).delete()) > 0;
}

/** Changes the scope of a line of a draft. */
export async function putLineScope(db: Db, lineId: number, scope: Scope): Promise<void> {
	await db('docket_line')
		.where({ id: lineId })
		.update({ scope: JSON.stringify(scope) });
}

/** Stores the options that a line needs to be carried out. */
export async function putLineOptions(db: Db, lineId: number, options: DocketLine['options']): Promise<void> {
	await db('docket_line')
		.where({ id: lineId })
		.update({ options: JSON.stringify(options) });
}

/** Updates the counts of a draft's line. */
export async function putLineSums(
	db: Db,
	lines: readonly (LineSums & { id: number; conflicts: readonly Conflict[] })[]
): Promise<void> {
	const json = JSON.stringify(
		lines.map(({ id, messages, bytes, folders, oldest, newest, flagged, left, elsewhere, conflicts }) => ({
			...{ id, messages, bytes, folders, oldest, newest, flagged, elsewhere },
			left: JSON.stringify(left),
			conflicts: JSON.stringify(conflicts)
		}))
	);
	await change(
		db,
		sql`WITH counted AS MATERIALIZED (SELECT value AS sums, value ->> 'id' AS id FROM json_each(${json}))
		 UPDATE docket_line SET messages = sums ->> 'messages', bytes = sums ->> 'bytes', folders = sums ->> 'folders',
			oldest = sums ->> 'oldest', newest = sums ->> 'newest', flagged = sums ->> 'flagged', elsewhere = sums ->> 'elsewhere',
			"left" = sums ->> 'left', conflicts = sums ->> 'conflicts'
		 FROM counted WHERE docket_line.id = counted.id`
	);
}

/** Records that somebody changed a draft. */
export async function putChanger(db: Db, docketId: number, { personId, name }: By): Promise<void> {
	await db('docket_changer').insert({ docket_id: docketId, person_id: personId, name }).onConflict().ignore();
}

/** Records the approval of a docket's destruction; undefined: it is withdrawn. */
export async function putApproval(db: Db, docketId: number, given: { at: Date; by: By } | undefined): Promise<void> {
	const { name = null, personId = null } = given?.by ?? {};
	await db('docket')
		.where({ id: docketId })
		.update({ approved_at: given?.at.toISOString() ?? null, approved_by: name, approved_by_id: personId });
}

/** Updates a draft's sums; a change of them withdraws the approval. */
export async function putDocketSums(db: Db, docketId: number, { messages, bytes }: Weight): Promise<void> {
	await change(
		db,
		sql`UPDATE docket SET approved_at = NULL, approved_by = NULL, approved_by_id = NULL WHERE id = ${docketId} AND (messages, bytes) <> (${messages}, ${bytes})`
	);
	await db('docket').where({ id: docketId }).update({ messages, bytes });
}

/** Gives a docket a name. */
export async function putDocketName(db: Db, id: number, name: string): Promise<void> {
	await db('docket').where({ id }).update({ name });
}

/** Sets a draft's own layout for archived items. */
export async function putDocketLayout(db: Db, id: number, layout: Layout): Promise<void> {
	await db('docket')
		.where({ id })
		.update({ archive_levels: JSON.stringify(layout) });
}

/** Changes the state of a docket, with what belongs to the new state. */
export async function putDocketState(
	db: Db,
	id: number,
	state: DocketState,
	done?: { at: Date; by: By }
): Promise<void> {
	if (!done) {
		await db('docket').where({ id }).update({ state });
		return;
	}
	const at = done.at.toISOString();
	const { name, personId } = done.by;
	// from here on its sums are those of what was done
	const stamp =
		state === 'carrying-out'
			? sql`carried_out_at = ${at}, carried_out_by = ${name}, carried_out_by_id = ${personId}, messages = 0, bytes = 0`
			: sql`taken_back_at = ${at}, taken_back_by = ${name}, taken_back_by_id = ${personId}`;
	await change(
		db,
		sql`UPDATE docket SET state = ${state}, ${stamp}, progress_position = 1, progress_item_id = 0 WHERE id = ${id}`
	);
}

/* How many of a person's lines are searched. */
const LOOKED_THROUGH = 200;

/**
 * The folders and tags of the decisions that a person drafted last, the latest first; keywords with a meaning are not
 * tags here.
 */
export async function recentOptions(
	db: Db,
	{ personId }: Pick<Actor, 'personId'>,
	most: number
): Promise<{ folders: string[]; tags: string[] }> {
	const found = await rows<{ folder: string | null; tag: string | null }>(
		db,
		sql`SELECT json_extract(options, '$.folder') AS folder, json_extract(options, '$.tag') AS tag
		 FROM docket_line JOIN docket ON docket.id = docket_id WHERE drafted_by_id = ${personId}
		 ORDER BY docket_line.id DESC LIMIT ${LOOKED_THROUGH}`
	);
	const latest = (names: (string | null)[]) =>
		[...new Set(names.filter((name) => name !== null && !name.startsWith('$')))].slice(0, most) as string[];
	return { folders: latest(found.map(({ folder }) => folder)), tags: latest(found.map(({ tag }) => tag)) };
}
