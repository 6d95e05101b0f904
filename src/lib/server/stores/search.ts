import { matchExpression, type Query } from '../../../core/search/query.ts';
import type { Db } from '../database/open.ts';
import { row, rows } from './rows.ts';

/** A message found. */
export interface Found {
	id: number;
	contentId: number;
	messageId: string;
	subject: string;
	fromName: string;
	fromAddress: string;
	receivedAt: number | null;
	receivedOn: string | null;
	dateInDoubt: number;
	mailbox: string;
	folder: string;
	origin: string | null;
	state: 'live' | 'archived' | 'binned';
	bytes: number;
	attachments: number;
	seen: number | null;
	flagged: number;
}

/** In which order messages are shown. */
export const SORTS = {
	relevance: 'rank, item.received_on DESC, item.id DESC',
	newest: 'item.received_on DESC, item.received_at DESC, item.id DESC',
	oldest: 'item.received_on, item.received_at, item.id',
	largest: 'item.bytes DESC, item.id DESC',
	sender: 'message.from_address, item.received_on DESC, item.id DESC',
	subject: 'message.subject COLLATE NOCASE, item.received_on DESC, item.id DESC'
} as const;
export type Sort = keyof typeof SORTS;

/** What is looked for, and where. */
export interface Search {
	query: Query;
	mailboxId: number | undefined;
	states: readonly string[];
}

function conditions({ query, mailboxId, states }: Search): { from: string; where: string; bindings: unknown[] } {
	const match = matchExpression(query);
	const where = [`item.state IN (SELECT value FROM json_each(?))`];
	const bindings: unknown[] = [JSON.stringify(states)];
	const also = (sql: string, value: unknown) => {
		if (value === undefined) return;
		where.push(sql);
		bindings.push(value);
	};
	also(`words MATCH ?`, match);
	also(`item.mailbox_id = ?`, mailboxId);
	also(`item.received_on >= ?`, query.since);
	also(`item.received_on < ?`, query.before);
	return {
		from: match === undefined ? `item` : `words CROSS JOIN item ON item.message_id = words.rowid`,
		where: where.join(' AND '),
		bindings
	};
}

/** Messages found, a page of them. */
export async function findItems(db: Db, search: Search, sort: Sort, limit: number, offset: number): Promise<Found[]> {
	const { from, where, bindings } = conditions(search);
	const order = sort === 'relevance' && from === 'item' ? SORTS.newest : SORTS[sort];
	return rows<Found>(
		db,
		`SELECT item.id, message.content_id AS contentId, message.message_id AS messageId, message.subject,
			message.from_name AS fromName, message.from_address AS fromAddress, item.received_at AS receivedAt,
			item.received_on AS receivedOn, item.date_in_doubt AS dateInDoubt, mailbox.name AS mailbox, folder.path AS folder,
			origin.path AS origin, item.state, item.bytes, item.attachments, item.seen, item.flagged
		 FROM ${from} JOIN message ON message.id = item.message_id JOIN mailbox ON mailbox.id = item.mailbox_id
			JOIN folder ON folder.id = item.folder_id LEFT JOIN folder origin ON origin.id = item.origin_folder_id
		 WHERE ${where} ORDER BY ${order} LIMIT ? OFFSET ?`,
		[...bindings, limit, offset]
	);
}

/** Beyond this a count says "more than". */
export const COUNTED_AT_MOST = 10_000;

/** How many messages there are; one more than {@link COUNTED_AT_MOST} where there are more. */
export async function countItems(db: Db, search: Search): Promise<number> {
	const { from, where, bindings } = conditions(search);
	const found = await row<{ n: number }>(
		db,
		`SELECT count(*) AS n FROM (SELECT 1 FROM ${from} WHERE ${where} LIMIT ${COUNTED_AT_MOST + 1})`,
		bindings
	);
	return found?.n ?? 0;
}

/** The ids of everything found, in the order of their ids, behind one of them. */
export async function foundIdsBehind(db: Db, search: Search, after: number, limit: number): Promise<number[]> {
	const { from, where, bindings } = conditions(search);
	const found = await rows<{ id: number }>(
		db,
		`SELECT item.id FROM ${from} WHERE ${where} AND item.id > ? ORDER BY item.id LIMIT ?`,
		[...bindings, after, limit]
	);
	return found.map(({ id }) => id);
}
