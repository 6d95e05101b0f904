import type { CalendarDate } from '../../../core/calendar.ts';
import type { Grouping, Lot } from '../../../core/lots/lots.ts';
import { type Db, empty, inList, raw, rows, type Sql, sql } from '../database/index.ts';
import { lotKey, SIZE_BAND } from '../mail/index.ts';
import { namedLot, namesOfLots } from './lots-store.ts';

/*
 * The lots of all live mail of mailboxes, from the summaries: a scan of a million messages takes a second. Their dates stand
 * in no summary; they are looked up for the lots that are shown.
 */

/** When the mail of a lot came, and when somebody last answered some of it. */
export type LotDates = Pick<Lot, 'oldest' | 'newest' | 'answered'>;
export type UndatedLot = Omit<Lot, keyof LotDates>;

const SUMMARIES = {
	organisation: sql`SELECT organisation_id AS key, weight.* FROM weight_by_correspondent weight
		JOIN correspondent ON correspondent.id = correspondent_id`,
	correspondent: sql`SELECT correspondent_id AS key, * FROM weight_by_correspondent`,
	list: sql`SELECT nullif(list_id, 0) AS key, * FROM weight_by_list`,
	folder: sql`SELECT folder_id AS key, * FROM weight_by_month`,
	year: sql`SELECT substr(month, 1, 4) AS key, * FROM weight_by_month`,
	month: sql`SELECT month AS key, * FROM weight_by_month`,
	size: sql`SELECT size_band AS key, * FROM weight_by_form`
};

/** A grouping whose lots stand in a summary. */
export type SummedGrouping = keyof typeof SUMMARIES;

/** Whether the lots of a grouping stand in a summary. */
export const isSummed = (by: Grouping): by is SummedGrouping => by in SUMMARIES;

/**
 * The lots of the live mail of mailboxes.
 *
 * @param options.withMailbox folders are named with their mailbox
 * @returns every lot, in no order
 */
export async function summedLots(
	db: Db,
	by: SummedGrouping,
	mailboxIds: readonly number[],
	{ withMailbox = false } = {}
): Promise<UndatedLot[]> {
	const names = namesOfLots(by, withMailbox);
	const found = await rows<Omit<UndatedLot, 'label' | 'key'> & { key: string | number | null; label: string | null }>(
		db,
		sql`SELECT lot.*, ${names ? sql`name.label` : sql`NULL AS label`} FROM (
			SELECT key, sum(messages) AS messages, sum(bytes) AS bytes, sum(unread) AS unread FROM (${SUMMARIES[by]})
			WHERE mailbox_id IN ${inList(mailboxIds)} AND state = 'live' GROUP BY key HAVING sum(messages) > 0
		 ) lot ${names ? sql`LEFT JOIN (${names}) name ON name.id = lot.key` : empty}`
	);
	return found.map((lot) => namedLot(by, lot));
}

const LIVE = sql`item.state = 'live'`;
const DATED = sql`item.date_in_doubt = 0 AND item.received_on IS NOT NULL`;

/* Where the messages of a lot stand in the order of their dates: in which index, and which of its rows they are. */
interface InOrder {
	index: Sql;
	isIn: Sql;
}
const IN_ORDER: Partial<Record<SummedGrouping, InOrder>> = {
	organisation: { index: sql`item_by_organisation`, isIn: sql`item.organisation_id = lot.key` },
	list: { index: sql`item_by_list`, isIn: sql`item.list_id = lot.key` },
	folder: { index: sql`item_in_folder`, isIn: sql`item.folder_id = lot.key` },
	year: { index: sql`item_by_date`, isIn: sql`item.received_on BETWEEN lot.key || '-01-01' AND lot.key || '-12-31'` },
	month: { index: sql`item_by_date`, isIn: sql`item.received_on BETWEEN lot.key || '-01' AND lot.key || '-31'` },
	size: { index: sql`item_by_date`, isIn: sql`${SIZE_BAND} = lot.key` }
};
const OF_NO_LIST: InOrder = { index: sql`item_by_date`, isIn: sql`item.list_id IS NULL` };

/** Whether the dates of all lots can be looked up at once: those of correspondents cost a look at each of their messages. */
export const areDatesInOrder = (by: SummedGrouping): boolean => by in IN_ORDER;

/**
 * The dates of lots of {@link summedLots}, by their keys.
 *
 * @param on today; no lot of a summary depends on it
 */
export async function datesOfLots(
	db: Db,
	by: SummedGrouping,
	mailboxIds: readonly number[],
	keys: readonly string[],
	on: CalendarDate
): Promise<Map<string, LotDates>> {
	type Found = LotDates & { key: string | number | null };
	const isText = by === 'year' || by === 'month';
	const named = keys.filter((key) => key !== '').map((key) => (isText ? key : Number(key)));
	const listed = sql`json_each(${JSON.stringify(named)})`;
	const ofBoxes = sql`item.mailbox_id IN ${inList(mailboxIds)} AND ${LIVE}`;
	const key = lotKey(by, on);
	const edge = (end: 'min' | 'max', { index, isIn }: InOrder) => sql`(SELECT ${raw(end)}(day) FROM (
		SELECT (SELECT item.received_on FROM item INDEXED BY ${index} WHERE item.mailbox_id = box.value AND ${isIn} AND ${LIVE} AND ${DATED}
			ORDER BY item.received_on ${end === 'min' ? empty : sql`DESC`} LIMIT 1) AS day
		FROM json_each(${JSON.stringify(mailboxIds)}) box))`;
	const edges = (of: InOrder) => sql`${edge('min', of)} AS oldest, ${edge('max', of)} AS newest`;
	const answers = sql`SELECT ${key} AS key, max(item.answered_on) AS answered FROM item INDEXED BY item_answered
		WHERE ${ofBoxes} AND item.answered_on IS NOT NULL GROUP BY 1`;
	const order = IN_ORDER[by];
	const parts: Sql[] = [];
	if (order) {
		parts.push(
			sql`WITH answer AS MATERIALIZED (${answers}) SELECT lot.key, ${edges(order)}, answer.answered
			 FROM (SELECT value AS key FROM ${listed}) lot LEFT JOIN answer ON answer.key = lot.key`
		);
		// mail of no list, or whose date is in doubt
		if (keys.includes(''))
			parts.push(
				sql`SELECT NULL AS key, ${by === 'list' ? edges(OF_NO_LIST) : sql`NULL AS oldest, NULL AS newest`},
					(SELECT answered FROM (${answers}) WHERE ifnull(key, '') = '') AS answered`
			);
	} else
		parts.push(
			sql`SELECT ${key} AS key, min(CASE WHEN ${DATED} THEN item.received_on END) AS oldest,
				max(CASE WHEN ${DATED} THEN item.received_on END) AS newest, max(item.answered_on) AS answered
			 FROM item INDEXED BY item_by_organisation
			 WHERE item.organisation_id IN (SELECT organisation_id FROM correspondent WHERE id IN (SELECT value FROM ${listed}))
				AND item.correspondent_id IN (SELECT value FROM ${listed}) AND ${ofBoxes} GROUP BY 1`
		);
	const found: Found[] = [];
	for (const part of parts) found.push(...(await rows<Found>(db, part)));
	return new Map(found.map(({ key: stored, ...dates }) => [stored === null ? '' : String(stored), dates]));
}
