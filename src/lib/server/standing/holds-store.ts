import type { CalendarDate } from '../../../core/calendar.ts';
import type { Hold, HoldScope } from '../../../core/retention/holds.ts';
import { readQuery } from '../../../core/search/query.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { tagKey } from '../../../core/tags/names.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { all, change, type Condition, type Db, empty, idOf, inList, row, rows, sql } from '../database/index.ts';
import { condition, folderWithBelow } from '../mail/index.ts';

/** A hold with its history. */
export interface StoredHold extends Hold {
	releasedOn: CalendarDate | null;
	releasedBy: string | null;
	releasedBecause: string | null;
}

const COLUMNS = sql`id, name, because, asked_by AS "from", scope, placed_on AS placedOn, placed_by AS placedBy,
	released_on AS releasedOn, released_by AS releasedBy, released_because AS releasedBecause`;

/** Holds, those in effect first; released ones on request. */
export async function listHolds(db: Db, { released }: { released: boolean }): Promise<StoredHold[]> {
	const found = await rows<Omit<StoredHold, 'scope'> & { scope: string }>(
		db,
		sql`SELECT ${COLUMNS} FROM hold ${released ? empty : sql`WHERE released_on IS NULL`} ORDER BY released_on IS NOT NULL, id DESC`
	);
	return found.map((hold) => ({ ...hold, scope: JSON.parse(hold.scope) as HoldScope }));
}

/** The hold of that name in effect. */
export async function findHold(db: Db, name: string): Promise<{ id: number; name: string } | undefined> {
	return db('hold')
		.where({ name_key: nameKey(name) })
		.whereNull('released_on')
		.first('id', 'name');
}

/** Stores a hold and returns its number. */
export async function addHold(db: Db, hold: Omit<Hold, 'id'>): Promise<number> {
	return idOf(
		db('hold').insert({
			name: hold.name,
			name_key: nameKey(hold.name),
			because: hold.because,
			asked_by: hold.from,
			scope: JSON.stringify(hold.scope),
			placed_on: hold.placedOn,
			placed_by: hold.placedBy
		})
	);
}

/** The mailboxes in a hold's scope. */
export async function mailboxesUnder(db: Db, holdId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT DISTINCT mailbox_id AS id FROM hold_item CROSS JOIN item ON item.id = item_id WHERE hold_id = ${holdId}`
	);
	return found.map(({ id }) => id);
}

/** How many messages under this hold alone have reached the end of their period on a day. */
export async function dueUnder(db: Db, holdId: number, on: CalendarDate): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM hold_item CROSS JOIN item ON item.id = item_id
		 WHERE hold_id = ${holdId} AND due_on <= ${on} AND due_action = 'destroy'
			AND NOT EXISTS (SELECT 1 FROM hold_item other WHERE other.item_id = item.id AND other.hold_id <> hold_item.hold_id)`
	);
	return found?.n ?? 0;
}

/** Releases a hold; mail under no other one is free. @returns how many messages it covered */
export async function putHoldRelease(
	db: Db,
	id: number,
	{ on, by, because }: { on: CalendarDate; by: string; because: string }
): Promise<number> {
	await db('hold').where({ id }).update({ released_on: on, released_by: by, released_because: because });
	return db('hold_item').where({ hold_id: id }).delete();
}

/* Sender or recipient; a domain with its subdomains. */
function withCorrespondent(text: string): Condition {
	const wanted = text.trim().toLowerCase();
	if (wanted.includes('@') && !wanted.startsWith('@'))
		return sql`EXISTS (SELECT 1 FROM message WHERE message.id = item.message_id
				AND (message.from_address = ${wanted} OR instr(message.to_addresses, ${`|${wanted}|`}) > 0 OR instr(message.cc_addresses, ${`|${wanted}|`}) > 0))`;
	const domain = wanted.replace(/^@/, '');
	const anywhere = sql`'|' || message.from_address || '|' || message.to_addresses || message.cc_addresses`;
	return sql`EXISTS (SELECT 1 FROM message WHERE message.id = item.message_id
		AND (instr(${anywhere}, ${`@${domain}|`}) > 0 OR instr(${anywhere}, ${`.${domain}|`}) > 0))`;
}

