import type { CalendarDate } from '../../../core/calendar.ts';
import type { Rule } from '../../../core/rules/rule.ts';
import { change, type Condition, type Db, inList, row, rows, type Sql, sql } from '../database/index.ts';
import type { StoredRule } from './rules-store.ts';
import { NEWEST_FIRST, taken } from './taken-store.ts';

/** What a standing decision would have taken since a day. */
export interface Rehearsed {
	messages: number;
	bytes: number;
	/** Of them, what still counts against the quota. */
	freed: number;
	/** The newest of them. */
	examples: number[];
}

/* All that a standing decision would have taken until today, had it always stood. */
const everTaken = (rule: Rule & { mailboxId: number }, today: CalendarDate, within: Condition): Sql =>
	taken([{ id: 0, ...rule, since: undefined }], { today, within, isDated: true });

const NOT_DESTROYED: Condition = sql`item.state <> 'destroyed'`;

/** Gathers what a standing decision would have taken since a day, in a temporary table of this connection. */
export async function rehearse(
	db: Db,
	rule: Rule & { mailboxId: number },
	{ today, from, examples }: { today: CalendarDate; from: CalendarDate; examples: number }
): Promise<Rehearsed> {
	await change(
		db,
		sql`CREATE TEMP TABLE IF NOT EXISTS rehearsed (item_id INTEGER PRIMARY KEY, why TEXT, gone_on TEXT, bytes INTEGER, state TEXT)`
	);
	await change(db, sql`DELETE FROM temp.rehearsed`);
	await change(
		db,
		sql`INSERT INTO temp.rehearsed SELECT id, why, gone_on, bytes, state FROM (${everTaken(rule, today, NOT_DESTROYED)}) WHERE gone_on > ${from}`
	);
	const sums = await row<Omit<Rehearsed, 'examples'>>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(bytes), 0) AS bytes, ifnull(sum(CASE state WHEN 'archived' THEN 0 ELSE bytes END), 0) AS freed FROM temp.rehearsed`
	);
	const newest = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM temp.rehearsed JOIN item ON item.id = item_id ORDER BY ${NEWEST_FIRST} LIMIT ${examples}`
	);
	return { messages: 0, bytes: 0, freed: 0, ...sums, examples: newest.map(({ id }) => id) };
}

/** What two standing decisions share. */
export interface Shared {
	/** Messages rehearsed last that the other takes as well, and those of them that it takes first. */
	both: number;
	first: number;
	/** All that the other takes in that time. */
	others: number;
}

/**
 * What the messages rehearsed last share with another standing decision: the one that takes a message on an earlier day
 * acts, of the same day the one that comes earlier.
 */
export async function countShared(
	db: Db,
	other: StoredRule,
	{ today, from, isEarlier }: { today: CalendarDate; from: CalendarDate; isEarlier: boolean }
): Promise<Shared> {
	const found = await row<Shared>(
		db,
		sql`SELECT count(rehearsed.item_id) AS both, count(*) FILTER (WHERE other.gone_on > ${from}) AS others,
			count(*) FILTER (WHERE other.gone_on < rehearsed.gone_on OR (other.gone_on = rehearsed.gone_on AND ${isEarlier ? sql`1` : sql`0`})) AS first
		 FROM (${everTaken(other, today, NOT_DESTROYED)}) other LEFT JOIN temp.rehearsed ON rehearsed.item_id = other.id`
	);
	return found ?? { both: 0, first: 0, others: 0 };
}

/** How many of the messages rehearsed last meet a condition on `item`. */
export async function countRehearsed(db: Db, which: Condition): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM temp.rehearsed CROSS JOIN item ON item.id = item_id WHERE ${which}`
	);
	return found?.n ?? 0;
}

/** The holds over messages rehearsed last, and the retention periods that have not ended, each with its messages. */
export async function rehearsedUnder(
	db: Db,
	today: CalendarDate
): Promise<{ kind: 'hold' | 'retention'; name: string; messages: number }[]> {
	return rows(
		db,
		sql`SELECT 'hold' AS kind, hold.name, count(*) AS messages FROM temp.rehearsed CROSS JOIN hold_item ON hold_item.item_id = rehearsed.item_id
			JOIN hold ON hold.id = hold_id GROUP BY hold.id
		 UNION ALL SELECT 'retention', ifnull(code, 'a period'), count(*) FROM temp.rehearsed CROSS JOIN item ON item.id = rehearsed.item_id
			LEFT JOIN retention ON retention.id = item.retention_id LEFT JOIN series ON series.id = series_id
			WHERE item.retention_id IS NOT NULL AND ifnull(item.due_on > ${today}, 1) GROUP BY 2 ORDER BY 1, 3 DESC`
	);
}

/** The folders of items, to name them. */
export async function examplesOf(
	db: Db,
	ids: readonly number[]
): Promise<{ id: number; subject: string; from: string; on: CalendarDate | null; folder: string }[]> {
	return rows(
		db,
		sql`SELECT item.id, message.subject, message.from_address AS "from", item.received_on AS "on", folder.path AS folder FROM item
			JOIN message ON message.id = item.message_id JOIN folder ON folder.id = ifnull(item.origin_folder_id, item.folder_id)
		 WHERE item.id IN ${inList(ids)} ORDER BY ${NEWEST_FIRST}`
	);
}
