import { ruleOf } from '../../../../core/docket/decisions.ts';
import { all, change, type Db, inList, join, literal, not, rows, type Sql, sql } from '../../database/index.ts';
import { hasEnded, HELD, keepItemNumbers, removeEmptyThreads, shiftWeights } from '../../mail/index.ts';
import { type Paused, uncountDue } from '../../standing/index.ts';
import { type Batch, type Changed, countOnce, frozenItems } from '../batches-store.ts';
import { isProtected } from '../selection-store.ts';

/*
 * The items of a batch to be destroyed: only those that are still in the bin, or whose period has still ended.
 * Protections added since freezing count as well, as a docket may be continued long after it was stopped.
 */
function going(batch: Batch, paused: Paused): Sql {
	const { scope, decision, options } = batch.line;
	if (scope.kind === 'again') return frozenItems(batch, sql`1`);
	const { from, needsEndedPeriod, protections } = ruleOf(decision);
	const ended = needsEndedPeriod && (scope.kind === 'due' ? hasEnded(scope.by) : sql`0`);
	return frozenItems(
		batch,
		all([
			sql`item.state IN (${join(from.map(literal))})`,
			...(ended ? [ended] : []),
			not(HELD),
			...protections.filter((name) => name !== options.only).map((name) => not(isProtected(name, paused)))
		])
	);
}

/** Messages that only items of this batch have, with their stored contents: they are destroyed with their items. */
export async function messagesToDestroy(
	db: Db,
	batch: Batch,
	paused: Paused
): Promise<{ id: number; contentId: number }[]> {
	return rows(
		db,
		sql`WITH going AS MATERIALIZED (SELECT item.id, item.message_id FROM ${going(batch, paused)})
		 SELECT DISTINCT message.id, message.content_id AS contentId FROM going JOIN message ON message.id = going.message_id
		 WHERE NOT EXISTS (SELECT 1 FROM item other WHERE other.message_id = going.message_id AND other.id NOT IN (SELECT id FROM going))`
	);
}

/**
 * Destroys the items of a batch, the messages that no other item has, and the contents that nothing needs any more
 * (invariant 12). Their words have to be removed from the index before, in the same transaction.
 *
 * @param messages of {@link messagesToDestroy}
 */