/* The messages that a hold covers already, in all their places. */
const coveredBy = (holdId: number) =>
	sql`item.message_id IN (SELECT held.message_id FROM hold_item CROSS JOIN item held ON held.id = hold_item.item_id
		WHERE hold_item.hold_id = ${holdId})`;

/** Puts items under a hold, with the other places of the same messages. @returns how many came under it */
export async function putUnderHold(db: Db, holdId: number, ids: readonly number[]): Promise<number> {
	return change(
		db,
		sql`INSERT INTO hold_item (item_id, hold_id) SELECT item.id, ${holdId} FROM item
		 WHERE item.state <> 'destroyed' AND item.message_id IN (SELECT message_id FROM item named WHERE named.id IN ${inList(ids)})
		 ON CONFLICT DO NOTHING`
	);
}

/** The scope of a hold, as a condition on items. */
export async function heldBy(db: Db, scope: HoldScope): Promise<Condition> {
	const { mailboxId, folderId, correspondent, tag, since, before, query } = scope;
	const parts: Condition[] = [];
	if (mailboxId !== undefined) parts.push(sql`item.mailbox_id = ${mailboxId}`);
	if (folderId !== undefined) {
		// by its number, as it may have been renamed
		const ids = JSON.stringify(await folderWithBelow(db, folderId));
		parts.push(
			sql`(item.folder_id IN (SELECT value FROM json_each(${ids})) OR ifnull(item.origin_folder_id IN (SELECT value FROM json_each(${ids})), 0))`
		);
	}
	if (correspondent) parts.push(withCorrespondent(correspondent));
	if (tag)
		parts.push(
			sql`item.id IN (SELECT item_id FROM item_tag JOIN tag ON tag.id = tag_id WHERE tag.name_key = ${tagKey(tag)})`
		);
	// an implausible date releases nothing
	if (since) parts.push(sql`(ifnull(item.received_on >= ${since}, 1) OR item.date_in_doubt = 1)`);
	if (before) parts.push(sql`(ifnull(item.received_on < ${before}, 1) OR item.date_in_doubt = 1)`);
	if (query) parts.push(condition(readQuery(query)));
	return all(parts);
}

/**
 * Applies the holds in effect to some items: mail that came in, was moved or was tagged since. Mail under a hold
 * stays so.
 *
 * @param within which items are looked at
 * @returns how many came under a hold
 */
export async function refreshHolds(db: Db, within: Condition, holdId?: number): Promise<number> {
	let added = 0;
	for (const { id, scope } of await listHolds(db, { released: false })) {
		if (holdId !== undefined && id !== holdId) continue;
		const covers = scope.isNamed ? coveredBy(id) : await heldBy(db, scope);
		added += await change(
			db,
			sql`INSERT INTO hold_item (item_id, hold_id) SELECT item.id, ${id} FROM item
			 WHERE ${within} AND item.state <> 'destroyed' AND ${covers} ON CONFLICT DO NOTHING`
		);
	}
	return added;
}

/** How much each hold covers. */
export async function holdWeights(db: Db): Promise<Map<number, Weight>> {
	const found = await rows<Weight & { id: number }>(
		db,
		sql`SELECT hold_id AS id, count(*) AS messages, sum(bytes) AS bytes
		 FROM hold_item CROSS JOIN item ON item.id = hold_item.item_id GROUP BY hold_id`
	);
	return new Map(found.map(({ id, ...weight }) => [id, weight]));
}

/** The names of the holds on an item. */
export async function holdsOfItem(db: Db, itemId: number): Promise<string[]> {
	const found = await rows<{ name: string }>(
		db,
		sql`SELECT name FROM hold_item JOIN hold ON hold.id = hold_id WHERE item_id = ${itemId} ORDER BY name`
	);
	return found.map(({ name }) => name);
}

/** The names of the holds on items of a mailbox. */
export async function holdsOfMailbox(db: Db, mailboxId: number): Promise<string[]> {
	const found = await rows<{ name: string }>(
		db,
		sql`SELECT name FROM hold WHERE released_on IS NULL AND EXISTS (
			SELECT 1 FROM hold_item CROSS JOIN item ON item.id = hold_item.item_id
			WHERE hold_item.hold_id = hold.id AND item.mailbox_id = ${mailboxId}) ORDER BY name`
	);
	return found.map(({ name }) => name);
}
