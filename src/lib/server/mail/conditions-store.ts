import type { CalendarDate } from '../../../core/calendar.ts';
import { classWord } from '../../../core/retention/classes.ts';
import { codeKey } from '../../../core/retention/schedule.ts';
import { MAIL_KINDS } from '../../../core/message/mail-kind.ts';
import { kindBit } from '../../../core/message/kinds.ts';
import { matchExpression, type Query } from '../../../core/search/query.ts';
import { tagKey } from '../../../core/tags/names.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { type Condition, empty, join, not, raw, type Sql, sql } from '../database/index.ts';

const both = (parts: Condition[], word: 'AND' | 'OR', none: Condition): Condition =>
	parts.length === 0 ? none : sql`(${join(parts, ` ${word} `)})`;

/** Text escaped for a LIKE. */
export const escapeLike = (text: string) => text.replace(/[\\%_]/g, '\\$&');

const begins = (column: Sql, key: string) => sql`${column} LIKE ${`${escapeLike(key)}%`} ESCAPE '\\'`;
const named = (column: Sql, key: string, begun: boolean) => (begun ? begins(column, key) : sql`${column} = ${key}`);

/** A query as a condition on an item. Each part is true or false, never null, so that it can be negated. */
export function condition(query: Query): Condition {
	// words alone are one query to the index, however many: a long keep-list makes no deep tree
	const match = matchExpression(query);
	if (match !== undefined) return sql`item.message_id IN (SELECT rowid FROM words WHERE words MATCH ${match})`;
	switch (query.kind) {
		case 'words':
			throw new Error('Words are always an expression for the index');
		case 'and':
			return both(query.parts.map(condition), 'AND', sql`1`);
		case 'or':
			return both(query.parts.map(condition), 'OR', sql`0`);
		case 'not':
			return not(condition(query.part));
		case 'since':
			return sql`ifnull(item.received_on >= ${query.date}, 0)`;
		case 'before':
			return sql`ifnull(item.received_on < ${query.date}, 0)`;
		case 'on':
			return sql`ifnull(item.received_on = ${query.date}, 0)`;
		case 'larger':
			return sql`item.bytes > ${query.bytes}`;
		case 'smaller':
			return sql`item.bytes < ${query.bytes}`;
		case 'thread':
			return sql`ifnull(item.thread_id = ${query.number}, 0)`;
		case 'flagged':
			return sql`item.flagged = 1`;
		case 'unread':
			return sql`ifnull(item.seen = 0, 0)`;
		case 'answered':
			return sql`(item.answered = 1 OR item.answered_on IS NOT NULL)`;
		case 'held':
			return sql`item.id IN (SELECT item_id FROM hold_item)`;
		case 'kept':
			return sql`item.kept = 1`;
		case 'folded':
			return sql`item.for_digest = 1`;
		case 'paused':
			return isPausedOn(query.today);
		case 'undated':
			return sql`(item.received_on IS NULL OR item.date_in_doubt <> 0)`;
		case 'expired':
			return hasExpired(query.today);
		case 'state':
			return sql`item.state = ${query.state}`;
		case 'mail-kind':
			return sql`item.mail_kind = ${MAIL_KINDS.indexOf(query.mailKind)}`;
		case 'importance':
			return sql`item.importance = ${query.importance}`;
		case 'attached':
			return sql`item.attachments > 0`;
		case 'attachment-kind':
			return sql`(item.attachment_kinds & ${kindBit(query.attachment)}) <> 0`;
		case 'folder':
			return inFolder(query.text, query.begun);
		case 'list':
			return ofList(query.text.toLowerCase());
		case 'tag':
			return query.begun
				? sql`item.id IN (SELECT item_id FROM item_tag JOIN tag ON tag.id = tag_id WHERE ${begins(sql`tag.name_key`, tagKey(query.text))})`
				: sql`item.id IN (SELECT item_id FROM item_tag JOIN tag ON tag.id = tag_id
					WHERE tag.name_key = ${tagKey(query.text)} OR tag.name_key LIKE ${`${escapeLike(tagKey(query.text))}/%`} ESCAPE '\\')`;
		case 'organisation':
			return sql`ifnull(item.organisation_id IN (SELECT id FROM organisation
					WHERE ${namedOrNone(sql`domain`, query.text, query.begun)}), 0)`;
		case 'address':
			return sql`ifnull(item.correspondent_id IN (SELECT id FROM correspondent
					WHERE ${namedOrNone(sql`address`, query.text, query.begun)}), 0)`;
		case 'mailbox':
			return sql`item.mailbox_id IN (SELECT id FROM mailbox WHERE ${named(sql`name_key`, nameKey(query.text), query.begun)})`;
		case 'hold':
			return sql`item.id IN (SELECT item_id FROM hold_item JOIN hold ON hold.id = hold_id
					WHERE hold.name_key = ${nameKey(query.text)} AND hold.released_on IS NULL)`;
		case 'class':
			return sql`item.class IN (SELECT id FROM record_class
					WHERE ${named(sql`word`, classWord(query.text), query.begun)} OR ${named(sql`name_key`, nameKey(query.text), query.begun)})`;
		case 'series':
			return sql`ifnull(item.retention_id IN (SELECT retention.id FROM retention JOIN series ON series.id = series_id WHERE code_key = ${codeKey(query.text)}), 0)`;
		case 'attachment-name':
			return fileNamed(query.text);
	}
}

