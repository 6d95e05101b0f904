import type { CalendarDate } from '../../../core/calendar.ts';
import { type Condition, type Sql, sql } from '../database/index.ts';

/** Whether an item is under a hold. */
export const HELD: Condition = sql`item.id IN (SELECT item_id FROM hold_item)`;
/** The numbers of the folders set never to be archived, and of those under them, as a SELECT. */
export const NEVER_ARCHIVED_FOLDERS: Sql = sql`WITH RECURSIVE barred (id) AS (
		SELECT id FROM folder WHERE never_archived = 1
		UNION SELECT folder.id FROM folder JOIN barred ON folder.parent_id = barred.id
	) SELECT id FROM barred`;
/** Whether an item, or a folder above it, is set never to be archived (invariant 16). */
export const NEVER_ARCHIVED: Condition = sql`(item.never_archived = 1 OR item.folder_id IN (${NEVER_ARCHIVED_FOLDERS}))`;

/** Whether an item's class is protected as records, which nobody deletes early. */
export const IS_RECORD: Condition = sql`item.class IN (SELECT id FROM record_class WHERE is_protected = 1)`;

/** Whether an item's period has ended by a day, so that it is due to be destroyed or reviewed. */
export function hasEnded(by: CalendarDate): Condition {
	return sql`(item.due_action IN ('destroy', 'review') AND item.due_on <= ${by})`;
}
