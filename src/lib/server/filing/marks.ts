import { raw, sql } from '../database/index.ts';
import { type ItemWork, valueChange } from '../docket/index.ts';

/* A decision that sets a mark, which is one value of an item; a value in the text of the statement, for its indexes. */
const mark = (column: 'flagged' | 'seen' | 'kept' | 'never_archived' | 'for_digest', value: 0 | 1): ItemWork => ({
	about: 'messages',
	already: () => sql`item.${raw(column)} IS ${raw(String(value))}`,
	change: valueChange(column, () => value)
});

/** Flags. */
export const flag = mark('flagged', 1);
/** Removes the flag. */
export const unflag = mark('flagged', 0);
/** Marks as read. */
export const read = mark('seen', 1);
/** Marks as unread. */
export const unread = mark('seen', 0);
/** Keeps, so that deleting leaves it. */
export const keep = mark('kept', 1);
/** Ends keeping. */
export const release = mark('kept', 0);
/** Sets items never to be archived. */
export const neverArchive = mark('never_archived', 1);
/** Ends that; their folder's setting stays. */
export const allowArchiving = mark('never_archived', 0);
/** Puts items into the next digest. */
export const fold = mark('for_digest', 1);
/** Takes items out of it. */
export const unfold = mark('for_digest', 0);
