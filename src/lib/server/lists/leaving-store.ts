import type { CalendarDate } from '../../../core/calendar.ts';
import type { Attempt } from '../../../core/lists/standing.ts';
import type { WayKind } from '../../../core/lists/ways.ts';
import type { Db } from '../database/open.ts';
import { change, insertRows, row, rows } from '../database/rows.ts';

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

const COLUMNS = `id, mailbox_id AS mailboxId, list_id AS listId, line_id AS lineId, way, target, state, asked_on AS "on", who,
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
		`SELECT ${COLUMNS} FROM leaving WHERE id IN (SELECT max(id) FROM leaving WHERE mailbox_id = ? GROUP BY list_id)`,
		[mailboxId]
	);
	return new Map(found.map((attempt) => [attempt.listId, attempt]));
}

/** All attempts on a list in a mailbox, the newest first. */
export async function attemptsOn(db: Db, mailboxId: number, listId: number): Promise<Leaving[]> {
	return rows(db, `SELECT ${COLUMNS} FROM leaving WHERE mailbox_id = ? AND list_id = ? ORDER BY id DESC LIMIT 50`, [
		mailboxId,
		listId
	]);
}

/** Attempts that are being made, the oldest first. */
export async function attemptsBegun(db: Db, limit: number): Promise<(Leaving & { sender: number | null })[]> {
	return rows(db, `SELECT ${COLUMNS}, sender FROM leaving WHERE state = 'sending' ORDER BY id LIMIT ?`, [limit]);
}

/* Those of one docket, or all. */
function ofDocket(docketId: number | undefined): { sql: string; bindings: number[] } {
	return docketId === undefined
		? { sql: '1', bindings: [] }
		: { sql: `line_id IN (SELECT id FROM docket_line WHERE docket_id = ?)`, bindings: [docketId] };
}

/** Attempts that are still to be made, of a docket or all, the oldest first. */
export async function attemptsWaiting(db: Db, docketId: number | undefined, limit: number): Promise<Leaving[]> {
	const { sql, bindings } = ofDocket(docketId);
	return rows(db, `SELECT ${COLUMNS} FROM leaving WHERE state = 'waiting' AND ${sql} ORDER BY id LIMIT ?`, [
		...bindings,
		limit
	]);
}

/** How many attempts are still to be made, of a docket or in all. */
export async function countWaiting(db: Db, docketId?: number): Promise<number> {
	const { sql, bindings } = ofDocket(docketId);
	return (
		(await row<{ n: number }>(db, `SELECT count(*) AS n FROM leaving WHERE state = 'waiting' AND ${sql}`, bindings))
			?.n ?? 0
	);
}

/** How many lists of each mailbox wait for a person to open their link. */
export async function countByHand(db: Db): Promise<Map<number, number>> {
	const found = await rows<{ mailboxId: number; n: number }>(
		db,
		`SELECT mailbox_id AS mailboxId, count(*) AS n FROM leaving
		 WHERE id IN (SELECT max(id) FROM leaving GROUP BY mailbox_id, list_id) AND state = 'by-hand' GROUP BY 1`
	);
	return new Map(found.map(({ mailboxId, n }) => [mailboxId, n]));
}

/** Claims an attempt for this process. @returns false where somebody else has it, or it was dropped */
export async function beginSending(db: Db, id: number, on: CalendarDate, sender: number): Promise<boolean> {
	return (
		(await change(
			db,
			`UPDATE leaving SET state = 'sending', asked_on = ?, sender = ? WHERE id = ? AND state = 'waiting'`,
			[on, sender, id]
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
	await change(db, `UPDATE leaving SET state = ?, answer = ?, answered_at = ?, sender = NULL WHERE id = ?`, [
		state,
		answer,
		at.toISOString(),
		id
	]);
}

/** Drops the attempts of a docket that were not made yet. @returns how many */
export async function dropWaiting(db: Db, lineIds: readonly number[]): Promise<number> {
	return change(
		db,
		`DELETE FROM leaving WHERE state IN ('waiting', 'by-hand') AND line_id IN (SELECT value FROM json_each(?))`,
		[JSON.stringify(lineIds)]
	);
}

/** How many lists of a mailbox were asked to stop, and when. */
export async function listsAsked(
	db: Db,
	mailboxId: number
): Promise<{ listId: number; way: WayKind; on: CalendarDate }[]> {
	return rows(
		db,
		`SELECT list_id AS listId, way, min(asked_on) AS "on" FROM leaving
		 WHERE mailbox_id = ? AND state IN ('asked', 'confirmed') GROUP BY list_id`,
		[mailboxId]
	);
}
