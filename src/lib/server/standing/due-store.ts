import type { CalendarDate } from '../../../core/calendar.ts';
import { type DueAction, termsText } from '../../../core/retention/terms.ts';
import type { Coming } from '../../../core/retention/sentences.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import {
	all,
	change,
	type Condition,
	type Db,
	empty,
	getSetting,
	row,
	rows,
	setOfItem,
	type Sql,
	sql
} from '../database/index.ts';
import { HELD, NEVER_ARCHIVED_FOLDERS } from '../mail/index.ts';
import { listClasses } from './classes-store.ts';
import { governed, listRetentions, type WhatIf } from './retention-store.ts';

/* ---- applying the settings to items ---- */

/* Temporary tables: the retention of each folder, the terms of each setting, and each class. */
async function tellSettings(db: Db, mailboxId: number, whatIf: WhatIf): Promise<number> {
	const sets = [
		sql`CREATE TEMP TABLE IF NOT EXISTS place (folder_id INTEGER PRIMARY KEY, retention_id INTEGER, class INTEGER, closed_on TEXT)`,
		sql`CREATE TEMP TABLE IF NOT EXISTS terms (retention_id INTEGER PRIMARY KEY, trigger TEXT, terms TEXT, is_series INTEGER)`,
		sql`CREATE TEMP TABLE IF NOT EXISTS by_class (class INTEGER PRIMARY KEY, word TEXT UNIQUE, retention_id INTEGER, is_record INTEGER)`,
		sql`DELETE FROM temp.place`,
		sql`DELETE FROM temp.terms`,
		sql`DELETE FROM temp.by_class`
	];
	for (const statement of sets) await change(db, statement);
	const places = [...(await governed(db, mailboxId, whatIf))].map(
		([folder, { retentionId, source, class: of, closedOn }]) => ({
			folder,
			// a class gives its period by the item's class, which may differ from its folder's
			retention: source?.kind === 'class' ? null : (retentionId ?? null),
			class: of,
			closedOn: closedOn ?? null
		})
	);
	const retentions = await listRetentions(db);
	const said = new Map([...[...retentions].map(([id, of]) => [id, of.terms] as const), ...(whatIf.terms ?? [])]);
	const terms = [...said].map(([id, of]) => ({
		id,
		trigger: of.trigger,
		terms: termsText(of),
		isSeries: Number(retentions.get(id)?.series !== undefined)
	}));
	const classes = whatIf.classes ?? (await listClasses(db));
	await change(
		db,
		sql`INSERT INTO temp.by_class SELECT value ->> 'id', value ->> 'word', value ->> 'retentionId', value ->> 'isProtected' FROM json_each(${JSON.stringify(classes)})`
	);
	await change(
		db,
		sql`INSERT INTO temp.place SELECT value ->> 'folder', value ->> 'retention', (SELECT class FROM temp.by_class WHERE word = value ->> 'class'), value ->> 'closedOn'
			FROM json_each(${JSON.stringify(places)})`
	);
	await change(
		db,
		sql`INSERT INTO temp.terms SELECT value ->> 'id', value ->> 'trigger', value ->> 'terms', value ->> 'isSeries' FROM json_each(${JSON.stringify(terms)})`
	);
	return whatIf.firstMonth ?? Number((await getSetting(db, 'financial-year-month')) ?? 1);
}

/* The last message of each thread of some items: once for each thread, as a thread may be large. */
async function tellThreads(db: Db, within: Condition): Promise<void> {
	await change(db, sql`CREATE TEMP TABLE IF NOT EXISTS thread_last (thread_id INTEGER PRIMARY KEY, day TEXT)`);
	await change(db, sql`DELETE FROM temp.thread_last`);
	if (!(await row(db, sql`SELECT 1 FROM temp.terms WHERE trigger = 'thread' LIMIT 1`))) return;
	await change(
		db,
		sql`INSERT INTO temp.thread_last SELECT thread_id, max(received_on) FROM item WHERE date_in_doubt = 0 AND thread_id IN (
			SELECT item.thread_id FROM item WHERE ${within}) GROUP BY thread_id`
	);
}

