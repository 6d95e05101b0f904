import { all, type Condition, inList, not, sql } from '../database/index.ts';
import { HELD, IS_RECORD, NEVER_ARCHIVED } from '../mail/index.ts';
import { isPaused, type Paused } from './pauses-store.ts';

const TAGGED_TO_STAY = sql`item.id IN (SELECT item_id FROM item_tag WHERE tag_id IN (
	SELECT value FROM json_each(ifnull((SELECT value FROM setting WHERE key = 'proposal-tags'), '[]'))))`;
const UNDER_SERIES = sql`ifnull(item.retention_id IN (SELECT id FROM retention WHERE series_id IS NOT NULL), 0)`;

/**
 * Whether an item may be proposed to be cleared: nobody has marked it, and neither a hold, a series, a pause, a folder
 * that is never archived nor a tag that the office has named speaks for it.
 */
export function isProposable(paused: Paused): Condition {
	return all([
		sql`item.state = 'live' AND item.kept = 0 AND item.flagged = 0`,
		not(HELD),
		not(IS_RECORD),
		not(UNDER_SERIES),
		not(isPaused(paused)),
		not(NEVER_ARCHIVED),
		not(TAGGED_TO_STAY)
	]);
}

/** The condition for items in some folders; undefined: in any. */
export const inFolders = (ids: readonly number[] | undefined): Condition =>
	ids === undefined ? sql`1` : sql`item.folder_id IN ${inList(ids)}`;
