import type { CalendarDate } from '../../../core/calendar.ts';
import { ADDRESSED_NAMES, type Grouping, type Lot, unreadBandStarts } from '../../../core/lots/lots.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { type Db, empty, inList, join, raw, row, rows, type Sql, sql } from '../database/index.ts';
import { isTextKey, lotKey, SIZE_BAND, TOP_LEVEL_DOMAIN, unreadBand } from '../mail/index.ts';
import { JOINS, kindsOf, namedLot, namesOfLots } from './lots-store.ts';

/*
 * The lots of all live mail of mailboxes, from the summaries and from indexes that hold all that is summed: a scan of a
 * million messages takes a second. Their dates stand in no summary; they are looked up for the lots that are shown.
 */

/** When the mail of a lot came, and when somebody last answered some of it. */
export type LotDates = Pick<Lot, 'oldest' | 'newest' | 'answered'>;

const UNREAD = sql`ifnull(item.seen = 0, 0) AS unread`;

/* All but the first one, which is the rest. */
const OTHERS_ADDRESSED = ADDRESSED_NAMES.map((_, key) => key).slice(1);
const sumsOfAddressed = (key: number) => [
	sql`count(*) FILTER (WHERE addressed = ${key}) AS ${raw(`messages_${key}`)}`,
	sql`ifnull(sum(bytes) FILTER (WHERE addressed = ${key}), 0) AS ${raw(`bytes_${key}`)}`,
	sql`count(*) FILTER (WHERE addressed = ${key} AND seen = 0) AS ${raw(`unread_${key}`)}`
];

/* The sums of one way of being addressed, which the rest does not have. */
function ofAddressed(key: number): Sql {
	const sum = (name: string) => raw(`${name}_${key}`);
	return sql`UNION ALL SELECT ${key}, ${sum('messages')}, ${sum('bytes')}, ${sum('unread')} FROM sums
		UNION ALL SELECT 0, -${sum('messages')}, -${sum('bytes')}, -${sum('unread')} FROM sums`;
}

/* Rows with the key of a lot, and what they add to its sums, of the mail that `where` names. */
const SUMMARIES = {
	organisation: ({ where }) => sql`SELECT organisation_id AS key, weight.* FROM weight_by_correspondent weight
		JOIN correspondent ON correspondent.id = correspondent_id WHERE ${where}`,
	correspondent: ({ where }) => sql`SELECT correspondent_id AS key, * FROM weight_by_correspondent WHERE ${where}`,
	tld: ({ where }) => sql`SELECT ${TOP_LEVEL_DOMAIN} AS key, weight.* FROM weight_by_correspondent weight
		JOIN correspondent ON correspondent.id = correspondent_id JOIN organisation ON organisation.id = organisation_id WHERE ${where}`,
	list: ({ where }) => sql`SELECT nullif(list_id, 0) AS key, * FROM weight_by_list WHERE ${where}`,
	folder: ({ where }) => sql`SELECT folder_id AS key, * FROM weight_by_month WHERE ${where}`,
	year: ({ where }) => sql`SELECT substr(month, 1, 4) AS key, * FROM weight_by_month WHERE ${where}`,
	month: ({ where }) => sql`SELECT month AS key, * FROM weight_by_month WHERE ${where}`,
	size: ({ where }) => sql`SELECT size_band AS key, * FROM weight_by_form WHERE ${where}`,
	kind: ({ where }) => sql`SELECT mail_kind AS key, * FROM weight_by_form WHERE ${where}`,
	attachment: ({ where }) =>
		sql`SELECT kind.bit AS key, weight.* FROM weight_by_form weight ${kindsOf(sql`weight`)} WHERE ${where}`,
	thread: ({ where }) =>
		sql`SELECT thread_id AS key, 1 AS messages, bytes, ${UNREAD} FROM item INDEXED BY item_by_thread WHERE ${where}`,
	// sums beside each other: this index holds all of them, but would have to be sorted
	addressed: ({ where }) => sql`SELECT * FROM (
			WITH sums AS MATERIALIZED (
				SELECT ${join(OTHERS_ADDRESSED.flatMap((key) => sumsOfAddressed(key)))}
				FROM item INDEXED BY item_by_thread WHERE ${where}
			)
			SELECT 0 AS key, messages, bytes, unread FROM weight_by_month WHERE ${where}
			${join(OTHERS_ADDRESSED.map(ofAddressed), ' ')})`,
	// a message with two tags is no less one with a tag
	tag: ({ where }) => sql`SELECT * FROM (
			WITH tagged AS MATERIALIZED (
				SELECT tag_id, bytes, ${UNREAD},
					tag_id = (SELECT min(other.tag_id) FROM item_tag other WHERE other.item_id = item.id) AS isFirst
				FROM item_tag CROSS JOIN item ON item.id = item_id WHERE ${where}
			)
			SELECT tag_id AS key, 1 AS messages, bytes, unread FROM tagged
			UNION ALL SELECT NULL, messages, bytes, unread FROM weight_by_month WHERE ${where}
			UNION ALL SELECT NULL, -1, -bytes, -unread FROM tagged WHERE isFirst)`,
	// by day first, in the order of the index
	unread: ({ where, on }) => sql`SELECT * FROM (
			WITH unread AS MATERIALIZED (
				SELECT ${unreadBand(on)} AS key, messages, bytes FROM (
					SELECT received_on, date_in_doubt, count(*) AS messages, sum(bytes) AS bytes
					FROM item INDEXED BY item_unread WHERE seen = 0 AND ${where} GROUP BY received_on, date_in_doubt
				) item
			)
			SELECT key, messages, bytes, messages AS unread FROM unread
			UNION ALL SELECT 0, messages, bytes, 0 FROM weight_by_month WHERE ${where}
			UNION ALL SELECT 0, -messages, -bytes, 0 FROM unread)`
} satisfies Partial<Record<Grouping, (of: { where: Sql; on: CalendarDate }) => Sql>>;

