import type { CalendarDate } from '../../../core/calendar.ts';
import { change, type Db, idOf, inList, row, rows, sql } from '../database/index.ts';

/** A thread that comes back when it is answered, or on a day. */
export interface Awaited {
	id: number;
	/** Its message that a person decided on. */
	itemId: number;
	subject: string;
	/** Who is to answer: the correspondent of that message. */
	who: string;
	because: string;
	since: CalendarDate;
	until: CalendarDate | null;
	/** How many of its messages come back. */
	messages: number;
	madeBy: string;
}

/** What ended a wait. */
export type AwaitedEnd = 'answer' | 'day' | 'person';

/** The threads of a mailbox whose answers are awaited, the longest wait first. */
export async function openAwaited(db: Db, mailboxId: number): Promise<Awaited[]> {
	return rows(
		db,
		sql`SELECT awaited.id, awaited.item_id AS itemId, message.subject, CASE from_name WHEN '' THEN from_address ELSE from_name END AS who,
			because, since, until, made_by AS madeBy,
			(SELECT count(*) FROM awaited_item JOIN item back ON back.id = awaited_item.item_id
				WHERE awaited_id = awaited.id AND back.state = 'archived') AS messages
		 FROM awaited JOIN item ON item.id = awaited.item_id JOIN message ON message.id = item.message_id
		 WHERE awaited.mailbox_id = ${mailboxId} AND ended_on IS NULL ORDER BY since, awaited.id`
	);
}

/** The mailboxes in which an answer is awaited, or where every answered thread comes back. */
export async function mailboxesAwaiting(db: Db): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM mailbox WHERE returns_answered = 1
			OR EXISTS (SELECT 1 FROM awaited WHERE mailbox_id = mailbox.id AND ended_on IS NULL) ORDER BY id`
	);
	return found.map(({ id }) => id);
}

/** Stores that a thread is awaited; what was awaited of it before ends with that. @returns its number */
export async function addAwaited(
	db: Db,
	wait: {
		mailboxId: number;
		itemId: number;
		itemIds: readonly number[];
		because: string;
		since: CalendarDate;
		until: CalendarDate | undefined;
		by: string;
	}
): Promise<number> {
	await change(
		db,
		sql`UPDATE awaited SET ended_on = ${wait.since}, ended_by = 'person' WHERE mailbox_id = ${wait.mailboxId} AND ended_on IS NULL
			AND (item_id = ${wait.itemId} OR (SELECT thread_id FROM item WHERE id = awaited.item_id) =
				(SELECT thread_id FROM item WHERE id = ${wait.itemId}))`
	);
	const newest = await row<{ id: number }>(db, sql`SELECT max(id) AS id FROM item`);
	const id = await idOf(
		db('awaited').insert({
			mailbox_id: wait.mailboxId,
			item_id: wait.itemId,
			behind_item_id: newest?.id ?? 0,
			because: wait.because,
			since: wait.since,
			until: wait.until ?? null,
			made_by: wait.by
		})
	);
	await change(
		db,
		sql`INSERT INTO awaited_item (awaited_id, item_id) SELECT ${id}, value FROM json_each(${JSON.stringify(wait.itemIds)})`
	);
	return id;
}

/** Ends a wait. */
export async function endAwaited(
	db: Db,
	id: number,
	end: { on: CalendarDate; by: AwaitedEnd; answerId?: number | undefined; docketId?: number | undefined }
): Promise<void> {
	await db('awaited')
		.where({ id, ended_on: null })
		.update({
			ended_on: end.on,
			ended_by: end.by,
			answer_item_id: end.answerId ?? null,
			docket_id: end.docketId ?? null
		});
}

/* Mail that somebody else sent: nothing of the mailbox's own, and no junk. */
const isFromOthers = (own: readonly string[]) =>
	sql`answer.draft = 0
		AND (SELECT address FROM correspondent WHERE id = answer.correspondent_id) NOT IN (SELECT value FROM json_each(${JSON.stringify(own)}))
		AND ifnull((SELECT role FROM folder WHERE id = answer.folder_id), '') NOT IN ('sent', 'drafts', 'junk')`;

/** The waits of a mailbox that end: with the answer that arrived, or by their day. */
export async function endedWaits(
	db: Db,
	mailboxId: number,
	{ own, today }: { own: readonly string[]; today: CalendarDate }
): Promise<{ id: number; answerId: number | null }[]> {
	return rows(
		db,
		sql`SELECT id, answerId FROM (
			SELECT awaited.id, until, (
				SELECT max(answer.id) FROM item anchor JOIN item answer ON answer.thread_id = anchor.thread_id
				WHERE anchor.id = awaited.item_id AND answer.id > behind_item_id AND answer.mailbox_id = awaited.mailbox_id
					AND answer.state = 'live' AND ${isFromOthers(own)}
			) AS answerId
			FROM awaited WHERE mailbox_id = ${mailboxId} AND ended_on IS NULL
		 ) WHERE answerId IS NOT NULL OR until <= ${today} ORDER BY id`
	);
}

/** The messages of a wait that are archived still. */
export async function itemsAwaited(db: Db, awaitedId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM awaited_item JOIN item ON item.id = item_id WHERE awaited_id = ${awaitedId} AND item.state = 'archived' ORDER BY item.id`
	);
	return found.map(({ id }) => id);
}

