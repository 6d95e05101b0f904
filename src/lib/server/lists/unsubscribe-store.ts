import type { CalendarDate } from '../../../core/calendar.ts';
import type { Attempt } from '../../../core/lists/standing.ts';
import type { WayKind } from '../../../core/lists/ways.ts';
import { asRaw, change, type Condition, type Db, insertRows, row, rows, sql } from '../database/index.ts';

/** A stored attempt to unsubscribe. */
export interface UnsubscribeAttempt extends Attempt {
	id: number;
	mailboxId: number;
	listId: number;
	lineId: number;
	/** The request: a web address, or a mail as JSON. */
	target: string;
	who: string;
	answeredAt: string | null;
}

const COLUMNS = {
	id: 'id',
	mailboxId: 'mailbox_id',
	listId: 'list_id',
	lineId: 'line_id',
	way: 'way',
	target: 'target',
	state: 'state',
	on: 'asked_on',
	who: 'who',
	answeredAt: 'answered_at',
	answer: 'answer'
} as const;

/** Stores attempts to be made. */
export async function addAttempts(
	db: Db,
	attempts: readonly (Pick<
		UnsubscribeAttempt,
		'mailboxId' | 'listId' | 'lineId' | 'way' | 'target' | 'state' | 'who'
	> & {
		on: CalendarDate;
	})[]
): Promise<void> {
	await insertRows(
		db,
		`INSERT INTO leaving (mailbox_id, list_id, line_id, way, target, state, asked_on, who)`,
		attempts.map(({ mailboxId, listId, lineId, way, target, state, on, who }) => [
			mailboxId,
			listId,
			lineId,
			way,
			target,
			state,
			on,
			who
		])
	);
}

/** The last attempt of each list of a mailbox. */
export async function lastAttempts(db: Db, mailboxId: number): Promise<Map<number, UnsubscribeAttempt>> {
	const found = await db('leaving')
		.whereIn('id', db('leaving').where({ mailbox_id: mailboxId }).groupBy('list_id').max('id'))
		.select(COLUMNS);
	return new Map(found.map((attempt) => [attempt.listId, attempt]));
}

/** All attempts on a list in a mailbox, the newest first. */
export async function attemptsOn(db: Db, mailboxId: number, listId: number): Promise<UnsubscribeAttempt[]> {
	return db('leaving')
		.where({ mailbox_id: mailboxId, list_id: listId })
		.orderBy('id', 'desc')
		.limit(50)
		.select(COLUMNS);
}

/** Attempts being made, the oldest first. */
export async function attemptsBegun(
	db: Db,
	limit: number
): Promise<(UnsubscribeAttempt & { sender: number | null })[]> {
	return db('leaving').where({ state: 'sending' }).orderBy('id').limit(limit).select(COLUMNS, 'sender');
}

/* Those of one docket, or all. */
function ofDocket(docketId: number | undefined): Condition {
	return docketId === undefined ? sql`1` : sql`line_id IN (SELECT id FROM docket_line WHERE docket_id = ${docketId})`;
}

/** Pending attempts, of a docket or all, the oldest first. */
export async function pendingAttempts(
	db: Db,
	docketId: number | undefined,
	limit: number
): Promise<UnsubscribeAttempt[]> {
	return db('leaving')
		.where({ state: 'waiting' })
		.where(asRaw(db, ofDocket(docketId)))
		.orderBy('id')
		.limit(limit)
		.select(COLUMNS);
}

/** How many attempts are pending, of a docket or in all. */
export async function countPendingAttempts(db: Db, docketId?: number): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM leaving WHERE state = 'waiting' AND ${ofDocket(docketId)}`
	);
	return found?.n ?? 0;
}

/** How many lists of each mailbox need a person to open their link. */
export async function countByHand(db: Db): Promise<Map<number, number>> {
	const found = await rows<{ mailboxId: number; n: number }>(
		db,
		sql`SELECT mailbox_id AS mailboxId, count(*) AS n FROM leaving
		 WHERE id IN (SELECT max(id) FROM leaving GROUP BY mailbox_id, list_id) AND state = 'by-hand' GROUP BY 1`
	);
	return new Map(found.map(({ mailboxId, n }) => [mailboxId, n]));
}

/** Claims an attempt for this process. @returns false if another process has it, or it was discarded */
export async function beginSending(db: Db, id: number, on: CalendarDate, sender: number): Promise<boolean> {
	return (await db('leaving').where({ id, state: 'waiting' }).update({ state: 'sending', asked_on: on, sender })) > 0;
}

/** Stores the result of an attempt. */
export async function endSending(
	db: Db,
	id: number,
	{ state, answer }: Pick<Attempt, 'state' | 'answer'>,
	at: Date
): Promise<void> {
	await db('leaving').where({ id }).update({ state, answer, answered_at: at.toISOString(), sender: null });
}

/** Discards a docket's pending attempts. @returns how many */
export async function discardPendingAttempts(db: Db, lineIds: readonly number[]): Promise<number> {
	return change(
		db,
		sql`DELETE FROM leaving WHERE state IN ('waiting', 'by-hand') AND line_id IN (SELECT value FROM json_each(${JSON.stringify(lineIds)}))`
	);
}

/** How many lists of a mailbox were asked, and when. */
export async function listsAsked(
	db: Db,
	mailboxId: number
): Promise<{ listId: number; way: WayKind; on: CalendarDate }[]> {
	return rows(
		db,
		sql`SELECT list_id AS listId, way, min(asked_on) AS "on" FROM leaving
		 WHERE mailbox_id = ${mailboxId} AND state IN ('asked', 'confirmed') GROUP BY list_id`
	);
}
