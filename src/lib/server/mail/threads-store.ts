import type { ThreadedMessage } from '../../../core/threads/thread.ts';
import { change, type Db, inList, insertRows, join, rows, setOfItem, type Sql, sql } from '../database/index.ts';

interface ThreadedRow {
	id: number;
	messageId: string;
	references: string;
	sentAt: number | null;
	subject: string;
	title: string;
	isReply: number;
}

const COLUMNS = sql`item.id, message.message_id AS messageId, reference_ids AS "references",
	ifnull(message.sent_at, item.received_at) AS sentAt, base_subject AS subject,
	message.subject AS title, is_reply AS isReply`;

/* Column by column: whole rows cost ten times as much, for a million of them. */
const toThreaded = ({ id, messageId, subject, title, references, sentAt, isReply }: ThreadedRow): ThreadedMessage => ({
	id,
	messageId,
	subject,
	title,
	references: references === '[]' ? [] : (JSON.parse(references) as string[]),
	sentAt: sentAt ?? undefined,
	isReply: isReply === 1
});

/** Unthreaded items of a mailbox, in the order of arrival. */
export async function itemsNotThreaded(db: Db, mailboxId: number, limit: number): Promise<ThreadedMessage[]> {
	const found = await rows<ThreadedRow>(
		db,
		sql`SELECT ${COLUMNS} FROM item INDEXED BY item_not_threaded JOIN message ON message.id = item.message_id
		 WHERE item.mailbox_id = ${mailboxId} AND item.thread_id IS NULL ORDER BY item.id LIMIT ${limit}`
	);
	return found.map(toThreaded);
}

/** The mailboxes with items that are not threaded yet. */
export async function mailboxesNotThreaded(db: Db): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM mailbox WHERE EXISTS (SELECT 1 FROM item INDEXED BY item_not_threaded
			WHERE item.mailbox_id = mailbox.id AND item.thread_id IS NULL) ORDER BY id`
	);
	return found.map(({ id }) => id);
}

/** The sets of Message-IDs, by their hashes. */
export async function referenceSets(
	db: Db,
	mailboxId: number,
	hashes: readonly number[]
): Promise<Map<number, number>> {
	const found = await rows<{ hash: number; setId: number }>(
		db,
		sql`SELECT id_hash AS hash, set_id AS setId FROM json_each(${JSON.stringify(hashes)}) wanted CROSS JOIN reference ON reference.mailbox_id = ${mailboxId} AND id_hash = wanted.value`
	);
	return new Map(found.map(({ hash, setId }) => [hash, setId]));
}

/** Unites sets, and adds Message-IDs to their sets. */
export async function putReferenceSets(
	db: Db,
	mailboxId: number,
	sets: {
		merged: readonly { from: number; into: number }[];
		/** Each hash with its set. */
		ids: readonly [hash: number, set: number][];
	}
): Promise<void> {
	for (const { from, into } of sets.merged) {
		await db('reference').where({ set_id: from, mailbox_id: mailboxId }).update({ set_id: into });
		await change(db, sql`UPDATE item SET ${setOfItem({ reference_set: sql`${into}` })} WHERE reference_set = ${from}`);
	}
	await change(
		db,
		sql`INSERT INTO reference (mailbox_id, id_hash, set_id) SELECT ${mailboxId}, value ->> 0, value ->> 1 FROM json_each(${JSON.stringify(sets.ids)}) WHERE true
		 ON CONFLICT DO NOTHING`
	);
}

/** Adds items to the sets of {@link putReferenceSets}. */
export async function putIntoSets(db: Db, items: readonly [id: number, set: number][]): Promise<void> {
	await change(
		db,
		sql`UPDATE item SET ${setOfItem({ reference_set: sql`wanted.value ->> 1` })} FROM json_each(${JSON.stringify(items)}) wanted WHERE item.id = wanted.value ->> 0`
	);
}

/** Every item of some sets in the order of arrival, with its set. */
export async function itemsOfSets(db: Db, sets: readonly number[]): Promise<(ThreadedMessage & { set: number })[]> {
	const found = await rows<ThreadedRow & { set: number }>(
		db,
		sql`SELECT ${COLUMNS}, item.reference_set AS "set" FROM json_each(${JSON.stringify(sets)}) wanted CROSS JOIN item ON item.reference_set = wanted.value
		 JOIN message ON message.id = item.message_id ORDER BY item.id`
	);
	return found.map((message) => ({ ...toThreaded(message), set: message.set }));
}

/**
 * Those of some base subjects under which a branch may join another one, or has: they have to be looked at as a whole
 * when a branch is added to them.
 */
export async function subjectsWithLoose(db: Db, mailboxId: number, subjects: readonly string[]): Promise<string[]> {
	const found = await rows<{ subject: string }>(
		db,
		sql`SELECT DISTINCT thread.subject FROM json_each(${JSON.stringify(subjects)}) wanted CROSS JOIN thread
			ON thread.subject = wanted.value AND thread.subject <> '' AND mailbox_id = ${mailboxId} WHERE loose > 0`
	);
	return found.map(({ subject }) => subject);
}

/** The sets of all items in threads of some base subjects. */
export async function setsOfSubjects(db: Db, mailboxId: number, subjects: readonly string[]): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT DISTINCT reference_set AS id FROM json_each(${JSON.stringify(subjects)}) wanted CROSS JOIN thread
			ON thread.subject = wanted.value AND thread.subject <> '' AND thread.mailbox_id = ${mailboxId}
			CROSS JOIN item ON item.thread_id = thread.id WHERE reference_set IS NOT NULL`
	);
	return found.map(({ id }) => id);
}

