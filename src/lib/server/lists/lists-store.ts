import type { CalendarDate } from '../../../core/calendar.ts';
import type { SenderMark } from '../../../core/lists/senders.ts';
import { change, type Db, insertRows, row, rows, sql } from '../database/index.ts';
import { escapeLike } from '../mail/index.ts';

/** A list. */
export interface List {
	id: number;
	identifier: string;
	name: string;
	organisation: string;
}

/** A mailbox's mail of a list, in any state. */
export interface ListMail {
	listId: number;
	messages: number;
	bytes: number;
	first: CalendarDate | null;
	last: CalendarDate | null;
}

/** How much of a list has been read. */
export interface ListReading {
	listId: number;
	/** Read messages, of those with a known read state. */
	read: number;
	readKnown: number;
	/** When the newest read message was received. */
	lastRead: CalendarDate | null;
	/** How many sender addresses it has. */
	addresses: number;
}

const SOUND = sql`date_in_doubt = 0 AND received_on IS NOT NULL`;

/*
 * An organisation to which somebody wrote at this many addresses carries other people's mail, as a mail provider
 * does.
 */
const CARRIER = 25;

/* Who was written to: the address itself, or another of the same organisation. */
const KNOWN = sql`SELECT correspondent.id FROM written_to JOIN correspondent ON correspondent.address = written_to.address
	UNION SELECT correspondent.id FROM (
		SELECT organisation FROM written_to WHERE organisation <> '' GROUP BY organisation HAVING count(*) < ${CARRIER}
	 ) near JOIN organisation ON organisation.domain = near.organisation JOIN correspondent ON correspondent.organisation_id = organisation.id`;

/**
 * A mailbox's mail of its lists: from the summary; the first and the last message of each are looked up in an index.
 */
export async function listMail(db: Db, mailboxId: number): Promise<ListMail[]> {
	const dated = sql`item INDEXED BY item_by_list WHERE item.mailbox_id = ${mailboxId} AND item.list_id = weight.listId AND ${SOUND}`;
	return rows<ListMail>(
		db,
		sql`SELECT listId, messages, bytes, (SELECT received_on FROM ${dated} ORDER BY received_on LIMIT 1) AS first,
			(SELECT received_on FROM ${dated} ORDER BY received_on DESC LIMIT 1) AS last
		 FROM (
			SELECT list_id AS listId, sum(messages) AS messages, sum(bytes) AS bytes FROM weight_by_list
			WHERE mailbox_id = ${mailboxId} AND list_id <> 0 GROUP BY list_id
		 ) weight`
	);
}

/** How much of some lists has been read in a mailbox, and how many sender addresses they have. */
export async function listReading(
	db: Db,
	mailboxId: number,
	ids: readonly number[]
): Promise<Map<number, ListReading>> {
	const found = await rows<ListReading>(
		db,
		sql`SELECT list_id AS listId, sum(ifnull(seen, 0)) AS read, count(seen) AS readKnown,
			max(received_on) FILTER (WHERE seen = 1 AND date_in_doubt = 0) AS lastRead, count(DISTINCT correspondent_id) AS addresses
		 FROM item INDEXED BY item_by_list
		 WHERE mailbox_id = ${mailboxId} AND list_id IN (SELECT value FROM json_each(${JSON.stringify(ids)})) GROUP BY list_id`
	);
	return new Map(found.map((reading) => [reading.listId, reading]));
}

/** Lists of a mailbox to whose addresses or organisation somebody here has written. */
export async function knownLists(db: Db, mailboxId: number, ids: readonly number[]): Promise<Set<number>> {
	const found = await rows<{ listId: number }>(
		db,
		sql`SELECT DISTINCT list_id AS listId FROM item INDEXED BY item_by_list
		 WHERE mailbox_id = ${mailboxId} AND list_id IN (SELECT value FROM json_each(${JSON.stringify(ids)})) AND correspondent_id IN (${KNOWN})`
	);
	return new Set(found.map(({ listId }) => listId));
}

/** Messages of some lists in a mailbox by month, from a day. */
export async function listMonths(
	db: Db,
	mailboxId: number,
	ids: readonly number[],
	since: CalendarDate
): Promise<{ listId: number; month: string; messages: number }[]> {
	return rows(
		db,
		sql`SELECT list_id AS listId, substr(received_on, 1, 7) AS month, count(*) AS messages
		 FROM item INDEXED BY item_by_list
		 WHERE mailbox_id = ${mailboxId} AND list_id IN (SELECT value FROM json_each(${JSON.stringify(ids)})) AND received_on >= ${since} AND ${SOUND} GROUP BY 1, 2`
	);
}