/* Archived and binned items are governed by the folder that they came from. */
const GOVERNING = sql`CASE item.state WHEN 'live' THEN item.folder_id ELSE ifnull(item.origin_folder_id, item.folder_id) END`;
/* A hold freezes the class: a held record stays one in any folder. */
const RECORDS = sql`(SELECT class FROM temp.by_class WHERE is_record = 1)`;
const CLASS = sql`CASE WHEN item.class IN ${RECORDS} AND ${HELD} THEN item.class ELSE ifnull(item.own_class, place.class) END`;

/*
 * The retention of items by the temporary tables (invariant 8): the class of the item, else of its folder; for a
 * record, its series before a period of its own; the item's own before its folder's; the class gives a period only if
 * no folder does.
 */
const settled = (within: Condition, firstMonth: number): Sql =>
	sql`SELECT settled.id, settled.class, settled.retention_id, folder_id, CASE WHEN is_dated THEN next_step(terms.terms, ${firstMonth}, state, received_on,
			CASE terms.trigger WHEN 'closed' THEN closed_on WHEN 'thread' THEN thread_last.day ELSE received_on END) END AS step
		FROM (
			SELECT item.id, item.state, item.received_on, item.thread_id, place.closed_on, ${CLASS} AS class, place.folder_id,
				item.state IN ('live', 'archived') AND item.date_in_doubt = 0 AND item.received_on IS NOT NULL AS is_dated,
				CASE WHEN (${CLASS}) IN ${RECORDS} AND own.is_series = 0
					THEN coalesce(place.retention_id, item.own_retention_id, by_class.retention_id)
					ELSE coalesce(item.own_retention_id, place.retention_id, by_class.retention_id) END AS retention_id
			FROM item CROSS JOIN temp.place ON place.folder_id = ${GOVERNING}
				LEFT JOIN temp.terms own ON own.retention_id = item.own_retention_id
				LEFT JOIN temp.by_class ON by_class.class = (${CLASS})
			WHERE ${within}
		) settled LEFT JOIN temp.terms ON terms.retention_id = settled.retention_id
			LEFT JOIN temp.thread_last ON thread_last.thread_id = settled.thread_id`;

const ON = sql`substr(step, 1, 10)`;
const ACTION = sql`substr(step, 12)`;
const DUE_KEYS = sql`mailbox_id, due_action, retention_id, folder_id, due_on`;

const ADDED = sql`ON CONFLICT DO UPDATE SET messages = messages + excluded.messages, bytes = bytes + excluded.bytes`;

async function forgetNothing(db: Db, mailboxId: number): Promise<void> {
	await db('due_weight').where({ mailbox_id: mailboxId, messages: 0 }).delete();
}

/**
 * Removes items from the summary of due mail; in the transaction that destroys them, before that.
 *
 * @param from a SELECT's FROM and WHERE with `item` among it
 */
export async function uncountDue(db: Db, mailboxId: number, from: Sql): Promise<void> {
	await change(
		db,
		// the plus keeps SQLite from searching this index for each item
		sql`INSERT INTO due_weight (${DUE_KEYS}, messages, bytes)
		 SELECT item.mailbox_id, item.due_action, item.retention_id, item.due_folder_id, item.due_on, -count(*), -sum(item.bytes)
		 FROM ${from} AND +item.due_on IS NOT NULL GROUP BY 1, 2, 3, 4, 5 ${ADDED}`
	);
	await forgetNothing(db, mailboxId);
}

/**
 * Updates the class, the retention and the next disposition of items.
 *
 * @param within which items of the mailbox, by their numbers
 * @returns how many say something else than before
 */
