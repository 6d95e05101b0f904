import type { CalendarDate } from '../../../core/calendar.ts';
import { change, type Condition, type Db, idOf, insertRows, row, rows, sql } from '../database/index.ts';

/* What is flagged or kept stays for itself. */
const IN_NO_DIGEST: Condition = sql`item.state = 'live' AND item.flagged = 0 AND item.kept = 0
	AND NOT EXISTS (SELECT 1 FROM digest_item WHERE digest_item.item_id = item.id)`;

/** A finished digest. */
export interface Digest {
	id: number;
	mailboxId: number;
	/** The last day it covers. */
	day: CalendarDate;
	messageId: string;
	/** The docket that archives its originals; null: none yet. */
	docketId: number | null;
}

/** The lists in a mailbox's digest, each with its first day. */
export async function digestLists(db: Db, mailboxId: number): Promise<Map<number, CalendarDate>> {
	const found = await db('digest_list').where({ mailbox_id: mailboxId }).select('since', { listId: 'list_id' });
	return new Map(found.map(({ listId, since }) => [listId, since]));
}

/** Adds lists to the digest of a mailbox from a day. @returns those that are new in it */
export async function addDigestLists(
	db: Db,
	mailboxId: number,
	listIds: readonly number[],
	since: CalendarDate,
	lineId: number | null
): Promise<void> {
	await insertRows(
		db,
		`INSERT INTO digest_list (mailbox_id, list_id, since, line_id)`,
		listIds.map((listId) => [mailboxId, listId, since, lineId]),
		`ON CONFLICT DO NOTHING`
	);
}

/** Removes lists from the digest. @returns how many were in it */
export async function removeDigestLists(db: Db, mailboxId: number, listIds: readonly number[]): Promise<number> {
	return change(
		db,
		sql`DELETE FROM digest_list WHERE mailbox_id = ${mailboxId} AND list_id IN (SELECT value FROM json_each(${JSON.stringify(listIds)}))`
	);
}

/** Removes the lists that lines of a docket added to the digest. */
export async function removeDigestListsOfLines(db: Db, lineIds: readonly number[]): Promise<void> {
	await change(
		db,
		sql`DELETE FROM digest_list WHERE line_id IN (SELECT value FROM json_each(${JSON.stringify(lineIds)}))`
	);
}

/** Mailboxes with lists in their digest. */
export async function mailboxesWithDigest(db: Db): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT mailbox_id AS id FROM digest_list UNION SELECT mailbox_id FROM item WHERE for_digest = 1 AND ${IN_NO_DIGEST} ORDER BY 1`
	);
	return found.map(({ id }) => id);
}

/** A message for a digest. */
export interface Folded {
	itemId: number;
	contentId: number;
	/** The list, or the sender of a single message. */
	list: string;
	isList: number;
	subject: string;
	fromName: string;
	fromAddress: string;
	receivedOn: CalendarDate;
	bytes: number;
	messageId: string;
}

/** The day of the oldest single message that waits for the next digest of a mailbox. */
export async function oldestToFold(db: Db, mailboxId: number): Promise<CalendarDate | undefined> {
	const found = await row<{ on: CalendarDate | null }>(
		db,
		sql`SELECT min(received_on) AS "on" FROM item WHERE mailbox_id = ${mailboxId} AND for_digest = 1 AND ${IN_NO_DIGEST}`
	);
	return found?.on ?? undefined;
}

/**
 * Live messages of a mailbox's folded lists, and single ones put into the digest, received up to a day and in no digest
 * yet; list by list, else sender by sender, the oldest first.
 */
export async function toFold(db: Db, mailboxId: number, upTo: CalendarDate, limit: number): Promise<Folded[]> {
	return rows(
		db,
		sql`SELECT item.id AS itemId, message.content_id AS contentId,
			coalesce(nullif(list.name, ''), list.identifier, nullif(from_name, ''), from_address) AS list, list.id IS NOT NULL AS isList, subject, from_name AS fromName,
			from_address AS fromAddress, received_on AS receivedOn, item.bytes, message.message_id AS messageId
		 FROM (
			SELECT item.id FROM digest_list CROSS JOIN item INDEXED BY item_by_list
				ON item.mailbox_id = digest_list.mailbox_id AND item.list_id = digest_list.list_id
			WHERE digest_list.mailbox_id = ${mailboxId} AND date_in_doubt = 0 AND received_on >= digest_list.since
				AND received_on <= ${upTo} AND ${IN_NO_DIGEST}
			UNION SELECT item.id FROM item WHERE mailbox_id = ${mailboxId} AND for_digest = 1 AND received_on <= ${upTo} AND ${IN_NO_DIGEST}
		 ) folded CROSS JOIN item ON item.id = folded.id JOIN message ON message.id = item.message_id
			LEFT JOIN list ON list.id = item.list_id
		 ORDER BY list, received_on, item.id LIMIT ${limit}`
	);
}

/** The last digest of a mailbox. */
export async function lastDigest(db: Db, mailboxId: number): Promise<Digest | undefined> {
	return db('digest')
		.where({ mailbox_id: mailboxId })
		.orderBy('day', 'desc')
		.first('id', 'day', { mailboxId: 'mailbox_id', messageId: 'message_id', docketId: 'docket_id' });
}

/** Stores a digest with its originals, in their order. */
export async function addDigest(
	db: Db,
	digest: Pick<Digest, 'mailboxId' | 'day' | 'messageId'>,
	itemIds: readonly number[],
	at: Date
): Promise<number> {
	const id = await idOf(
		db('digest').insert({
			mailbox_id: digest.mailboxId,
			day: digest.day,
			message_id: digest.messageId,
			made_at: at.toISOString()
		})
	);
	await insertRows(
		db,
		`INSERT INTO digest_item (digest_id, position, item_id)`,
		itemIds.map((itemId, position) => [id, position, itemId])
	);
	return id;
}

/** Stores the docket that archives the originals of a digest. */
export async function putDigestDocket(db: Db, id: number, docketId: number): Promise<void> {
	await db('digest').where({ id }).update({ docket_id: docketId });
}

/** Digests of a mailbox whose originals have no docket yet. */
export async function digestsWithoutDocket(db: Db, mailboxId: number): Promise<(Digest & { itemIds: number[] })[]> {
	const found = await rows<Digest & { items: string }>(
		db,
		sql`SELECT id, mailbox_id AS mailboxId, day, message_id AS messageId, docket_id AS docketId,
			(SELECT json_group_array(item_id) FROM digest_item WHERE digest_id = digest.id) AS items
		 FROM digest WHERE mailbox_id = ${mailboxId} AND docket_id IS NULL ORDER BY day`
	);
	return found.map(({ items, ...digest }) => ({ ...digest, itemIds: JSON.parse(items) as number[] }));
}

/** An original of a digest. */
export interface DigestOriginal {
	id: number;
	subject: string;
	fromName: string;
	fromAddress: string;
	receivedOn: CalendarDate | null;
	state: string;
}

/**
 * The originals of the digest with a Message-ID, in their order; empty if that is no digest. Destroyed ones are left
 * out.
 */
export async function originalsOf(db: Db, messageId: string): Promise<DigestOriginal[]> {
	return rows(
		db,
		sql`SELECT item.id, subject, from_name AS fromName, from_address AS fromAddress, received_on AS receivedOn, item.state
		 FROM digest JOIN digest_item ON digest_item.digest_id = digest.id JOIN item ON item.id = digest_item.item_id
			JOIN message ON message.id = item.message_id
		 WHERE digest.message_id = ${messageId} ORDER BY position LIMIT 1000`
	);
}
