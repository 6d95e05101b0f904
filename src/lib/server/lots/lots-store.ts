import type { CalendarDate } from '../../../core/calendar.ts';
import { type Grouping, type Lot, labelOf } from '../../../core/lots/lots.ts';
import { ATTACHMENT_KINDS } from '../../../core/message/kinds.ts';
import { type Condition, type Db, empty, join, rows, type Sql, sql } from '../database/index.ts';
import { lotKey } from '../mail/index.ts';

const KINDS = sql`(${join(
	ATTACHMENT_KINDS.map((_, bit) => sql`SELECT ${bit} AS bit`),
	' UNION ALL '
)})`;

/** SQL that gives each row of a table once for each of its kinds of attachment, or once without one. */
export const kindsOf = (table: Sql) =>
	sql`LEFT JOIN ${KINDS} kind ON (${table}.attachment_kinds & (1 << kind.bit)) <> 0`;

/** What has to be joined to `item` for the key of its lot. */
export const JOINS: Partial<Record<Grouping, Sql>> = {
	attachment: kindsOf(sql`item`),
	tag: sql`LEFT JOIN item_tag ON item_tag.item_id = item.id`
};

/* The table column with a lot's name. */
const NAMES: Partial<Record<Grouping, Sql>> = {
	organisation: sql`SELECT id, domain AS label FROM organisation`,
	correspondent: sql`SELECT id, CASE WHEN name = '' THEN address ELSE name || ' <' || address || '>' END AS label FROM correspondent`,
	list: sql`SELECT id, CASE WHEN name = '' THEN identifier ELSE name END AS label FROM list`,
	thread: sql`SELECT id, title AS label FROM thread`,
	folder: sql`SELECT id, path AS label FROM folder`,
	tag: sql`SELECT id, name AS label FROM tag`
};

/* Folders of several mailboxes may have the same path. */
const FOLDERS_OF_ALL = sql`SELECT folder.id, mailbox.name || ': ' || path AS label FROM folder JOIN mailbox ON mailbox.id = mailbox_id`;

/** The names of the lots of a grouping, as a subquery; undefined: its keys are words. */
export function namesOfLots(by: Grouping, withMailbox: boolean): Sql | undefined {
	return withMailbox && by === 'folder' ? FOLDERS_OF_ALL : NAMES[by];
}

/** A lot as its row says it, with its key as text and its name. */
export function namedLot<R extends { key: string | number | null; label: string | null }>(by: Grouping, found: R) {
	const key = found.key === null ? '' : String(found.key);
	return { ...found, key, label: found.label || labelOf(by, key) };
}

/**
 * Groups items.
 *
 * @param selected which items, as a condition
 * @param options.withMailbox folders are named with their mailbox
 * @returns every lot, in no order
 */
export async function groupItems(
	db: Db,
	by: Grouping,
	on: CalendarDate,
	selected: Condition,
	{ withMailbox = false } = {}
): Promise<Lot[]> {
	const key = lotKey(by, on);
	const names = namesOfLots(by, withMailbox);
	const found = await rows<Omit<Lot, 'label' | 'key'> & { key: string | number | null; label: string | null }>(
		db,
		sql`SELECT lot.*, ${names ? sql`name.label` : sql`NULL AS label`} FROM (
			SELECT ${key} AS key, count(*) AS messages, sum(item.bytes) AS bytes,
				min(CASE WHEN item.date_in_doubt = 0 THEN item.received_on END) AS oldest,
				max(CASE WHEN item.date_in_doubt = 0 THEN item.received_on END) AS newest,
				sum(ifnull(item.seen = 0, 0)) AS unread, max(item.answered_on) AS answered
			FROM item ${JOINS[by] ?? empty} WHERE ${selected} GROUP BY 1
		 ) lot ${names ? sql`LEFT JOIN (${names}) name ON name.id = lot.key` : empty}`
	);
	return found.map((lot) => namedLot(by, lot));
}