export async function destroyItems(
	db: Db,
	batch: Batch,
	messages: readonly { id: number; contentId: number }[],
	{
		mailboxId,
		certificateId,
		keepsSubjects,
		paused
	}: { mailboxId: number; certificateId: number; keepsSubjects: boolean; paused: Paused }
): Promise<Changed> {
	const from = going(batch, paused);
	const messageIds = inList(messages.map(({ id }) => id));
	await change(
		db,
		sql`INSERT INTO certificate_item (certificate_id, item_id, sha256, bytes, received_on, content_gone, due_on, series_id, version,
			terms, sender, subject, binned_on)
		 SELECT ${certificateId}, item.id, content.sha256, item.bytes, item.received_on, item.message_id IN ${messageIds},
			item.due_on, retention.series_id, now.version, ifnull(ifnull(retention.terms, now.terms), ''),
			${keepsSubjects ? sql`trim(from_name || ' <' || from_address || '>'), subject` : sql`'', ''`},
			CASE item.state WHEN 'binned' THEN item.binned_on END
		 FROM item JOIN message ON message.id = item.message_id JOIN content ON content.id = message.content_id
			LEFT JOIN retention ON retention.id = item.retention_id AND item.due_on IS NOT NULL
			LEFT JOIN series_version now ON now.series_id = retention.series_id AND now.version = (
				SELECT max(version) FROM series_version WHERE series_version.series_id = retention.series_id)
		 WHERE item.id IN (SELECT item.id FROM ${from})`
	);
	const sums = await shiftWeights(db, {
		from,
		before: { state: sql`item.state`, folder: sql`item.folder_id` },
		after: undefined
	});
	const once = await countOnce(db, 'carry-out', batch, from, sums);
	await change(
		db,
		sql`UPDATE certificate SET messages = messages + ${sums.messages}, bytes = bytes + ${sums.bytes} WHERE id = ${certificateId}`
	);
	await uncountDue(db, mailboxId, from);
	const threads = await rows<{ id: number }>(
		db,
		sql`SELECT DISTINCT item.thread_id AS id FROM ${from} AND item.thread_id IS NOT NULL`
	);
	const writers = await rows<{ correspondentId: number; listId: number | null }>(
		db,
		sql`SELECT DISTINCT item.correspondent_id AS correspondentId, item.list_id AS listId FROM ${from}`
	);
	const items = sql`SELECT item.id FROM ${from}`;
	await change(db, sql`DELETE FROM item_tag WHERE item_id IN (${items})`);
	if (batch.line.scope.kind === 'again') await change(db, sql`DELETE FROM hold_item WHERE item_id IN (${items})`);
	await change(db, sql`DELETE FROM proposal_item WHERE item_id IN (${items}) AND mailbox_id = ${mailboxId}`);
	await keepItemNumbers(db);
	await change(db, sql`DELETE FROM item WHERE id IN (${items})`);
	// a thread is named by the subject of a message
	await removeEmptyThreads(
		db,
		threads.map(({ id }) => id)
	);
	await change(db, sql`DELETE FROM file_text WHERE message_id IN ${messageIds}`);
	await change(db, sql`DELETE FROM message WHERE id IN ${messageIds}`);
	const contentIds = messages.map(({ contentId }) => contentId);
	await change(db, sql`UPDATE import_oddity SET content_id = NULL WHERE content_id IN ${inList(contentIds)}`);
	const parts = await rows<{ id: number }>(
		db,
		sql`SELECT DISTINCT part_id AS id FROM content_part WHERE content_id IN ${inList(contentIds)}`
	);
	// a message may be a part of another one, whose bytes are still needed
	const unneeded = (
		ids: readonly number[]
	) => sql`SELECT content.id FROM json_each(${JSON.stringify(ids)}) gone CROSS JOIN content ON content.id = gone.value
		WHERE NOT EXISTS (SELECT 1 FROM content_part WHERE part_id = content.id)
			AND NOT EXISTS (SELECT 1 FROM message WHERE message.content_id = content.id)
			AND NOT EXISTS (SELECT 1 FROM import_oddity WHERE import_oddity.content_id = content.id)`;
	await change(db, sql`DELETE FROM content_part WHERE content_id IN (${unneeded(contentIds)})`);
	await change(db, sql`DELETE FROM content WHERE id IN (${unneeded(contentIds)})`);
	await change(db, sql`DELETE FROM content WHERE id IN (${unneeded(parts.map(({ id }) => id))})`);
	await forgetWriters(
		db,
		writers.map(({ correspondentId }) => correspondentId),
		writers.flatMap(({ listId }) => (listId === null ? [] : [listId]))
	);
	return { ...sums, once };
}

/*
 * A correspondent whose last message was destroyed is overwritten, name and address (deleting the row would scan all
 * items for references). The summaries tell, as they have a row for each mailbox with their mail. Lists with an
 * unsubscribe request are kept: the ledger refers to them by number.
 */
async function forgetWriters(db: Db, correspondents: readonly number[], lists: readonly number[]): Promise<void> {
	const hasMail = (table: Sql, column: Sql, of: Sql) =>
		sql`EXISTS (SELECT 1 FROM mailbox CROSS JOIN (SELECT 'live' AS state UNION ALL SELECT 'archived' UNION ALL SELECT 'binned') states
			JOIN ${table} weight ON weight.mailbox_id = mailbox.id AND weight.state = states.state AND weight.${column} = ${of})`;
	await change(
		db,
		sql`UPDATE correspondent SET address = 'destroyed ' || id, name = '' WHERE id IN (SELECT value FROM json_each(${JSON.stringify(correspondents)}))
			AND NOT ${hasMail(sql`weight_by_correspondent`, sql`correspondent_id`, sql`correspondent.id`)}`
	);
	await change(
		db,
		sql`UPDATE list SET identifier = 'destroyed ' || id, name = '', organisation = '' WHERE id IN (SELECT value FROM json_each(${JSON.stringify([...new Set(lists)])})) AND NOT ${hasMail(sql`weight_by_list`, sql`list_id`, sql`list.id`)}
			AND NOT EXISTS (SELECT 1 FROM leaving WHERE leaving.list_id = list.id)
			AND NOT EXISTS (SELECT 1 FROM digest_list WHERE digest_list.list_id = list.id)`
	);
}

/** Removes overwritten data from the database's log as well (invariant 12). */
export async function truncateLog(db: Db): Promise<void> {
	await rows(db, sql`PRAGMA wal_checkpoint(TRUNCATE)`);
}
