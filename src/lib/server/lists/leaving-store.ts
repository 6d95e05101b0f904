import type { CalendarDate } from '../../../core/calendar.ts';
import type { Attempt } from '../../../core/lists/standing.ts';
import type { WayKind } from '../../../core/lists/ways.ts';
import { change, type Condition, type Db, insertRows, row, rows, sql } from '../database/index.ts';

/** An attempt to leave a list, as it is stored. */
export interface Leaving extends Attempt {
	id: number;
	mailboxId: number;
	listId: number;
	lineId: number;
	/** What is asked: a web address, or a mail as JSON. */
	target: string;
	who: string;
	answeredAt: string | null;
}

const COLUMNS = sql`id, mailbox_id AS mailboxId, list_id AS listId, line_id AS lineId, way, target, state, asked_on AS "on", who,
	answered_at AS answeredAt, answer`;

/** Notes attempts that are to be made. */
export async function addLeavings(
	db: Db,
	attempts: readonly (Pick<Leaving, 'mailboxId' | 'listId' | 'lineId' | 'way' | 'target' | 'state' | 'who'> & {
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

/** The last attempt of each list of a mailbox that was ever tried. */
export async function lastAttempts(db: Db, mailboxId: number): Promise<Map<number, Leaving>> {
	const found = await rows<Leaving>(
		db,
		sql`SELECT ${COLUMNS} FROM leaving WHERE id IN (SELECT max(id) FROM leaving WHERE mailbox_id = ${mailboxId} GROUP BY list_id)`
	);
	return new Map(found.map((attempt) => [attempt.listId, attempt]));
}

/** All attempts on a list in a mailbox, the newest first. */
export async function attemptsOn(db: Db, mailboxId: number, listId: number): Promise<Leaving[]> {
	return rows(
		db,
		sql`SELECT ${COLUMNS} FROM leaving WHERE mailbox_id = ${mailboxId} AND list_id = ${listId} ORDER BY id DESC LIMIT 50`
	);
}

/** Attempts that are being made, the oldest first. */
export async function attemptsBegun(db: Db, limit: number): Promise<(Leaving & { sender: number | null })[]> {
	return rows(db, sql`SELECT ${COLUMNS}, sender FROM leaving WHERE state = 'sending' ORDER BY id LIMIT ${limit}`);
}

/* Those of one docket, or all. */
function ofDocket(docketId: number | undefined): Condition {
	return docketId === undefined ? sql`1` : sql`line_id IN (SELECT id FROM docket_line WHERE docket_id = ${docketId})`;
}

/** Attempts that are still to be made, of a docket or all, the oldest first. */
export async function attemptsWaiting(db: Db, docketId: number | undefined, limit: number): Promise<Leaving[]> {
	return rows(
		db,
		sql`SELECT ${COLUMNS} FROM leaving WHERE state = 'waiting' AND ${ofDocket(docketId)} ORDER BY id LIMIT ${limit}`
	);
}

/** How many attempts are still to be made, of a docket or in all. */
export async function countWaiting(db: Db, docketId?: number): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM leaving WHERE state = 'waiting' AND ${ofDocket(docketId)}`
	);
	return found?.n ?? 0;
}

/** How many lists of each mailbox wait for a person to open their link. */
export async function countByHand(db: Db): Promise<Map<number, number>> {
	const found = await rows<{ mailboxId: number; n: number }>(
		db,
		sql`SELECT mailbox_id AS mailboxId, count(*) AS n FROM leaving
		 WHERE id IN (SELECT max(id) FROM leaving GROUP BY mailbox_id, list_id) AND state = 'by-hand' GROUP BY 1`
	);
	return new Map(found.map(({ mailboxId, n }) => [mailboxId, n]));
}

/** Claims an attempt for this process. @returns false where somebody else has it, or it was dropped */
export async function beginSending(db: Db, id: number, on: CalendarDate, sender: number): Promise<boolean> {
	return (
		(await change(
			db,
			sql`UPDATE leaving SET state = 'sending', asked_on = ${on}, sender = ${sender} WHERE id = ${id} AND state = 'waiting'`
		)) > 0
	);
}

/** Notes what became of an attempt. */
export async function endSending(
	db: Db,
	id: number,
	{ state, answer }: Pick<Attempt, 'state' | 'answer'>,
	at: Date
): Promise<void> {
	await change(
		db,
		sql`UPDATE leaving SET state = ${state}, answer = ${answer}, answered_at = ${at.toISOString()}, sender = NULL WHERE id = ${id}`
	);
}

/** Drops the attempts of a docket that were not made yet. @returns how many */
export async function dropWaiting(db: Db, lineIds: readonly number[]): Promise<number> {
	return change(
		db,
		sql`DELETE FROM leaving WHERE state IN ('waiting', 'by-hand') AND line_id IN (SELECT value FROM json_each(${JSON.stringify(lineIds)}))`
	);
}

/** How many lists of a mailbox were asked to stop, and when. */
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