/** A grouping whose lots stand in a summary. */
export type SummedGrouping = keyof typeof SUMMARIES;

/** Whether the lots of a grouping stand in a summary. */
export const isSummed = (by: Grouping): by is SummedGrouping => by in SUMMARIES;

/* One mailbox is compared, not looked for in a list: that takes a fifth of a scan. */
const inBoxes = (ids: readonly number[]) =>
	ids.length === 1 ? sql`mailbox_id = ${ids[0] ?? 0}` : sql`mailbox_id IN ${inList(ids)}`;

const liveIn = (mailboxIds: readonly number[]) => sql`${inBoxes(mailboxIds)} AND state = 'live'`;

/** The heaviest lots, say, with the number of all and the bytes of the heaviest. */
export interface SummedLots {
	lots: Lot[];
	count: number;
	heaviest: number;
}

/** The orders of lots that need neither their names nor their dates. */
export type SummedOrder = 'bytes' | 'messages' | 'unread';

/**
 * The lots of the live mail of mailboxes, without their dates.
 *
 * @param on today
 * @param options.withMailbox folders are named with their mailbox
 * @param options.order of two equal ones, the heavier comes first
 * @param options.limit so many of them; undefined: all
 */
export async function summedLots(
	db: Db,
	by: SummedGrouping,
	mailboxIds: readonly number[],
	on: CalendarDate,
	options: { withMailbox: boolean; order: SummedOrder; descending: boolean; limit?: number | undefined }
): Promise<SummedLots> {
	const { withMailbox, order, descending, limit = -1 } = options;
	const names = namesOfLots(by, withMailbox);
	const ordered = sql`${raw(order)} ${descending ? sql`DESC` : empty}, bytes DESC, key`;
	type Row = Omit<Lot, 'label' | 'key'> & { key: string | number | null; label: string | null };
	// no more lots are named, and handed on, than are asked for
	const found = await rows<Row & { count: number; heaviest: number }>(
		db,
		sql`WITH lot AS MATERIALIZED (
			SELECT key, sum(messages) AS messages, sum(bytes) AS bytes, sum(unread) AS unread
			FROM (${SUMMARIES[by]({ where: liveIn(mailboxIds), on })}) GROUP BY key HAVING sum(messages) > 0
		 )
		 SELECT shown.*, NULL AS oldest, NULL AS newest, NULL AS answered, ${names ? sql`name.label` : sql`NULL AS label`},
			(SELECT count(*) FROM lot) AS count, (SELECT max(bytes) FROM lot) AS heaviest
		 FROM (SELECT * FROM lot ORDER BY ${ordered} LIMIT ${limit}) shown
			${names ? sql`LEFT JOIN (${names}) name ON name.id = shown.key` : empty} ORDER BY ${ordered}`
	);
	const [{ count, heaviest } = { count: 0, heaviest: 0 }] = found;
	const lots = found.map(({ key, label, messages, bytes, unread, oldest, newest, answered }) =>
		namedLot(by, { key, label, messages, bytes, unread, oldest, newest, answered })
	);
	return { lots, count, heaviest };
}