export async function refreshDue(db: Db, mailboxId: number, within: Condition): Promise<number> {
	const firstMonth = await tellSettings(db, mailboxId, {});
	await change(
		db,
		sql`CREATE TEMP TABLE IF NOT EXISTS settled (id INTEGER PRIMARY KEY, class INTEGER, retention_id INTEGER, due_on TEXT, due_action TEXT,
			folder_id INTEGER, bytes INTEGER, old_retention_id INTEGER, old_due_on TEXT, old_due_action TEXT, old_folder_id INTEGER)`
	);
	await change(db, sql`DELETE FROM temp.settled`);
	const here: Condition = sql`+item.mailbox_id = ${mailboxId} AND ${within}`;
	await tellThreads(db, here);
	const now = settled(here, firstMonth);
	const changed = await change(
		db,
		sql`WITH now AS MATERIALIZED (${now})
		 INSERT INTO temp.settled SELECT now.id, now.class, now.retention_id, ${ON}, ${ACTION}, CASE WHEN step IS NOT NULL THEN now.folder_id END,
			item.bytes, item.retention_id, item.due_on, item.due_action, item.due_folder_id
		 FROM now CROSS JOIN item ON item.id = now.id
		 WHERE item.class <> now.class OR item.retention_id IS NOT now.retention_id OR item.due_on IS NOT ${ON} OR item.due_action IS NOT ${ACTION}
			OR (step IS NOT NULL AND item.due_folder_id IS NOT now.folder_id)`
	);
	if (changed === 0) return 0;
	await change(
		db,
		sql`UPDATE item SET ${setOfItem({
			class: sql`settled.class`,
			retention_id: sql`settled.retention_id`,
			due_on: sql`settled.due_on`,
			due_action: sql`settled.due_action`,
			due_folder_id: sql`settled.folder_id`
		})} FROM temp.settled WHERE item.id = settled.id AND item.id IN (SELECT id FROM temp.settled)`
	);
	await change(
		db,
		sql`INSERT INTO due_weight (${DUE_KEYS}, messages, bytes)
		 SELECT ${mailboxId}, * FROM (
			SELECT old_due_action, old_retention_id, old_folder_id, old_due_on, -1, -bytes FROM temp.settled WHERE old_due_on IS NOT NULL
			UNION ALL SELECT due_action, retention_id, folder_id, due_on, 1, bytes FROM temp.settled WHERE due_on IS NOT NULL
		 ) WHERE true ${ADDED}`
	);
	await forgetNothing(db, mailboxId);
	return changed;
}

/** The effect of a change of settings. */
export interface DueChange {
	/** How many messages would newly be due on that day, by disposition. */
	dueAtOnce: { action: DueAction; messages: number; bytes: number }[];
	/** How many would no longer be due. */
	noLonger: number;
	/** How many would be due on another day, or for another disposition. */
	messages: number;
}

/** The effect of other settings on a mailbox by a day; changes nothing. */
export async function tryDue(db: Db, mailboxId: number, whatIf: WhatIf, on: CalendarDate): Promise<DueChange> {
	const firstMonth = await tellSettings(db, mailboxId, whatIf);
	const here: Condition = sql`item.mailbox_id = ${mailboxId} AND item.state IN ('live', 'archived')`;
	await tellThreads(db, here);
	const then = settled(here, firstMonth);
	const found = await rows<{
		action: DueAction | null;
		atOnce: number;
		noLonger: number;
		messages: number;
		bytes: number;
	}>(
		db,
		sql`WITH then_ AS MATERIALIZED (${then})
		 SELECT ${ACTION} AS action, sum(ifnull(${ON} <= ${on}, 0) AND (ifnull(item.due_on > ${on}, 1) OR item.due_action <> ${ACTION})) AS atOnce,
			sum(ifnull(item.due_on <= ${on}, 0) AND ifnull(${ON} > ${on}, 1)) AS noLonger, count(*) AS messages,
			sum(CASE WHEN ${ON} <= ${on} AND (ifnull(item.due_on > ${on}, 1) OR item.due_action <> ${ACTION}) THEN item.bytes ELSE 0 END) AS bytes
		 FROM then_ CROSS JOIN item ON item.id = then_.id
		 WHERE item.due_on IS NOT ${ON} OR item.due_action IS NOT ${ACTION} GROUP BY 1`
	);
	return {
		dueAtOnce: found.flatMap(({ action, atOnce, bytes }) =>
			action === null || atOnce === 0 ? [] : [{ action, messages: atOnce, bytes }]
		),
		noLonger: found.reduce((sum, { noLonger }) => sum + noLonger, 0),
		messages: found.reduce((sum, { messages }) => sum + messages, 0)
	};
}

/* ---- due mail ---- */

/** Mail due on a day, or in a month. */
export interface DueRow extends Weight {
	/** A day `YYYY-MM-DD`, or a month `YYYY-MM`. */
	date: string;
	action: DueAction;
	retentionId: number;
	mailboxId: number;
	folderId: number;
}

