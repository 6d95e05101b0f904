import type { CalendarDate } from '../../../core/calendar.ts';
import { type Grouping, type Lot, labelOf } from '../../../core/lots/lots.ts';
import { ATTACHMENT_KINDS } from '../../../core/message/kinds.ts';
import { type Condition, type Db, empty, join, rows, type Sql, sql } from '../database/index.ts';
import { lotKey } from '../mail/index.ts';

const JOINS: Partial<Record<Grouping, Sql>> = {
	attachment: sql`LEFT JOIN (${join(
		ATTACHMENT_KINDS.map((_, bit) => sql`SELECT ${bit} AS bit`),
		' UNION ALL '
	)}) kind ON (item.attachment_kinds & (1 << kind.bit)) <> 0`,
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
	const names = withMailbox && by === 'folder' ? FOLDERS_OF_ALL : NAMES[by];
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
	return found.map(({ key: stored, label, ...lot }) => {
		const text = stored === null ? '' : String(stored);
		return { ...lot, key: text, label: label || labelOf(by, text) };
	});
}

/**
 * The organisations of a mailbox's live mail: the result of {@link groupItems}, but from the summary, with the first
 * and the last date of each looked up in an index instead of scanning all items.
 */
export async function organisationLots(db: Db, mailboxId: number): Promise<Lot[]> {
	const items = sql`item WHERE item.mailbox_id = ${mailboxId} AND item.organisation_id = weight.id AND item.state = 'live'`;
	const dated = sql`${items} AND item.date_in_doubt = 0 AND item.received_on IS NOT NULL`;
	const found = await rows<Omit<Lot, 'key'> & { key: number }>(
		db,
		sql`SELECT weight.id AS key, domain AS label, messages, bytes, unread,
			(SELECT received_on FROM ${dated} ORDER BY received_on LIMIT 1) AS oldest,
			(SELECT received_on FROM ${dated} ORDER BY received_on DESC LIMIT 1) AS newest,
			(SELECT max(answered_on) FROM ${items} AND item.answered_on IS NOT NULL) AS answered
		 FROM (
			SELECT organisation_id AS id, sum(messages) AS messages, sum(bytes) AS bytes, sum(unread) AS unread
			FROM weight_by_correspondent JOIN correspondent ON correspondent.id = correspondent_id
			WHERE mailbox_id = ${mailboxId} AND state = 'live' GROUP BY organisation_id
		 ) weight JOIN organisation ON organisation.id = weight.id`
	);
	return found.map((lot) => ({ ...lot, key: String(lot.key), label: lot.label || labelOf('organisation', '') }));
}