/** The weight of the live mail of mailboxes: a message counts once, in however many lots it is. */
export async function summedTotal(db: Db, mailboxIds: readonly number[]): Promise<Weight> {
	const found = await row<Weight>(
		db,
		sql`SELECT ifnull(sum(messages), 0) AS messages, ifnull(sum(bytes), 0) AS bytes FROM weight_by_month WHERE ${liveIn(mailboxIds)}`
	);
	return found ?? { messages: 0, bytes: 0 };
}

/* ---- dates ---- */

const DATED = sql`item.date_in_doubt = 0 AND item.received_on IS NOT NULL`;
const BY_DATE = sql`item_by_date`;

/* Whether the day of an item is one of those of its lot by time unread: a range, which an index finds. */
function isOfUnreadBand(on: CalendarDate): Sql {
	const starts = unreadBandStarts(on);
	const days = (of: readonly string[]) =>
		sql`CASE lot.key ${join(
			of.map((day, at) => sql`WHEN ${at + 1} THEN ${day}`),
			' '
		)} END`;
	return sql`item.received_on >= ${days([...starts, ''])} AND item.received_on < ${days(['9999', ...starts])}`;
}

/* Where the messages of a lot stand in the order of their dates: in which index, and which of its rows they are. */
interface InOrder {
	index: Sql;
	isIn: Sql;
	/** Its messages are of one mailbox, which its index does not know: each would be read for every other mailbox. */
	isOfOneMailbox?: boolean;
}
const IN_ORDER: Partial<Record<SummedGrouping, (on: CalendarDate) => InOrder>> = {
	organisation: () => ({ index: sql`item_by_organisation`, isIn: sql`item.organisation_id = lot.key` }),
	list: () => ({ index: sql`item_by_list`, isIn: sql`item.list_id = lot.key` }),
	folder: () => ({ index: sql`item_in_folder`, isIn: sql`item.folder_id = lot.key`, isOfOneMailbox: true }),
	year: () => ({ index: BY_DATE, isIn: sql`item.received_on BETWEEN lot.key || '-01-01' AND lot.key || '-12-31'` }),
	month: () => ({ index: BY_DATE, isIn: sql`item.received_on BETWEEN lot.key || '-01' AND lot.key || '-31'` }),
	size: () => ({ index: BY_DATE, isIn: sql`${SIZE_BAND} = lot.key` }),
	kind: () => ({ index: BY_DATE, isIn: sql`item.mail_kind = lot.key` }),
	attachment: () => ({ index: BY_DATE, isIn: sql`(item.attachment_kinds & (1 << lot.key)) <> 0` }),
	addressed: () => ({ index: BY_DATE, isIn: sql`item.addressed = lot.key` }),
	unread: (on) => ({ index: sql`item_unread`, isIn: sql`item.seen = 0 AND ${isOfUnreadBand(on)}` })
};

/* The lot that is none of those, such as mail of no list, and its messages among all; of the others, no date is certain. */
const THE_REST: Partial<Record<SummedGrouping, { key: string; isIn: Sql }>> = {
	list: { key: '', isIn: sql`item.list_id IS NULL` },
	attachment: { key: '', isIn: sql`item.attachment_kinds = 0` },
	thread: { key: '', isIn: sql`item.thread_id IS NULL` },
	tag: { key: '', isIn: sql`NOT EXISTS (SELECT 1 FROM item_tag WHERE item_tag.item_id = item.id)` },
	unread: { key: '0', isIn: sql`item.seen IS NOT 0` }
};

/* Groupings whose dates are read message by message, of the lots with these keys alone. */
const BY_MESSAGE: Partial<Record<SummedGrouping, (keys: Sql) => Sql>> = {
	correspondent: (keys) => sql`item INDEXED BY item_by_organisation
		WHERE item.organisation_id IN (SELECT organisation_id FROM correspondent WHERE id IN (SELECT value FROM ${keys}))
			AND item.correspondent_id IN (SELECT value FROM ${keys})`,
	thread: (keys) => sql`item INDEXED BY item_by_thread WHERE item.thread_id IN (SELECT value FROM ${keys})`,
	tag: (keys) =>
		sql`item_tag CROSS JOIN item ON item.id = item_tag.item_id WHERE item_tag.tag_id IN (SELECT value FROM ${keys})`
};

/** Whether the dates of all lots can be looked up at once, and not only those of some lots. */
export const areDatesInOrder = (by: SummedGrouping): boolean => !(by in BY_MESSAGE);

/** Which dates are asked for. */
interface Asked {
	by: SummedGrouping;
	mailboxIds: readonly number[];
	/** A table of the keys, as `value`. */
	keys: Sql;
	on: CalendarDate;
}

