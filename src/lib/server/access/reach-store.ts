import { type Condition, type Db, inList, rows, sql } from '../database/index.ts';

/** The mail somebody may see: whole mailboxes, and folders (subfolders are listed as well). */
export interface Reach {
	mailboxIds: readonly number[] | 'all';
	folderIds: readonly number[];
}

/** Everything. */
export const ALL_MAIL: Reach = { mailboxIds: 'all', folderIds: [] };

/**
 * A reach as a condition on an item: archived and binned mail belongs to the folder that it came from.
 *
 * @returns undefined where all is within it
 */
export function reachCondition({ mailboxIds, folderIds }: Reach): Condition | undefined {
	if (mailboxIds === 'all') return undefined;
	const whole = sql`item.mailbox_id IN ${inList(mailboxIds)}`;
	if (folderIds.length === 0) return whole;
	const below = sql`ifnull(item.origin_folder_id, item.folder_id) IN ${inList(folderIds)}`;
	return mailboxIds.length === 0 ? below : sql`(${whole} OR ${below})`;
}

/** Those of the items within a reach, ordered by number. */
export async function reachedIds(db: Db, reach: Reach, ids: readonly number[]): Promise<number[]> {
	const condition = reachCondition(reach) ?? sql`1`;
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM item WHERE item.id IN (SELECT value FROM json_each(${JSON.stringify(ids)})) AND item.state <> 'destroyed'
			AND ${condition} ORDER BY item.id`
	);
	return found.map(({ id }) => id);
}