/** The senders and recipients of some items, by item. */
export async function peopleOf(db: Db, ids: readonly number[]): Promise<Map<number, string[]>> {
	const found = await rows<{ id: number; people: string }>(
		db,
		sql`SELECT item.id, from_address || to_addresses || cc_addresses AS people FROM json_each(${JSON.stringify(ids)}) wanted
			CROSS JOIN item ON item.id = wanted.value JOIN message ON message.id = item.message_id`
	);
	return new Map(found.map(({ id, people }) => [id, people.split('|').filter(Boolean)]));
}

/** A thread to be stored: its branches are those of one conversation. */
export interface NewThread {
	subject: string;
	title: string;
	/** How many of its branches have a root that is an answer without references. */
	loose: number;
	ids: readonly number[];
}

/**
 * Stores threads. Each keeps the number that one of its items had, if no other has taken it; threads that are left
 * without items go.
 *
 * @param sets of items not stored with their set yet, so that an item is written once
 */
export async function putThreads(
	db: Db,
	mailboxId: number,
	threads: readonly NewThread[],
	sets: ReadonlyMap<number, number>
): Promise<void> {
	const before = new Map(
		(
			await rows<{ id: number; threadId: number | null }>(
				db,
				sql`SELECT item.id, thread_id AS threadId FROM json_each(${JSON.stringify(threads.flatMap(({ ids }) => ids))}) wanted
				 CROSS JOIN item ON item.id = wanted.value`
			)
		).map(({ id, threadId }) => [id, threadId])
	);
	const taken = new Set<number>();
	const numbered = threads.map((thread) => {
		const number = thread.ids.map((id) => before.get(id)).find((old) => typeof old === 'number' && !taken.has(old));
		if (typeof number === 'number') taken.add(number);
		return { ...thread, number: number ?? undefined };
	});
	const fresh = numbered.filter(({ number }) => number === undefined);
	const made = await insertRows(
		db,
		'INSERT INTO thread (mailbox_id, subject, title, loose)',
		fresh.map(({ subject, title, loose }) => [mailboxId, subject, title, loose])
	);
	for (const [at, thread] of fresh.entries()) thread.number = made[at];
	await change(
		db,
		sql`UPDATE thread SET subject = wanted.value ->> 1, title = wanted.value ->> 2, loose = wanted.value ->> 3
		 FROM json_each(${JSON.stringify(numbered.filter(({ number }) => taken.has(number ?? 0)).map(({ number, subject, title, loose }) => [number, subject, title, loose]))}) wanted
		 WHERE thread.id = wanted.value ->> 0`
	);
	const items = numbered.flatMap(({ number, ids }) => ids.map((id) => [id, number, sets.get(id) ?? null]));
	await change(
		db,
		sql`UPDATE item SET ${setOfItem({ thread_id: sql`wanted.value ->> 1`, reference_set: sql`ifnull(wanted.value ->> 2, item.reference_set)` })}
		 FROM json_each(${JSON.stringify(items)}) wanted WHERE item.id = wanted.value ->> 0`
	);
	const left = [...new Set(before.values())].filter((old) => old !== null && !taken.has(old));
	await removeEmptyThreads(db, left as number[]);
}

/** Removes those of some threads that have no items; the others are named by what is left of them. */
export async function removeEmptyThreads(db: Db, ids: readonly number[]): Promise<void> {
	const wanted = inList(ids);
	await change(
		db,
		sql`DELETE FROM thread WHERE id IN ${wanted} AND NOT EXISTS (SELECT 1 FROM item WHERE item.thread_id = thread.id)`
	);
	await change(
		db,
		sql`UPDATE thread SET (subject, title) = (SELECT base_subject, message.subject FROM item
			JOIN message ON message.id = item.message_id WHERE item.thread_id = thread.id
			ORDER BY ifnull(sent_at, received_at), item.id LIMIT 1) WHERE id IN ${wanted}`
	);
}

/** Stores when messages were answered: `by` answers `messageId`. */
export async function putAnswered(db: Db, answers: readonly { id: number; on: string }[]): Promise<void> {
	await change(
		db,
		sql`UPDATE item SET ${setOfItem({ answered_on: sql`wanted.value ->> 'on'` })} FROM json_each(${JSON.stringify(answers)}) wanted
		 WHERE item.id = wanted.value ->> 'id' AND ifnull(item.answered_on < wanted.value ->> 'on', 1)`
	);
}

