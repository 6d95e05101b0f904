import type { CalendarDate } from '../../../core/calendar.ts';
import { type Grouping, unreadBorders } from '../../../core/lots/lots.ts';
import { SIZE_BANDS } from '../../../core/weigh/bands.ts';
import type { Condition } from './conditions-store.ts';

export const UNDOUBTED = `item.date_in_doubt = 0 AND item.received_on IS NOT NULL`;
export const BAND = `CASE ${SIZE_BANDS.map(({ from }, band) => `WHEN item.bytes >= ${from} THEN ${band}`)
	.reverse()
	.join(' ')} END`;
/* What the items of a lot share. An item with attachments of two kinds, or two tags, lies in two lots. */
export const KEYS: Record<Exclude<Grouping, 'unread'>, string> = {
	organisation: 'item.organisation_id',
	correspondent: 'item.correspondent_id',
	list: 'item.list_id',
	thread: 'item.thread_id',
	folder: 'item.folder_id',
	year: `CASE WHEN ${UNDOUBTED} THEN substr(item.received_on, 1, 4) ELSE '' END`,
	month: `CASE WHEN ${UNDOUBTED} THEN substr(item.received_on, 1, 7) ELSE '' END`,
	size: BAND,
	attachment: 'kind.bit',
	tag: 'item_tag.tag_id',
	addressed: 'item.addressed',
	kind: 'item.mail_kind'
};
/** SQL of the key of an item's lot. `on` is the day from which ages are counted. */
export function lotKey(by: Grouping, on: CalendarDate): string {
	if (by !== 'unread') return KEYS[by];
	const borders = unreadBorders(on)
		// the dates are the calendar's own
		.map((border, at) => `WHEN item.received_on < '${border}' THEN ${at + 2}`)
		.reverse();
	// an age by a date that cannot be true would decide on mail
	return `CASE WHEN item.seen IS NOT 0 THEN 0 WHEN NOT (${UNDOUBTED}) THEN NULL ${borders.join(' ')} ELSE 1 END`;
}
/** A condition that is true of the items in some lots; an empty key is that of items without one. */
export function inLots(by: Grouping, keys: readonly string[], on: CalendarDate): Condition {
	const named = JSON.stringify(keys.filter((key) => key !== ''));
	const none = keys.includes('');
	const either = (sql: string, without: string): Condition => ({
		sql: none ? `(${sql} OR ${without})` : sql,
		bindings: [named]
	});
	if (by === 'tag')
		return either(
			`item.id IN (SELECT item_id FROM item_tag WHERE tag_id IN (SELECT value FROM json_each(?)))`,
			`item.id NOT IN (SELECT item_id FROM item_tag)`
		);
	if (by === 'attachment')
		return either(
			`EXISTS (SELECT 1 FROM json_each(?) kind WHERE (item.attachment_kinds & (1 << kind.value)) <> 0)`,
			`item.attachment_kinds = 0`
		);
	const key = lotKey(by, on);
	// both sides as text: keys come from the page as text
	const numbers = by !== 'year' && by !== 'month';
	const value = numbers ? 'cast(value AS INTEGER)' : 'value';
	const empty = numbers ? `${key} IS NULL` : `${key} = ''`;
	return either(`ifnull(${key} IN (SELECT ${value} FROM json_each(?)), 0)`, empty);
}