/** Messages of a mailbox's lists by day, from a day. */
export async function listDays(
	db: Db,
	mailboxId: number,
	since: CalendarDate
): Promise<{ listId: number; day: CalendarDate; messages: number }[]> {
	return rows(
		db,
		sql`SELECT list_id AS listId, received_on AS day, count(*) AS messages FROM item INDEXED BY item_by_list
		 WHERE mailbox_id = ${mailboxId} AND list_id IS NOT NULL AND received_on >= ${since} AND ${SOUND} GROUP BY 1, 2`
	);
}

/** The lists among the newest live messages that a mailbox received, with their counts. Its own mail was sent, not received. */
export async function listsInNewest(
	db: Db,
	mailboxId: number,
	newest: number
): Promise<{ listId: number; messages: number }[]> {
	return rows(
		db,
		sql`SELECT list_id AS listId, count(*) AS messages FROM (
			SELECT list_id FROM item WHERE mailbox_id = ${mailboxId} AND state = 'live' AND ${SOUND}
				AND folder_id NOT IN (SELECT id FROM folder WHERE mailbox_id = ${mailboxId} AND role IN ('sent', 'drafts', 'junk'))
			ORDER BY received_on DESC, received_at DESC, id DESC LIMIT ${newest}
		 ) WHERE list_id IS NOT NULL GROUP BY 1`
	);
}

/** Lists by their numbers. */
export async function listsById(db: Db, ids: readonly number[]): Promise<List[]> {
	return rows(
		db,
		sql`SELECT list.id, identifier, name, organisation FROM json_each(${JSON.stringify(ids)}) wanted CROSS JOIN list ON list.id = wanted.value`
	);
}

/** The list with that identifier. */
export async function findList(db: Db, identifier: string): Promise<List | undefined> {
	return db('list')
		.where({ identifier: identifier.trim().toLowerCase() })
		.first('id', 'identifier', 'name', 'organisation');
}

/** The newest message of each of some lists in a mailbox, with its sender's address. */
export async function newestOfLists(
	db: Db,
	mailboxId: number,
	ids: readonly number[]
): Promise<{ listId: number; itemId: number; contentId: number; ways: number; address: string }[]> {
	return rows(
		db,
		sql`SELECT newest.listId, newest.id AS itemId, message.content_id AS contentId, message.leave_ways AS ways, correspondent.address
		 FROM (
			SELECT wanted.value AS listId, (
				SELECT item.id FROM item INDEXED BY item_by_list WHERE item.mailbox_id = ${mailboxId} AND item.list_id = wanted.value
				ORDER BY date_in_doubt, received_on DESC LIMIT 1
			) AS id FROM json_each(${JSON.stringify(ids)}) wanted
		 ) newest CROSS JOIN item ON item.id = newest.id JOIN message ON message.id = item.message_id
			JOIN correspondent ON correspondent.id = item.correspondent_id`
	);
}

/** The mailboxes with mail of some lists. */
export async function mailboxesOfLists(
	db: Db,
	ids: readonly number[]
): Promise<{ listId: number; mailboxId: number; live: number }[]> {
	return rows(
		db,
		sql`SELECT list_id AS listId, mailbox_id AS mailboxId, sum(CASE WHEN state = 'live' THEN messages ELSE 0 END) AS live
		 FROM weight_by_list WHERE list_id <> 0 AND list_id IN (SELECT value FROM json_each(${JSON.stringify(ids)})) GROUP BY 1, 2`
	);
}

/* ---- correspondents who were written to ---- */

/** Sent messages of a mailbox after a mark, with their recipients. */
export async function sentBehind(
	db: Db,
	mailboxId: number,
	limit: number
): Promise<{ id: number; recipients: string }[]> {
	return rows(
		db,
		sql`SELECT item.id, message.to_addresses || message.cc_addresses AS recipients
		 FROM item JOIN message ON message.id = item.message_id
		 WHERE item.id IN (
			SELECT id FROM item WHERE mailbox_id = ${mailboxId} AND id > (SELECT written_to_item FROM mailbox WHERE id = ${mailboxId})
				AND (imported_folder_id IN (SELECT id FROM folder WHERE mailbox_id = ${mailboxId} AND role = 'sent')
					OR correspondent_id IN (SELECT correspondent.id FROM mailbox CROSS JOIN json_each(mailbox.addresses) own
						CROSS JOIN correspondent ON correspondent.address = own.value WHERE mailbox.id = ${mailboxId}))
			ORDER BY id LIMIT ${limit})
		 ORDER BY item.id`
	);
}

