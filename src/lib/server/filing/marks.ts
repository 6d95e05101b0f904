import { sql } from '../database/index.ts';
import { type ItemWork, valueChange } from '../docket/index.ts';

/* Marks stored as one value of an item: flagged, read, kept, never archived. */

/** Flags. */
export const flag: ItemWork = {
	about: 'messages',
	already: () => sql`item.flagged = 1`,
	change: valueChange('flagged', () => 1)
};

/** Removes the flag. */
export const unflag: ItemWork = {
	about: 'messages',
	already: () => sql`item.flagged = 0`,
	change: valueChange('flagged', () => 0)
};

/** Marks as read. */
export const read: ItemWork = {
	about: 'messages',
	already: () => sql`item.seen IS 1`,
	change: valueChange('seen', () => 1)
};

/** Marks as unread. */
export const unread: ItemWork = {
	about: 'messages',
	already: () => sql`item.seen IS 0`,
	change: valueChange('seen', () => 0)
};

/** Keeps, so that deleting leaves it. */
export const keep: ItemWork = {
	about: 'messages',
	already: () => sql`item.kept = 1`,
	change: valueChange('kept', () => 1)
};

/** Ends keeping. */
export const release: ItemWork = {
	about: 'messages',
	already: () => sql`item.kept = 0`,
	change: valueChange('kept', () => 0)
};

/** Sets items never to be archived. */
export const neverArchive: ItemWork = {
	about: 'messages',
	already: () => sql`item.never_archived = 1`,
	change: valueChange('never_archived', () => 1)
};

/** Ends that; their folder's setting stays. */
export const allowArchiving: ItemWork = {
	about: 'messages',
	already: () => sql`item.never_archived = 0`,
	change: valueChange('never_archived', () => 0)
};