/**
 * Due mail from the summary. Mail due before today counts under today.
 *
 * @param until the last day
 * @param daysUntil from the day after this one on, by month
 */
export async function listDueWeights(
	db: Db,
	{
		mailboxId,
		today,
		until,
		daysUntil
	}: { mailboxId?: number | undefined; today: CalendarDate; until: CalendarDate; daysUntil: CalendarDate }
): Promise<DueRow[]> {
	const of = sql`due_action AS action, retention_id AS retentionId, mailbox_id AS mailboxId, folder_id AS folderId, sum(messages) AS messages,
		sum(bytes) AS bytes FROM due_weight WHERE mailbox_id ${mailboxId === undefined ? sql`IN (SELECT id FROM mailbox)` : sql`= ${mailboxId}`}`;
	const keys = sql`mailbox_id, due_action, retention_id, folder_id`;
	return rows<DueRow>(
		db,
		sql`SELECT * FROM (
			SELECT ${today} AS date, ${of} AND due_on <= ${today < until ? today : until} GROUP BY ${keys}
			UNION ALL SELECT CASE WHEN due_on <= ${daysUntil} THEN due_on ELSE substr(due_on, 1, 7) END AS date, ${of}
				AND due_on > ${today} AND due_on <= ${until} GROUP BY ${keys}, 1
		 ) ORDER BY date, action, mailboxId, folderId`
	);
}

interface DueDay {
	folderId: number;
	action: DueAction;
	on: CalendarDate;
	messages: number;
}

/* Due mail that stays, by folder and day: under a hold, kept, or under a pause of its own, in this order. */
async function protectedDue(
	db: Db,
	mailboxId: number,
	on: CalendarDate,
	pauses: readonly number[]
): Promise<(Omit<DueDay, 'action'> & { kept: number; paused: number })[]> {
	const paused = JSON.stringify(pauses);
	return rows(
		db,
		sql`SELECT due_folder_id AS folderId, max(due_on, ${on}) AS "on", count(*) AS messages,
			sum(kept = 1 AND NOT ${HELD}) AS kept,
			sum(kept = 0 AND NOT ${HELD}) AS paused
		 FROM item WHERE mailbox_id = ${mailboxId} AND due_action = 'destroy' AND due_on IS NOT NULL AND id IN (
			SELECT item_id FROM hold_item
			UNION SELECT id FROM item WHERE mailbox_id = ${mailboxId} AND kept = 1
			UNION SELECT id FROM item WHERE mailbox_id = ${mailboxId} AND pause_id IS NOT NULL AND pause_id IN (SELECT value FROM json_each(${paused}))
		 ) GROUP BY 1, 2`
	);
}

/* How many messages of each folder are under which hold, due or not. */
async function heldByFolder(db: Db, mailboxId: number): Promise<Map<number, Coming['held']>> {
	const found = await rows<{ folderId: number; messages: number; holds: string }>(
		db,
		sql`SELECT ${GOVERNING} AS folderId, count(DISTINCT item.id) AS messages, json_group_array(DISTINCT hold.name) AS holds
		 FROM hold_item JOIN hold ON hold.id = hold_id CROSS JOIN item ON item.id = item_id
		 WHERE item.mailbox_id = ${mailboxId} AND item.state IN ('live', 'archived') GROUP BY 1`
	);
	return new Map(
		found.map(({ folderId, messages, holds }) => [folderId, { messages, holds: JSON.parse(holds) as string[] }])
	);
}

/*
 * What is due by a day, and what falls due on the next day after it, by folder and action: the summary has a row for each of
 * a hundred thousand days of folders. A day of which all mail stays is passed over.
 */