/* By its sender (RFC 4021 Expires): the day has passed, and came after the mail was sent. */
const hasExpired = (today: CalendarDate): Condition =>
	sql`EXISTS (SELECT 1 FROM message WHERE message.id = item.message_id AND expires_at > ifnull(sent_at, 0)
		AND date(expires_at, 'unixepoch') < ${today})`;

/** Whether an item is under a pause in effect on a day: its own, or of the folder where it lies or came from. */
export function isPausedOn(today: CalendarDate): Condition {
	const inEffect = sql`until > ${today} AND ended_at IS NULL`;
	const folders = sql`WITH RECURSIVE paused (id) AS (
		SELECT folder_id FROM pause WHERE folder_id IS NOT NULL AND ${inEffect}
		UNION SELECT folder.id FROM folder JOIN paused ON folder.parent_id = paused.id
	) SELECT id FROM paused`;
	return sql`(ifnull(item.pause_id IN (SELECT id FROM pause WHERE folder_id IS NULL AND ${inEffect}), 0)
		OR item.folder_id IN (${folders}) OR ifnull(item.origin_folder_id IN (${folders}), 0))`;
}

/* Mail without a sender's address is found as "none", which is no address. */
const namedOrNone = (column: Sql, text: string, begun: boolean): Condition =>
	text.toLowerCase() === 'none' && !begun ? sql`${column} = ''` : named(column, text.toLowerCase(), begun);

/* Part of an identifier; with a leading equals sign, the whole. */
function ofList(text: string): Condition {
	const named = text.startsWith('=')
		? sql`identifier = ${text.slice(1)}`
		: sql`identifier LIKE ${`%${escapeLike(text)}%`} ESCAPE '\\'`;
	return sql`ifnull(item.list_id IN (SELECT id FROM list WHERE ${named}), 0)`;
}

/* Part of a name. The trigram index serves three characters and more; shorter ones are scanned. */
function fileNamed(text: string): Condition {
	if ([...text].length < 3)
		return sql`item.message_id IN (SELECT message.id FROM message, json_each(message.attachments) file
				WHERE message.attachments <> '[]' AND file.value ->> 'name' LIKE ${`%${escapeLike(text)}%`} ESCAPE '\\')`;
	return sql`item.message_id IN (SELECT rowid FROM file_names WHERE file_names MATCH ${`"${text.replaceAll('"', '""')}"`})`;
}

/*
 * A folder with that name anywhere in its path, and its subfolders. Archived and binned items are found by their
 * present folder and by the one they came from, as people know either.
 */
function inFolder(text: string, begun: boolean): Condition {
	const keys = text.split('/').map(nameKey).filter(Boolean);
	const last = keys.at(-1) ?? '';
	const above = keys.slice(0, -1).reverse();
	const joins = above.map((key, n) => {
		const [name, child] = [raw(`above${n}`), raw(n === 0 ? 'folder' : `above${n - 1}`)];
		return sql`JOIN folder ${name} ON ${name}.id = ${child}.parent_id AND ${name}.name_key = ${key}`;
	});
	const folders = sql`WITH RECURSIVE wanted (id) AS (
		SELECT folder.id FROM folder ${joins.length > 0 ? join(joins, ' ') : empty} WHERE ${named(sql`folder.name_key`, last, begun)}
		UNION SELECT folder.id FROM folder JOIN wanted ON folder.parent_id = wanted.id
	) SELECT id FROM wanted`;
	// never NULL, and open to the index of origins
	return sql`(item.folder_id IN (${folders}) OR (item.origin_folder_id IS NOT NULL AND item.origin_folder_id IN (${folders})))`;
}
