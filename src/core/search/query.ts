import { type CalendarDate, readDate } from '../calendar.ts';
import { wordsOf } from './words.ts';

/** The parts of a message that words are looked for in. */
export type Column = 'subject' | 'sender' | 'recipients' | 'text' | 'quoted' | 'files';

/** Words that stand beside each other in the message, the last one perhaps only begun. */
export interface Phrase {
	words: string[];
	/** Undefined: anywhere. */
	column: Column | undefined;
	/** The last word may go on. */
	prefix: boolean;
}

/** A question about messages. All of it has to be true of a message. */
export interface Query {
	phrases: Phrase[];
	/** Received on this date or later (RFC 9051 6.4.4 SINCE). */
	since: CalendarDate | undefined;
	/** Received before this date (RFC 9051 6.4.4 BEFORE). */
	before: CalendarDate | undefined;
}

/** A query that cannot be understood, and where. */
export class QueryError extends Error {
	override name = 'QueryError';
	/** Offset in the query of what is wrong. */
	readonly at: number;
	constructor(message: string, at: number) {
		super(message);
		this.at = at;
	}
}

const TOKEN = /([a-z]+):(?=\s|$)|(?:([a-z]+):)?(?:"([^"]*)("?)|([^\s"]+))/giy;
const COLUMNS: Record<string, Column> = { from: 'sender', subject: 'subject' };

/**
 * Reads a query: words and `"phrases"`, `word*` for the beginning of a word, `from:`, `subject:`, `since:` and
 * `before:` with the meaning of the search keys of RFC 9051 section 6.4.4, save that whole words are compared instead of
 * parts of words. Case and accents do not count. A word before a colon that is no key is taken as a word.
 *
 * @throws QueryError where a key lacks its value, a date is no date or a quotation mark is not closed
 */
export function readQuery(text: string): Query {
	const query: Query = { phrases: [], since: undefined, before: undefined };
	let at = 0;
	while (at < text.length) {
		if (/\s/.test(text[at] as string)) {
			at++;
			continue;
		}
		TOKEN.lastIndex = at;
		const token = TOKEN.exec(text);
		if (!token) {
			at++;
			continue;
		}
		const [whole, bareKey, key = '', quoted, closing, bare = ''] = token;
		const name = (bareKey ?? key).toLowerCase();
		const isDate = name === 'since' || name === 'before';
		const value = quoted ?? bare;
		if (quoted !== undefined && !closing)
			throw new QueryError('A quotation mark is not closed', at + whole.indexOf('"'));
		if ((isDate || COLUMNS[name]) && value.trim() === '')
			throw new QueryError(`"${name}:" needs ${isDate ? 'a date' : 'words'} behind it`, at + name.length + 1);
		if (isDate) setDate(query, name, value, at + name.length + 1);
		else if (COLUMNS[name]) addPhrase(query, value, COLUMNS[name], quoted !== undefined);
		else addPhrase(query, key ? `${key} ${value}` : (bareKey ?? value), undefined, quoted !== undefined);
		at += whole.length;
	}
	return query;
}

function setDate(query: Query, name: 'since' | 'before', value: string, at: number): void {
	const date = readDate(value);
	if (!date) throw new QueryError(`"${value}" is no date; write 2024-03-01, 2024-03 or 2024`, at);
	const other = query[name];
	// both have to be true
	query[name] = other === undefined || (name === 'since' ? date > other : date < other) ? date : other;
}

function addPhrase(query: Query, value: string, column: Column | undefined, quoted: boolean): void {
	const words = wordsOf(value);
	if (words.length > 0) query.phrases.push({ words, column, prefix: !quoted && value.endsWith('*') });
}

/** Whether the query asks for nothing, and so for everything. */
export function isEmpty(query: Query): boolean {
	return query.phrases.length === 0 && query.since === undefined && query.before === undefined;
}

/** The query's words for SQLite's full-text index (its MATCH expression), undefined where it has none. */
export function matchExpression(query: Query): string | undefined {
	const terms = query.phrases.map(({ words, column, prefix }) => {
		const phrase = `"${words.join(' ').replaceAll('"', '')}"${prefix ? ' *' : ''}`;
		return column ? `${column} : ${phrase}` : phrase;
	});
	return terms.length > 0 ? terms.join(' AND ') : undefined;
}