/** The days on which items were received, if certain. */
export async function receivedOn(db: Db, ids: readonly number[]): Promise<Map<number, string>> {
	const found = await rows<{ id: number; on: string }>(
		db,
		sql`SELECT item.id, received_on AS "on" FROM json_each(${JSON.stringify(ids)}) wanted CROSS JOIN item ON item.id = wanted.value
		 WHERE received_on IS NOT NULL AND date_in_doubt = 0`
	);
	return new Map(found.map(({ id, on }) => [id, on]));
}

/** A page of the threads of a mailbox with live or archived items, ordered by number. */
export async function threadIds(db: Db, mailboxId: number, after: number, limit: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM thread WHERE mailbox_id = ${mailboxId} AND id > ${after}
			AND EXISTS (SELECT 1 FROM item WHERE thread_id = thread.id AND state IN ('live', 'archived')) ORDER BY id LIMIT ${limit}`
	);
	return found.map(({ id }) => id);
}

/** A message of a thread with the fields to be shown. */
export interface ThreadItem extends ThreadedMessage {
	threadId: number;
	contentId: number;
	sha256: Buffer;
	state: string;
	receivedOn: string | null;
	shownSubject: string;
	fromName: string;
	fromAddress: string;
	bytes: number;
	attachments: number;
}

/** The live and archived items of some threads, in the order of arrival. */
export async function itemsOfThreads(db: Db, threads: readonly number[]): Promise<ThreadItem[]> {
	const found = await rows<ThreadedRow & Omit<ThreadItem, keyof ThreadedMessage>>(
		db,
		sql`SELECT ${COLUMNS}, item.thread_id AS threadId, message.content_id AS contentId, content.sha256, item.state,
			item.received_on AS receivedOn, message.subject AS shownSubject, from_name AS fromName, from_address AS fromAddress,
			item.bytes, item.attachments
		 FROM json_each(${JSON.stringify(threads)}) wanted CROSS JOIN item ON item.thread_id = wanted.value JOIN message ON message.id = item.message_id
			JOIN content ON content.id = message.content_id
		 WHERE item.state IN ('live', 'archived') ORDER BY item.id`
	);
	return found.map((one) => ({ ...one, ...toThreaded(one) }));
}

/** The thread of an item. */
export async function threadOf(db: Db, itemId: number): Promise<number | undefined> {
	return (await db('item').where({ id: itemId }).first({ id: 'thread_id' }))?.id ?? undefined;
}

/** The senders in the sent folder with their counts; without one, the most frequent recipients. */
export async function likelyAddresses(db: Db, mailboxId: number, limit: number): Promise<string[]> {
	const senders = await rows<{ address: string }>(
		db,
		sql`SELECT correspondent.address, count(*) AS n FROM item JOIN folder ON folder.id = item.folder_id AND folder.role = 'sent'
		 JOIN correspondent ON correspondent.id = item.correspondent_id
		 WHERE item.mailbox_id = ${mailboxId} AND correspondent.address <> '' GROUP BY 1 HAVING n >= 2 ORDER BY n DESC LIMIT ${limit}`
	);
	if (senders.length > 0) return senders.map(({ address }) => address);
	const receivers = await rows<{ address: string }>(
		db,
		sql`SELECT to_addresses AS address, count(*) AS n FROM (
			SELECT message.to_addresses FROM item JOIN message ON message.id = item.message_id
			WHERE item.mailbox_id = ${mailboxId} AND to_addresses <> '' AND item.list_id IS NULL LIMIT 20000
		 ) GROUP BY 1 HAVING n >= 5 AND n * 4 >= (SELECT count(*) FROM item WHERE mailbox_id = ${mailboxId}) ORDER BY n DESC LIMIT 1`
	);
	return receivers.flatMap(({ address }) => address.split('|').filter(Boolean)).slice(0, 1);
}

/** Stores how each message of a mailbox addresses its owner (core/lots, ADDRESSED). */
export async function putAddressed(
	db: Db,
	mailboxId: number,
	addresses: readonly string[],
	sinceItem: number
): Promise<void> {
	const named = (column: Sql) =>
		addresses.length === 0
			? sql`0`
			: join(
					addresses.map((address) => sql`instr(${column}, ${`|${address}|`}) > 0`),
					' OR '
				);
	const [to, cc] = [named(sql`message.to_addresses`), named(sql`message.cc_addresses`)];
	const addressed = sql`CASE
			WHEN item.list_id IS NOT NULL THEN 4
			WHEN (${to}) AND message.cc_addresses = ''
				AND length(message.to_addresses) - length(replace(message.to_addresses, '|', '')) = 2 THEN 1
			WHEN ${to} THEN 2
			WHEN ${cc} THEN 3
			ELSE 0 END`;
	await change(
		db,
		sql`UPDATE item SET ${setOfItem({ addressed })}
		 FROM message WHERE message.id = item.message_id AND item.mailbox_id = ${mailboxId} AND item.id > ${sinceItem}`
	);
}