async function nextDueDays(
	db: Db,
	mailboxId: number,
	on: CalendarDate,
	stays: readonly Pick<DueDay, 'folderId' | 'on' | 'messages'>[]
): Promise<DueDay[]> {
	const later = JSON.stringify(stays.filter(({ on: day }) => day > on));
	return rows<DueDay>(
		db,
		sql`WITH passed_over AS MATERIALIZED (
			SELECT folder_id, due_on FROM due_weight JOIN json_each(${later}) stay
				ON folder_id = stay.value ->> 'folderId' AND due_on = stay.value ->> 'on'
			WHERE mailbox_id = ${mailboxId} AND due_action = 'destroy' GROUP BY 1, 2
			HAVING sum(due_weight.messages) <= stay.value ->> 'messages'
		 ), next AS (
			SELECT due_action, retention_id, folder_id, min(due_on) AS due_on FROM due_weight
			WHERE mailbox_id = ${mailboxId} AND due_on > ${on}
				AND NOT (due_action = 'destroy' AND (folder_id, due_on) IN (SELECT folder_id, due_on FROM passed_over))
			GROUP BY due_action, retention_id, folder_id
		 ), soonest AS (
			SELECT folder_id, due_action, due_on, messages, min(due_on) OVER (PARTITION BY folder_id, due_action) AS first_day
			FROM next JOIN due_weight USING (due_action, retention_id, folder_id, due_on) WHERE mailbox_id = ${mailboxId}
		 )
		 SELECT folder_id AS folderId, due_action AS action, ${on} AS "on", sum(messages) AS messages FROM due_weight
			WHERE mailbox_id = ${mailboxId} AND due_on <= ${on} GROUP BY folder_id, due_action
		 UNION ALL SELECT folder_id, due_action, due_on, sum(messages) FROM soonest WHERE due_on = first_day GROUP BY 1, 2, 3
		 ORDER BY 3`
	);
}

/**
 * The upcoming dispositions of each folder of a mailbox: for each action the count due by a day and that of its next
 * day, without mail that stays.
 *
 * @param paused pauses of single messages in effect on that day, and paused folders with their subfolders
 */
export async function comingDue(
	db: Db,
	mailboxId: number,
	on: CalendarDate,
	paused: { pauses: readonly number[]; folders: readonly number[] }
): Promise<Map<number, Omit<Coming, 'pause'>>> {
	const stays = await protectedDue(db, mailboxId, on, paused.pauses);
	const days = await nextDueDays(db, mailboxId, on, stays);
	const held = await heldByFolder(db, mailboxId);
	const isPaused = new Set(paused.folders);
	const stayOn = new Map(stays.map((one) => [`${one.folderId} ${one.on}`, one]));
	const coming = new Map<number, Omit<Coming, 'pause'>>();
	const of = (folderId: number) => {
		const known = coming.get(folderId) ?? {
			actions: [],
			held: held.get(folderId) ?? { messages: 0, holds: [] },
			kept: 0,
			paused: 0
		};
		coming.set(folderId, known);
		return known;
	};
	for (const folderId of held.keys()) of(folderId);
	for (const { folderId, action, on: day, messages } of days) {
		const folder = of(folderId);
		const stay = action === 'destroy' ? stayOn.get(`${folderId} ${day}`) : undefined;
		const net = action === 'destroy' && isPaused.has(folderId) ? 0 : messages - (stay?.messages ?? 0);
		if (day <= on && stay && !isPaused.has(folderId))
			coming.set(folderId, { ...folder, kept: stay.kept, paused: stay.paused });
		const { actions } = of(folderId);
		const isFirst = !actions.some((other) => other.action === action && other.on <= on === day <= on);
		if (net > 0 && isFirst)
			coming.set(folderId, { ...of(folderId), actions: [...actions, { action, on: day, messages: net }] });
	}
	return coming;
}

