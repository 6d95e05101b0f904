import type { Db } from '../database/open.ts';
import { rows } from '../database/rows.ts';

/** How far somebody may see: mailboxes as a whole, and folders (those below named as well). */
export interface Reach {
	mailboxIds: readonly number[] | 'all';
	folderIds: readonly number[];
}

/** Everything. */
export const ALL_MAIL: Reach = { mailboxIds: 'all', folderIds: [] };

/**
 * A reach as a condition on an item: what is archived or deleted belongs to the folder that it came from.
 *
 * @returns undefined where all is within it
 */
export function reachCondition({ mailboxIds, folderIds }: Reach): { sql: string; bindings: unknown[] } | undefined {
	if (mailboxIds === 'all') return undefined;
	const whole = `item.mailbox_id IN (SELECT value FROM json_each(?))`;
	if (folderIds.length === 0) return { sql: whole, bindings: [JSON.stringify(mailboxIds)] };
	const below = `ifnull(item.origin_folder_id, item.folder_id) IN (SELECT value FROM json_each(?))`;
	if (mailboxIds.length === 0) return { sql: below, bindings: [JSON.stringify(folderIds)] };
	return { sql: `(${whole} OR ${below})`, bindings: [JSON.stringify(mailboxIds), JSON.stringify(folderIds)] };
}

/** Those of these items that are within a reach, in the order of their numbers. */
export async function reachedIds(db: Db, reach: Reach, ids: readonly number[]): Promise<number[]> {
	const condition = reachCondition(reach) ?? { sql: '1', bindings: [] };
	const found = await rows<{ id: number }>(
		db,
		`SELECT item.id FROM item WHERE item.id IN (SELECT value FROM json_each(?)) AND item.state <> 'destroyed'
			AND ${condition.sql} ORDER BY item.id`,
		[JSON.stringify(ids), ...condition.bindings]
	);
	return found.map(({ id }) => id);
}