/** The archived messages of the thread in which a message lies; none while it is not threaded. */
export async function archivedOfThread(db: Db, itemId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM item anchor JOIN item ON item.thread_id = anchor.thread_id AND item.mailbox_id = anchor.mailbox_id
		 WHERE anchor.id = ${itemId} AND item.state = 'archived' ORDER BY item.id`
	);
	return found.map(({ id }) => id);
}

/** The live messages of the thread in which a message lies, itself among them. */
export async function liveOfThread(db: Db, itemId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM item anchor JOIN item ON item.id = anchor.id OR (item.thread_id = anchor.thread_id AND item.mailbox_id = anchor.mailbox_id)
		 WHERE anchor.id = ${itemId} AND item.state = 'live' ORDER BY item.id`
	);
	return found.map(({ id }) => id);
}

/** Whether every answered thread of a mailbox comes back. */
export async function returnsAnswered(db: Db, mailboxId: number): Promise<boolean> {
	return (await db('mailbox').where({ id: mailboxId }).first('returns_answered'))?.returns_answered === 1;
}

/** Sets whether every answered thread of a mailbox comes back, from its next mail on. */
export async function putReturnsAnswered(db: Db, mailboxId: number, returns: boolean): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET returns_answered = ${Number(returns)}, returned_through = ifnull((SELECT max(id) FROM item), 0) WHERE id = ${mailboxId}`
	);
}

/**
 * The answers that have come to archived threads of a mailbox since this was asked last, each with the messages that were
 * archived last of its thread.
 */
export async function answeredThreads(
	db: Db,
	mailboxId: number,
	own: readonly string[]
): Promise<{ answerId: number; itemIds: number[] }[]> {
	const found = await rows<{ answerId: number; items: string }>(
		db,
		sql`SELECT max(answer.id) AS answerId, (
				SELECT json_group_array(back.id) FROM item back WHERE back.thread_id = answer.thread_id AND back.mailbox_id = answer.mailbox_id
				AND back.state = 'archived' AND back.docket_id IS newest.docket_id
			) AS items
		 FROM item answer JOIN item newest ON newest.id = (
			SELECT id FROM item last WHERE last.thread_id = answer.thread_id AND last.mailbox_id = answer.mailbox_id AND last.state = 'archived'
			ORDER BY received_at DESC, id DESC LIMIT 1)
		 WHERE answer.id > (SELECT returned_through FROM mailbox WHERE id = ${mailboxId}) AND answer.mailbox_id = ${mailboxId}
			AND answer.thread_id IS NOT NULL AND ifnull(answer.received_at >= newest.received_at, 0)
			AND answer.state = 'live' AND ${isFromOthers(own)}
		 GROUP BY answer.thread_id ORDER BY 1`
	);
	return found.map(({ answerId, items }) => ({ answerId, itemIds: JSON.parse(items) as number[] }));
}

/** Notes that the answers up to now were seen. */
export async function putReturnedThrough(db: Db, mailboxId: number): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET returned_through = ifnull((SELECT max(id) FROM item WHERE thread_id IS NOT NULL), 0) WHERE id = ${mailboxId}`
	);
}

/** What brought a message back, the last first. */
export async function returnsOf(
	db: Db,
	itemId: number
): Promise<{ on: CalendarDate; by: AwaitedEnd; who: string | null; because: string; docketId: number }[]> {
	return rows(
		db,
		sql`SELECT ended_on AS "on", ended_by AS by, because, docket_id AS docketId,
			(SELECT CASE from_name WHEN '' THEN from_address ELSE from_name END FROM item JOIN message ON message.id = item.message_id
				WHERE item.id = answer_item_id) AS who
		 FROM awaited_item JOIN awaited ON awaited.id = awaited_id
		 WHERE awaited_item.item_id = ${itemId} AND docket_id IS NOT NULL ORDER BY awaited.id DESC LIMIT 10`
	);
}

/** The wait in which a message is, if it is awaited. */
export async function waitOf(
	db: Db,
	itemId: number
): Promise<{ id: number; since: CalendarDate; until: CalendarDate | null; because: string } | undefined> {
	return row(
		db,
		sql`SELECT awaited.id, since, until, because FROM awaited_item JOIN awaited ON awaited.id = awaited_id
		 WHERE awaited_item.item_id = ${itemId} AND ended_on IS NULL`
	);
}

/** The mailboxes in which some items lie. */
export async function mailboxesOfItems(db: Db, ids: readonly number[]): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT DISTINCT mailbox_id AS id FROM item WHERE id IN ${inList(ids)}`
	);
	return found.map(({ id }) => id);
}

/** Of some items, the newest that somebody else sent; where there is none, the newest. */
export async function lastFromOthers(
	db: Db,
	ids: readonly number[],
	own: readonly string[]
): Promise<number | undefined> {
	const found = await row<{ id: number }>(
		db,
		sql`SELECT answer.id FROM item answer WHERE id IN ${inList(ids)}
		 ORDER BY ${isFromOthers(own)} DESC, received_at DESC, id DESC LIMIT 1`
	);
	return found?.id;
}