/** How much of the mail due by a day is under a hold, and so stays. */
export async function countHeldDue(db: Db, mailboxId: number | undefined, until: CalendarDate): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM (SELECT DISTINCT item_id FROM hold_item) held CROSS JOIN item ON item.id = held.item_id
		 WHERE due_on <= ${until} AND due_action <> 'archive' ${mailboxId === undefined ? empty : sql`AND mailbox_id = ${mailboxId}`}`
	);
	return found?.n ?? 0;
}

/** How much of the mail due to be archived by a day is never archived, and so stays: whole folders by the summary. */
export async function countDueNeverArchived(
	db: Db,
	mailboxId: number | undefined,
	until: CalendarDate
): Promise<number> {
	const here = mailboxId === undefined ? empty : sql`AND mailbox_id = ${mailboxId}`;
	const found = await row<{ n: number }>(
		db,
		sql`WITH closed AS MATERIALIZED (${NEVER_ARCHIVED_FOLDERS}) SELECT
			CASE WHEN EXISTS (SELECT 1 FROM closed) THEN (SELECT ifnull(sum(messages), 0) FROM due_weight
			 WHERE due_action = 'archive' AND due_on <= ${until} AND folder_id IN closed ${here}) ELSE 0 END
			+ (SELECT count(*) FROM item INDEXED BY item_never_archived
			 WHERE never_archived = 1 AND due_action = 'archive' AND due_on <= ${until} AND due_folder_id NOT IN closed ${here}) AS n`
	);
	return found?.n ?? 0;
}

/** The mail of a mailbox due by a day, for one action. */
export async function weighDue(db: Db, mailboxId: number, action: DueAction, by: CalendarDate): Promise<Weight> {
	return (
		(await row<Weight>(
			db,
			sql`SELECT ifnull(sum(messages), 0) AS messages, ifnull(sum(bytes), 0) AS bytes FROM due_weight
			 WHERE mailbox_id = ${mailboxId} AND due_on <= ${by} AND due_action = ${action}`
		)) ?? { messages: 0, bytes: 0 }
	);
}

/** Due items, as a condition. */
export function dueCondition({
	actions,
	since,
	by,
	retentionIds,
	folderIds
}: {
	actions: readonly DueAction[];
	since?: CalendarDate | undefined;
	by: CalendarDate;
	retentionIds?: readonly number[] | undefined;
	folderIds?: readonly number[] | undefined;
}): Condition {
	const [only, ...others] = actions;
	const parts: Condition[] = [
		// the index returns a single one's items in order
		only !== undefined && others.length === 0
			? sql`item.due_action = ${only}`
			: sql`item.due_action IN (SELECT value FROM json_each(${JSON.stringify(actions)}))`,
		sql`item.due_on <= ${by}`,
		...(since ? [sql`item.due_on >= ${since}`] : []),
		...(retentionIds ? [sql`item.retention_id IN (SELECT value FROM json_each(${JSON.stringify(retentionIds)}))`] : []),
		...(folderIds ? [sql`item.due_folder_id IN (SELECT value FROM json_each(${JSON.stringify(folderIds)}))`] : [])
	];
	return all(parts);
}

/** The weight of each class of a mailbox under other settings, by its number. */
export async function weighClassesUnder(db: Db, mailboxId: number, whatIf: WhatIf): Promise<Map<number, number>> {
	await tellSettings(db, mailboxId, whatIf);
	const found = await rows<{ class: number; bytes: number }>(
		db,
		sql`SELECT ${CLASS} AS class, sum(item.bytes) AS bytes FROM item CROSS JOIN temp.place ON place.folder_id = ${GOVERNING}
		 WHERE item.mailbox_id = ${mailboxId} GROUP BY 1`
	);
	return new Map(found.map(({ class: of, bytes }) => [of, bytes]));
}

/** Counts the summary of due mail anew from the items. */
export async function recountDue(db: Db): Promise<void> {
	await db('due_weight').delete();
	await change(
		db,
		sql`INSERT INTO due_weight (${DUE_KEYS}, messages, bytes)
		 SELECT mailbox_id, due_action, retention_id, due_folder_id, due_on, count(*), sum(bytes) FROM item
		 WHERE due_on IS NOT NULL AND due_action IS NOT NULL GROUP BY 1, 2, 3, 4, 5`
	);
}

/** Compares the summary of due mail with the items. @returns how many of its rows differ */
export async function compareDue(db: Db): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`WITH now AS MATERIALIZED (
			SELECT mailbox_id, due_action, retention_id, due_folder_id, due_on, count(*), sum(bytes) FROM item WHERE due_on IS NOT NULL GROUP BY 1, 2, 3, 4, 5
		 ), kept AS MATERIALIZED (SELECT ${DUE_KEYS}, messages, bytes FROM due_weight)
		 SELECT (SELECT count(*) FROM (SELECT * FROM now EXCEPT SELECT * FROM kept)) + (SELECT count(*) FROM (SELECT * FROM kept EXCEPT SELECT * FROM now)) AS n`
	);
	return found?.n ?? 0;
}