/* The first and the last day of the messages that stand in an index in the order of their days. */
function edges(mailboxIds: readonly number[], { index, isIn, isOfOneMailbox }: InOrder): Sql {
	const first = (end: 'min' | 'max', where: Sql) => sql`(SELECT item.received_on FROM item INDEXED BY ${index}
		WHERE ${where} AND item.state = 'live' AND ${DATED}
		ORDER BY item.received_on ${end === 'min' ? empty : sql`DESC`} LIMIT 1)`;
	const edge = (end: 'min' | 'max') =>
		isOfOneMailbox
			? first(end, isIn)
			: sql`(SELECT ${raw(end)}(day) FROM (
				SELECT ${first(end, sql`item.mailbox_id = box.value AND ${isIn}`)} AS day
				FROM json_each(${JSON.stringify(mailboxIds)}) box))`;
	return sql`${edge('min')} AS oldest, ${edge('max')} AS newest`;
}

/* When somebody last answered mail of each lot. */
const answers = ({ by, mailboxIds, on }: Asked) =>
	sql`SELECT ${lotKey(by, on)} AS key, max(item.answered_on) AS answered
	 FROM item INDEXED BY item_answered ${JOINS[by] ?? empty}
	 WHERE item.mailbox_id IN ${inList(mailboxIds)} AND item.state = 'live' AND item.answered_on IS NOT NULL GROUP BY 1`;

const inOrder = (asked: Asked, order: InOrder) => sql`WITH answer AS MATERIALIZED (${answers(asked)})
	SELECT lot.key, ${edges(asked.mailboxIds, order)}, answer.answered
	FROM (SELECT value AS key FROM ${asked.keys}) lot LEFT JOIN answer ON answer.key = lot.key`;

/* A top-level domain is from the first to the last day of its organisations. */
const ofDomains = (asked: Asked) => sql`WITH answer AS MATERIALIZED (${answers(asked)})
	SELECT domain AS key, min(oldest) AS oldest, max(newest) AS newest, answer.answered FROM (
		SELECT lot.domain, ${edges(asked.mailboxIds, { index: sql`item_by_organisation`, isIn: sql`item.organisation_id = lot.id` })}
		FROM (SELECT id, ${TOP_LEVEL_DOMAIN} AS domain FROM organisation) lot WHERE lot.domain IN (SELECT value FROM ${asked.keys})
	) LEFT JOIN answer ON answer.key = domain GROUP BY domain`;

const byMessage = ({ by, mailboxIds, on }: Asked, which: Sql) => sql`SELECT ${lotKey(by, on)} AS key,
		min(CASE WHEN ${DATED} THEN item.received_on END) AS oldest, max(CASE WHEN ${DATED} THEN item.received_on END) AS newest,
		max(item.answered_on) AS answered
	FROM ${which} AND item.mailbox_id IN ${inList(mailboxIds)} AND item.state = 'live' GROUP BY 1`;

/* Read mail, or mail of no list; without a condition, the mail whose date is in doubt. */
function ofTheRest(asked: Asked, key: string, isIn: Sql | undefined): Sql {
	const days = isIn ? edges(asked.mailboxIds, { index: BY_DATE, isIn }) : sql`NULL AS oldest, NULL AS newest`;
	return sql`SELECT ${key} AS key, ${days},
		(SELECT answered FROM (${answers(asked)}) WHERE CAST(ifnull(key, '') AS TEXT) = ${key}) AS answered`;
}

function datesSql(asked: Asked): Sql {
	const messages = BY_MESSAGE[asked.by]?.(asked.keys);
	if (messages) return byMessage(asked, messages);
	const order = IN_ORDER[asked.by]?.(asked.on);
	return order ? inOrder(asked, order) : ofDomains(asked);
}

/**
 * The dates of lots of {@link summedLots}, by their keys.
 *
 * @param on today
 */
export async function datesOfLots(
	db: Db,
	by: SummedGrouping,
	mailboxIds: readonly number[],
	keys: readonly string[],
	on: CalendarDate
): Promise<Map<string, LotDates>> {
	type Found = LotDates & { key: string | number | null };
	const rest = THE_REST[by];
	const isApart = (key: string) => key === rest?.key || (key === '' && by !== 'tld');
	const ordinary = keys.filter((key) => !isApart(key));
	const named = JSON.stringify(isTextKey(by) ? ordinary : ordinary.map(Number));
	const asked: Asked = { by, mailboxIds, keys: sql`json_each(${named})`, on };
	const found = await rows<Found>(db, datesSql(asked));
	for (const key of keys.filter(isApart))
		found.push(...(await rows<Found>(db, ofTheRest(asked, key, key === rest?.key ? rest.isIn : undefined))));
	return new Map(found.map(({ key, ...dates }) => [key === null ? '' : String(key), dates]));
}
