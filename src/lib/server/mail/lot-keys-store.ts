import type { CalendarDate } from '../../../core/calendar.ts';
import { type Grouping, unreadBandStarts } from '../../../core/lots/lots.ts';
import { SIZE_BANDS } from '../../../core/weigh/bands.ts';
import { type Condition, inList, join, type Sql, sql } from '../database/index.ts';

const UNDOUBTED = sql`item.date_in_doubt = 0 AND item.received_on IS NOT NULL`;

/** SQL of the band of an item's size (core/weigh/bands). */
export const SIZE_BAND = sql`CASE ${join(
	SIZE_BANDS.map(({ from }, band) => sql`WHEN item.bytes >= ${from} THEN ${band}`).reverse(),
	' '
)} END`;

/**
 * SQL of the top-level domain of an organisation: what stands behind the last dot of its domain, which is what is left once
 * all but dots is cut off its end, taken away.
 */
export const TOP_LEVEL_DOMAIN = sql`CASE WHEN instr(domain, '.') = 0 THEN '' ELSE replace(domain, rtrim(domain, replace(domain, '.', '')), '') END`;

/* How items are grouped. An item with attachments of two kinds, or two tags, is in two lots. */
const KEYS: Record<Exclude<Grouping, 'unread'>, Sql> = {
	organisation: sql`item.organisation_id`,
	correspondent: sql`item.correspondent_id`,
	tld: sql`(SELECT ${TOP_LEVEL_DOMAIN} FROM organisation WHERE organisation.id = item.organisation_id)`,
	list: sql`item.list_id`,
	thread: sql`item.thread_id`,
	folder: sql`item.folder_id`,
	year: sql`CASE WHEN ${UNDOUBTED} THEN substr(item.received_on, 1, 4) ELSE '' END`,
	month: sql`CASE WHEN ${UNDOUBTED} THEN substr(item.received_on, 1, 7) ELSE '' END`,
	size: SIZE_BAND,
	attachment: sql`kind.bit`,
	tag: sql`item_tag.tag_id`,
	addressed: sql`item.addressed`,
	kind: sql`item.mail_kind`
};

/** SQL of the key of an unread item's lot, by its age on the day `on`. */
export function unreadBand(on: CalendarDate): Sql {
	const borders = unreadBandStarts(on)
		.map((border, at) => sql`WHEN item.received_on < ${border} THEN ${at + 2}`)
		.reverse();
	// an age by an implausible date would decide on mail
	return sql`CASE WHEN NOT (${UNDOUBTED}) THEN NULL ${join(borders, ' ')} ELSE 1 END`;
}

/** SQL of the key of an item's lot. Ages are counted to the day `on`. */
export function lotKey(by: Grouping, on: CalendarDate): Sql {
	return by === 'unread' ? sql`CASE WHEN item.seen IS NOT 0 THEN 0 ELSE ${unreadBand(on)} END` : KEYS[by];
}

/** Whether the keys of a grouping are text; all others are numbers. */
export const isTextKey = (by: Grouping): boolean => by === 'year' || by === 'month' || by === 'tld';

/* What an index finds of lots whose key has none: the days of years and months, and the organisation of a correspondent. */
const DAYS = (listed: Sql) =>
	sql`item.received_on BETWEEN (SELECT min(value) FROM ${listed}) AND (SELECT max(value) || '-99' FROM ${listed})`;
const NEARBY: Partial<Record<Grouping, (listed: Sql) => Condition>> = {
	year: DAYS,
	month: DAYS,
	correspondent: (listed) =>
		sql`item.organisation_id IN (SELECT organisation_id FROM correspondent WHERE id IN (SELECT cast(value AS INTEGER) FROM ${listed}))`
};

/** The condition for the items in some lots; an empty key stands for items without one. Others may give NULL. */
export function inLots(by: Grouping, keys: readonly string[], on: CalendarDate): Condition {
	const named = keys.filter((key) => key !== '');
	const either = (having: Condition, without: Condition) =>
		keys.includes('') ? sql`(${having} OR ${without})` : having;
	if (by === 'tag')
		return either(
			sql`item.id IN (SELECT item_id FROM item_tag WHERE tag_id IN ${inList(named)})`,
			sql`item.id NOT IN (SELECT item_id FROM item_tag)`
		);
	if (by === 'attachment')
		return either(
			sql`EXISTS (SELECT 1 FROM json_each(${JSON.stringify(named)}) kind WHERE (item.attachment_kinds & (1 << kind.value)) <> 0)`,
			sql`item.attachment_kinds = 0`
		);
	const key = lotKey(by, on);
	// compared as text, as the page sends keys
	const isText = isTextKey(by);
	const value = isText ? sql`value` : sql`cast(value AS INTEGER)`;
	const empty = isText ? sql`${key} = ''` : sql`${key} IS NULL`;
	const listed = sql`json_each(${JSON.stringify(named)})`;
	const within = NEARBY[by]?.(listed);
	const isOne = sql`${key} IN (SELECT ${value} FROM ${listed})`;
	return either(within ? sql`(${within} AND ${isOne})` : isOne, empty);
}
