import { classNumber } from '../../../core/retention/classes.ts';
import { codeKey } from '../../../core/retention/schedule.ts';
import { kindBit } from '../../../core/message/kinds.ts';
import { matchExpression, type Query } from '../../../core/search/query.ts';
import { tagKey } from '../../../core/tags/names.ts';
import { nameKey } from '../../../core/weigh/roles.ts';

/** A condition on an item. */
export interface Condition {
	sql: string;
	bindings: unknown[];
}

const both = (parts: Condition[], word: 'AND' | 'OR', none: string): Condition => ({
	sql: parts.length === 0 ? none : `(${parts.map(({ sql }) => sql).join(` ${word} `)})`,
	bindings: parts.flatMap(({ bindings }) => bindings)
});

/** Text that stands for itself in a LIKE. */
export const escapeLike = (text: string) => text.replace(/[\\%_]/g, '\\$&');

/** A query as a condition on an item. Each part is true or false, never null: `not` turns it round. */
export function condition(query: Query): Condition {
	// words alone are one question to the index, however many: a long keep-list is not a tree of questions
	const match = matchExpression(query);
	if (match !== undefined)
		return { sql: `item.message_id IN (SELECT rowid FROM words WHERE words MATCH ?)`, bindings: [match] };
	switch (query.kind) {
		case 'words':
			throw new Error('Words are always an expression for the index');
		case 'and':
			return both(query.parts.map(condition), 'AND', '1');
		case 'or':
			return both(query.parts.map(condition), 'OR', '0');
		case 'not': {
			const { sql, bindings } = condition(query.part);
			return { sql: `NOT ${sql}`, bindings };
		}
		case 'since':
			return { sql: `ifnull(item.received_on >= ?, 0)`, bindings: [query.date] };
		case 'before':
			return { sql: `ifnull(item.received_on < ?, 0)`, bindings: [query.date] };
		case 'on':
			return { sql: `ifnull(item.received_on = ?, 0)`, bindings: [query.date] };
		case 'larger':
			return { sql: `item.bytes > ?`, bindings: [query.bytes] };
		case 'smaller':
			return { sql: `item.bytes < ?`, bindings: [query.bytes] };
		case 'flagged':
			return { sql: `item.flagged = 1`, bindings: [] };
		case 'unread':
			return { sql: `ifnull(item.seen = 0, 0)`, bindings: [] };
		case 'answered':
			return { sql: `(item.answered = 1 OR item.answered_on IS NOT NULL)`, bindings: [] };
		case 'held':
			return { sql: `item.id IN (SELECT item_id FROM hold_item)`, bindings: [] };
		case 'attached':
			return { sql: `item.attachments > 0`, bindings: [] };
		case 'attachment-kind':
			return { sql: `(item.attachment_kinds & ?) <> 0`, bindings: [kindBit(query.attachment)] };
		case 'folder':
			return inFolder(query.text);
		case 'list':
			return ofList(query.text.toLowerCase());
		case 'tag':
			return {
				sql: `item.id IN (SELECT item_id FROM item_tag JOIN tag ON tag.id = tag_id
					WHERE tag.name_key = ? OR tag.name_key LIKE ? ESCAPE '\\')`,
				bindings: [tagKey(query.text), `${escapeLike(tagKey(query.text))}/%`]
			};
		case 'hold':
			return {
				sql: `item.id IN (SELECT item_id FROM hold_item JOIN hold ON hold.id = hold_id
					WHERE hold.name_key = ? AND hold.released_on IS NULL)`,
				bindings: [nameKey(query.text)]
			};
		case 'class':
			return { sql: `item.class = ?`, bindings: [classNumber(query.class)] };
		case 'series':
			return {
				sql: `ifnull(item.retention_id IN (SELECT retention.id FROM retention JOIN series ON series.id = series_id WHERE code_key = ?), 0)`,
				bindings: [codeKey(query.text)]
			};
		case 'attachment-name':
			return fileNamed(query.text);
	}
}

/* Part of its identifier; with an equals sign in front, the whole of it. */
function ofList(text: string): Condition {
	const whole = text.startsWith('=');
	return {
		sql: `ifnull(item.list_id IN (SELECT id FROM list WHERE identifier ${whole ? '= ?' : `LIKE ? ESCAPE '\\'`}), 0)`,
		bindings: [whole ? text.slice(1) : `%${escapeLike(text)}%`]
	};
}

/* Part of a name. An index of groups of three characters answers for three and more; shorter ones are looked for one by one. */
function fileNamed(text: string): Condition {
	if ([...text].length < 3)
		return {
			sql: `item.message_id IN (SELECT message.id FROM message, json_each(message.attachments) file
				WHERE message.attachments <> '[]' AND file.value ->> 'name' LIKE ? ESCAPE '\\')`,
			bindings: [`%${escapeLike(text)}%`]
		};
	return {
		sql: `item.message_id IN (SELECT rowid FROM file_names WHERE file_names MATCH ?)`,
		bindings: [`"${text.replaceAll('"', '""')}"`]
	};
}

/* The folder with that name anywhere in a path, and what lies below it. Archived and deleted items are found by where they lie
   and by where they came from: people know either. */
function inFolder(text: string): Condition {
	const keys = text.split('/').map(nameKey).filter(Boolean);
	const last = keys.at(-1) ?? '';
	const above = keys.slice(0, -1).reverse();
	const joins = above.map(
		(_, n) =>
			`JOIN folder above${n} ON above${n}.id = ${n === 0 ? 'folder' : `above${n - 1}`}.parent_id AND above${n}.name_key = ?`
	);
	const folders = `WITH RECURSIVE wanted (id) AS (
		SELECT folder.id FROM folder ${joins.join(' ')} WHERE folder.name_key = ?
		UNION SELECT folder.id FROM folder JOIN wanted ON folder.parent_id = wanted.id
	) SELECT id FROM wanted`;
	return {
		sql: `(item.folder_id IN (${folders}) OR ifnull(item.origin_folder_id IN (${folders}), 0))`,
		bindings: [...above, last, ...above, last]
	};
}
