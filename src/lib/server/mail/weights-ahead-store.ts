import type { Weight } from '../../../core/weigh/tree.ts';
import { type Db, inList, row, rows, type Sql, sql } from '../database/index.ts';
import { SIZE_BAND } from './lot-keys-store.ts';
import type { NamedWeight } from './weights-store.ts';

/*
 * Mail of live mailboxes whose headers are known and whose bytes are still on their way. It weighs where it will lie;
 * a message leaves here in the transaction that brings it.
 */

const AHEAD = sql`source_ahead item JOIN source_folder ON source_folder.id = source_folder_id JOIN source ON source.id = source_id`;
const SUMS = sql`count(*) AS messages, sum(bytes) AS bytes, sum(unread) AS unread`;

/** The weight of each mailbox that is still to come. */
export async function weightAhead(db: Db): Promise<Map<number, Weight & { unread: number }>> {
	const found = await rows<Weight & { unread: number; id: number }>(
		db,
		// by folder first, in the order of its index
		sql`SELECT mailbox_id AS id, sum(ahead.messages) AS messages, sum(ahead.bytes) AS bytes, sum(ahead.unread) AS unread
		 FROM (SELECT source_folder_id, ${SUMS} FROM source_ahead GROUP BY 1) ahead
			JOIN source_folder ON source_folder.id = source_folder_id JOIN source ON source.id = source_id GROUP BY 1`
	);
	return new Map(found.map(({ id, ...weight }) => [id, weight]));
}

/** The mail of a mailbox's inbox that is still to come. */
export async function weightAheadInInbox(db: Db, mailboxId: number): Promise<Weight> {
	const found = await row<Weight>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(bytes), 0) AS bytes FROM source_ahead WHERE source_folder_id IN (
			SELECT source_folder.id FROM source_folder JOIN folder ON folder.id = folder_id WHERE mailbox_id = ${mailboxId} AND role = 'inbox')`
	);
	return found ?? { messages: 0, bytes: 0 };
}

/** What headers alone tell; lists and attachments are known once a message is here. */
const KEYS = {
	folder: sql`folder_id`,
	month: sql`ifnull(substr(received_on, 1, 7), '')`,
	organisation: sql`organisation`,
	address: sql`address`,
	size: sql`CAST(${SIZE_BAND} AS INTEGER)`
} satisfies Record<string, Sql>;
export type AheadKey = keyof typeof KEYS;

/** Mail of some mailboxes that is still to come, in parts. */
export async function weightAheadBy(db: Db, mailboxIds: readonly number[], by: AheadKey): Promise<NamedWeight[]> {
	const label = by === 'address' ? sql`max(name)` : sql`''`;
	return rows<NamedWeight>(
		db,
		sql`SELECT CAST(${KEYS[by]} AS TEXT) AS key, ${label} AS label, ${SUMS} FROM ${AHEAD} WHERE mailbox_id IN ${inList(mailboxIds)} GROUP BY 1`
	);
}