/** Stores the recipients, and how far sent mail was read for that. */
export async function putRecipients(
	db: Db,
	mailboxId: number,
	addresses: readonly { address: string; organisation: string }[],
	upTo: number
): Promise<void> {
	await insertRows(
		db,
		`INSERT INTO written_to (address, organisation)`,
		addresses.map(({ address, organisation }) => [address, organisation]),
		`ON CONFLICT DO NOTHING`
	);
	await change(db, sql`UPDATE mailbox SET written_to_item = max(written_to_item, ${upTo}) WHERE id = ${mailboxId}`);
}

/** The highest number of an item. */
export async function newestItem(db: Db): Promise<number> {
	return (await row<{ id: number | null }>(db, sql`SELECT max(id) AS id FROM item`))?.id ?? 0;
}

/* ---- trusted and blocked senders ---- */

/** A mark with its author. */
export interface StoredMark extends SenderMark {
	id: number;
	madeBy: string;
	madeAt: string;
}

/** All marks, by kind and name. */
export async function senderMarks(db: Db): Promise<StoredMark[]> {
	return db('sender_mark')
		.orderBy('value')
		.orderBy('kind')
		.select('id', 'verdict', 'kind', 'value', { madeBy: 'made_by', madeAt: 'made_at' });
}

/** How many senders a mark is true of, with their live and archived messages in all mailboxes from a day on. */
export async function countMarked(
	db: Db,
	{ kind, value }: Pick<SenderMark, 'kind' | 'value'>,
	since: string
): Promise<{ senders: number; messages: number }> {
	const ends = (text: string) => sql`address LIKE ${`%${escapeLike(text)}`} ESCAPE '\\'`;
	const writers = {
		address: sql`address = ${value}`,
		domain: sql`(${ends(`@${value}`)} OR ${ends(`.${value}`)})`,
		tld: ends(`.${value}`),
		list: sql`0`
	}[kind];
	const found = await row<{ senders: number; messages: number }>(
		db,
		sql`SELECT count(DISTINCT correspondent_id) AS senders, count(*) AS messages FROM item
		 WHERE state IN ('live', 'archived') AND received_on >= ${since}
			AND folder_id NOT IN (SELECT id FROM folder WHERE role IN ('sent', 'drafts'))
			AND ${kind === 'list' ? sql`list_id IN (SELECT id FROM list WHERE identifier = ${value})` : sql`correspondent_id IN (SELECT id FROM correspondent WHERE ${writers})`}`
	);
	return found ?? { senders: 0, messages: 0 };
}

/** Marks a sender; an existing mark is replaced. */
export async function putSenderMark(
	db: Db,
	{ verdict, kind, value }: SenderMark,
	who: string,
	at: Date
): Promise<void> {
	await change(
		db,
		sql`INSERT INTO sender_mark (verdict, kind, value, made_by, made_at) VALUES (${verdict}, ${kind}, ${value}, ${who}, ${at.toISOString()})
		 ON CONFLICT DO UPDATE SET verdict = excluded.verdict, made_by = excluded.made_by, made_at = excluded.made_at`
	);
}

/** Removes a mark. @returns whether it existed */
export async function removeSenderMark(db: Db, { kind, value }: Pick<SenderMark, 'kind' | 'value'>): Promise<boolean> {
	return (await db('sender_mark').where({ kind, value }).delete()) > 0;
}

/** New items of a mailbox with the facts for judging their senders, ordered by number. */
export async function sendersOfItems(
	db: Db,
	mailboxId: number,
	after: number,
	limit: number
): Promise<{ id: number; from: string; list: string }[]> {
	return rows(
		db,
		sql`SELECT item.id, correspondent.address AS "from", ifnull(list.identifier, '') AS list
		 FROM item JOIN correspondent ON correspondent.id = item.correspondent_id LEFT JOIN list ON list.id = item.list_id
		 WHERE item.id > ${after} AND item.mailbox_id = ${mailboxId} AND item.state = 'live' ORDER BY item.id LIMIT ${limit}`
	);
}
