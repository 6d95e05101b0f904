import type { MessageSummary } from '../../../core/message/summary.ts';
import { change, type Db, inList, rows, setOfItem, type Sql, sql } from '../database/index.ts';

/**
 * The lists with some identifiers, created if new; the latest name of a list is kept.
 *
 * @returns ids by identifier
 */
export async function putLists(
	db: Db,
	lists: readonly Pick<MessageSummary, 'listId' | 'listName' | 'listOrganisation'>[]
): Promise<Map<string, number>> {
	const known = new Map<string, { name: string; organisation: string }>();
	for (const { listId, listName, listOrganisation } of lists) {
		const before = known.get(listId);
		if (listId)
			known.set(listId, {
				name: listName || (before?.name ?? ''),
				organisation: listOrganisation || (before?.organisation ?? '')
			});
	}
	if (known.size === 0) return new Map();
	const json = JSON.stringify([...known].map(([identifier, names]) => ({ identifier, ...names })));
	await change(
		db,
		sql`INSERT INTO list (identifier, name, organisation)
		 SELECT value ->> 'identifier', value ->> 'name', value ->> 'organisation' FROM json_each(${json}) WHERE true
		 ON CONFLICT (identifier) DO UPDATE SET
			name = CASE WHEN excluded.name = '' THEN name ELSE excluded.name END,
			organisation = CASE WHEN organisation = '' THEN excluded.organisation ELSE organisation END
		 WHERE excluded.name NOT IN ('', name) OR (organisation = '' AND excluded.organisation <> '')`
	);
	const found = await rows<{ id: number; identifier: string }>(
		db,
		sql`SELECT id, identifier FROM list WHERE identifier IN (SELECT value ->> 'identifier' FROM json_each(${json}))`
	);
	return new Map(found.map(({ id, identifier }) => [identifier, id]));
}
/** Updates the lists of messages, and the summary by list. Needs a transaction. */
export async function updateLists(
	db: Db,
	messages: readonly { messageId: number; listId: number | null }[]
): Promise<void> {
	const json = JSON.stringify(messages);
	const moved = sql`json_each(${json}) wanted CROSS JOIN item ON item.message_id = wanted.value ->> 'messageId'
		WHERE item.list_id IS NOT (wanted.value ->> 'listId')`;
	const side = (sign: 1 | -1, list: Sql) =>
		sql`SELECT item.mailbox_id, item.state, ifnull(${list}, 0), ${sign} * count(*), ${sign} * sum(item.bytes), ${sign} * sum(ifnull(item.seen = 0, 0))
		 FROM ${moved} AND item.state <> 'destroyed' GROUP BY 1, 2, 3`;
	await change(
		db,
		sql`INSERT INTO weight_by_list (mailbox_id, state, list_id, messages, bytes, unread)
		 SELECT * FROM (${side(-1, sql`item.list_id`)} UNION ALL ${side(1, sql`wanted.value ->> 'listId'`)}) WHERE true
		 ON CONFLICT DO UPDATE SET messages = messages + excluded.messages, bytes = bytes + excluded.bytes,
			unread = unread + excluded.unread`
	);
	await db('weight_by_list').where({ messages: 0 }).delete();
	await change(
		db,
		sql`UPDATE item SET ${setOfItem({ list_id: sql`wanted.value ->> 'listId'` })} FROM json_each(${json}) wanted
		 WHERE item.message_id = wanted.value ->> 'messageId' AND item.list_id IS NOT (wanted.value ->> 'listId')`
	);
}

/** The lists that some items are from. */
export async function listsOfItems(db: Db, ids: readonly number[]): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT DISTINCT list_id AS id FROM item WHERE id IN ${inList(ids)} AND list_id IS NOT NULL ORDER BY 1`
	);
	return found.map(({ id }) => id);
}
