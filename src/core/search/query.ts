import { type CalendarDate, readDate } from '../calendar.ts';
import { MAIL_KINDS, type MailKind } from '../message/mail-kind.ts';
import { ATTACHMENT_KINDS, type AttachmentKind } from '../message/kinds.ts';
import { readBytes } from '../weigh/units.ts';
import { unquotedValue } from './quoted-value.ts';
import { wordsOf } from './words.ts';

/** The parts of a message in which words are searched. */
export type Column = 'subject' | 'sender' | 'recipients' | 'copied' | 'text' | 'quoted' | 'files';

/** Words in a row, the last one perhaps incomplete. */
export interface Phrase {
	words: string[];
	/** Undefined: anywhere. */
	columns: readonly Column[] | undefined;
	/** The last word is a prefix. */
	prefix: boolean;
}

/** Properties of a message beside its words. */
type Test =
	| { kind: 'since' | 'before' | 'on'; date: CalendarDate }
	| { kind: 'larger' | 'smaller'; bytes: number }
	| { kind: 'thread'; number: number }
	| { kind: 'flagged' | 'unread' | 'answered' | 'held' | 'kept' | 'folded' | 'undated' | 'attached' }
	/** Under a pause in effect on a day. */
	| { kind: 'paused' | 'expired'; today: CalendarDate }
	| { kind: 'attachment-kind'; attachment: AttachmentKind }
	| { kind: 'state'; state: (typeof STATES)[number] }
	| { kind: 'mail-kind'; mailKind: MailKind }
	| { kind: 'importance'; importance: 1 | 0 | -1 }
	| { kind: 'list' | 'hold' | 'series' | 'attachment-name'; text: string }
	/** `begun`: the name is a prefix. */
	| { kind: (typeof PLACES)[number]; text: string; begun: boolean };

/** A condition on a message. */
export type Query =
	{ kind: 'words'; phrase: Phrase } | Test | { kind: 'and' | 'or'; parts: Query[] } | { kind: 'not'; part: Query };

/** A query that cannot be understood, and the place of the fault. */
export class QueryError extends Error {
	override name = 'QueryError';
	/** Offset of the fault in the query. */
	readonly at: number;
	constructor(message: string, at: number) {
		super(message);
		this.at = at;
	}
}

const COLUMNS: Record<string, readonly Column[]> = {
	from: ['sender'],
	to: ['recipients'],
	cc: ['copied'],
	subject: ['subject'],
	body: ['text', 'quoted']
};
const DATES = ['since', 'before', 'on'] as const;
const SIZES = ['larger', 'smaller'] as const;
const STANDINGS = ['flagged', 'unread', 'answered', 'held', 'kept', 'folded', 'undated', 'paused', 'expired'] as const;
const STATES = ['live', 'archived', 'binned'] as const;
const IMPORTANCES = { high: 1, normal: 0, low: -1 } as const;
const NAMED = ['list', 'hold', 'series'] as const;
const PLACES = ['folder', 'tag', 'organisation', 'address', 'mailbox', 'class'] as const;
/* Keys with a fixed set of values. */
const CHOICES: Record<string, readonly string[]> = {
	state: STATES,
	kind: MAIL_KINDS,
	importance: Object.keys(IMPORTANCES)
};
const KEYS = [
	...Object.keys(COLUMNS),
	...DATES,
	...SIZES,
	'attachment',
	'thread',
	...Object.keys(CHOICES),
	...NAMED,
	...PLACES
];

interface Token {
	kind: 'open' | 'close' | 'or' | 'not' | 'term';
	at: number;
	/** Offset behind it. */
	end: number;
	/** Key before the colon, in lower case; empty if there is none. */
	key: string;
	/** Offset of the value. */
	valueAt: number;
	value: string;
	quoted: boolean;
	/** The person is still typing it. */
	begun: boolean;
	/** The day of the search. */
	today: CalendarDate | undefined;
}

const TERM = /([a-z]+):(?=[\s)]|$)|(?:([a-z]+):)?(?:"((?:\\["\\]|[^"])*)("?)|([^\s"()]+))/iy;

function tokens(text: string, typing: boolean, today: CalendarDate | undefined): Token[] {
	const found: Token[] = [];
	for (let at = 0; at < text.length;) {
		const character = text[at] as string;
		if (/\s/.test(character)) {
			at++;
			continue;
		}
		if (character === '(' || character === ')') {
			found.push({
				kind: character === '(' ? 'open' : 'close',
				at,
				end: at + 1,
				key: '',
				valueAt: at,
				value: character,
				quoted: false,
				begun: false,
				today
			});
			at++;
			continue;
		}
		TERM.lastIndex = at;
		const [whole = character, lonely, key = '', quotedText, closing, bare = ''] = TERM.exec(text) ?? [];
		if (quotedText !== undefined && !closing && !typing)
			throw new QueryError('A quotation mark is not closed', at + whole.indexOf('"'));
		const value = quotedText === undefined ? bare : unquotedValue(quotedText);
		const name = (lonely ?? key).toLowerCase();
		const isKey = KEYS.includes(name);
		const operator = whole === 'or' || whole === 'not' ? whole : 'term';
		found.push({
			kind: operator,
			at,
			end: at + whole.length,
			key: isKey ? name : '',
			valueAt: isKey ? at + name.length + 1 : at,
			value: isKey ? value : [lonely ?? key, value].filter(Boolean).join(' '),
			quoted: quotedText !== undefined,
			begun: typing && at + whole.length === text.length && (quotedText === undefined || !closing),
			today
		});
		at += whole.length;
	}
	return found;
}

function phraseOf(value: string, columns: readonly Column[] | undefined, prefix: boolean): Query {
	const words = wordsOf(value);
	return words.length === 0 ? { kind: 'and', parts: [] } : { kind: 'words', phrase: { words, columns, prefix } };
}

function attachmentTest(value: string): Query {
	const asked = value.toLowerCase().replace(/\*$/, '');
	if (asked === 'any') return { kind: 'attached' };
	const kind = ATTACHMENT_KINDS.find((name) => name === asked);
	return kind ? { kind: 'attachment-kind', attachment: kind } : { kind: 'attachment-name', text: asked.trim() };
}

function choiceOf(key: string, found: string): Query {
	if (key === 'state') return { kind: 'state', state: found as (typeof STATES)[number] };
	if (key === 'kind') return { kind: 'mail-kind', mailKind: found as MailKind };
	return { kind: 'importance', importance: IMPORTANCES[found as keyof typeof IMPORTANCES] };
}

function standingOf(standing: (typeof STANDINGS)[number], { at, today }: Token): Query {
	if (standing !== 'paused' && standing !== 'expired') return { kind: standing };
	if (today === undefined)
		throw new QueryError(
			`"${standing}" changes from day to day and cannot be used here; in quotation marks it is the word`,
			at
		);
	return { kind: standing, today };
}

const EVERYTHING: Query = { kind: 'and', parts: [] };

/* An incomplete term narrows nothing; a complete one means the same as after Enter. */
function begunTermOf(token: Token): Query {
	const { key, value, quoted } = token;
	if (value.trim() === '') return EVERYTHING;
	if (key === '' || key in COLUMNS) {
		const whole = termOf({ ...token, begun: false });
		return whole.kind === 'words' && (quoted || /[\p{L}\p{N}]$/u.test(value))
			? { kind: 'words', phrase: { ...whole.phrase, prefix: true } }
			: whole;
	}
	const place = PLACES.find((known) => known === key);
	if (place) return { kind: place, text: value.trim(), begun: true };
	try {
		return termOf({ ...token, begun: false });
	} catch (error) {
		if (error instanceof QueryError) return EVERYTHING;
		throw error;
	}
}

function termOf(token: Token): Query {
	if (token.begun) return begunTermOf(token);
	const { key, value, valueAt, quoted } = token;
	const prefix = !quoted && value.endsWith('*');
	if (key === '') {
		const standing = quoted ? undefined : STANDINGS.find((name) => name === value.toLowerCase());
		return standing ? standingOf(standing, token) : phraseOf(value, undefined, prefix);
	}
	const date = DATES.find((name) => name === key);
	const size = SIZES.find((name) => name === key);
	if (value.trim() === '')
		throw new QueryError(`"${key}:" needs ${date ? 'a date' : size ? 'a size' : 'words'} behind it`, valueAt);
	if (date) {
		const read = readDate(value);
		if (!read) throw new QueryError(`"${value}" is no date; write 2024-03-01, 2024-03 or 2024`, valueAt);
		return { kind: date, date: read };
	}
	if (size) {
		const bytes = readBytes(value);
		if (bytes === undefined) throw new QueryError(`"${value}" is no size; write 5MB or 200kB`, valueAt);
		return { kind: size, bytes };
	}
	if (key === 'attachment') return attachmentTest(value);
	if (key === 'thread') {
		if (!/^\d{1,15}$/.test(value)) throw new QueryError(`"${value}" is no number of a thread`, valueAt);
		return { kind: 'thread', number: Number(value) };
	}
	const choices = CHOICES[key];
	if (choices) {
		const found = choices.find((known) => known === value.trim().toLowerCase());
		if (!found) throw new QueryError(`"${value}" is no ${key}; write ${choices.join(', ')}`, valueAt);
		return choiceOf(key, found);
	}
	const named = NAMED.find((known) => known === key);
	if (named) return { kind: named, text: value.trim() };
	const place = PLACES.find((known) => known === key);
	if (place) return { kind: place, text: value.trim().replace(/\*$/, ''), begun: prefix };
	return phraseOf(value, COLUMNS[key], prefix);
}

/* A size may have a blank before its unit: `larger:5 MB` is five megabytes, not five bytes and a word. */
function withUnits(found: readonly Token[]): Token[] {
	const joined: Token[] = [];
	for (const token of found) {
		const before = joined.at(-1);
		const isUnit =
			before !== undefined &&
			SIZES.some((name) => name === before.key) &&
			/^\d+(\.\d+)?$/.test(before.value) &&
			token.kind === 'term' &&
			token.key === '' &&
			!token.quoted &&
			/^([kmgt]?b|bytes?)$/i.test(token.value);
		if (isUnit) joined[joined.length - 1] = { ...before, value: `${before.value}${token.value}`, begun: token.begun };
		else joined.push(token);
	}
	return joined;
}

/** A folder or a tag as a query names it, and where. */
interface NamedPlace {
	kind: 'folder' | 'tag';
	text: string;
	/** The last name is a prefix. */
	begun: boolean;
	at: number;
	end: number;
}

/** The folders and tags that a query names. @throws QueryError */
export function placesIn(query: string): NamedPlace[] {
	return tokens(query, false, undefined).flatMap(({ key, value, quoted, at, end }) => {
		if (key !== 'folder' && key !== 'tag') return [];
		const begun = !quoted && value.endsWith('*');
		return [{ kind: key, text: begun ? value.slice(0, -1) : value.trim(), begun, at, end }];
	});
}

/* query = all ("or" all)*;  all = one+;  one = "not" one | "(" query ")" | term */
class Reader {
	#tokens: Token[];
	#end: number;
	#next = 0;

	readonly #typing: boolean;

	constructor(text: string, typing: boolean, today: CalendarDate | undefined) {
		this.#tokens = withUnits(tokens(text, typing, today));
		this.#end = text.length;
		this.#typing = typing;
		// an operator with nothing after it joins nothing
		while (typing && ['or', 'not', 'open'].includes(this.#tokens.at(-1)?.kind ?? '')) this.#tokens.pop();
	}

	whole(): Query {
		if (this.#tokens.length === 0) return EVERYTHING;
		const query = this.#any();
		const left = this.#tokens[this.#next];
		if (left) throw new QueryError('A bracket is closed that was not opened', left.at);
		return query;
	}

	#peek(kind: Token['kind']): boolean {
		return this.#tokens[this.#next]?.kind === kind;
	}

	#any(): Query {
		const parts = [this.#all()];
		while (this.#peek('or')) {
			this.#next++;
			parts.push(this.#all());
		}
		// an incomplete one would find everything
		const whole = this.#typing ? parts.filter((part) => !isEmpty(part)) : parts;
		if (whole.length === 0) return EVERYTHING;
		return whole.length === 1 ? (whole[0] as Query) : { kind: 'or', parts: whole };
	}

	#all(): Query {
		const parts: Query[] = [];
		while (this.#next < this.#tokens.length && !this.#peek('or') && !this.#peek('close')) parts.push(this.#one());
		if (parts.length === 0) {
			const found = this.#tokens[this.#next];
			throw new QueryError(
				found?.kind === 'or'
					? '"or" stands between two things'
					: found
						? 'There is nothing in the brackets'
						: 'Something is missing here',
				found?.at ?? this.#end
			);
		}
		return parts.length === 1 ? (parts[0] as Query) : { kind: 'and', parts };
	}

	#one(): Query {
		const token = this.#tokens[this.#next++] as Token;
		if (token.kind === 'term') return termOf(token);
		if (token.kind === 'not') {
			if (this.#next >= this.#tokens.length || this.#peek('or') || this.#peek('close'))
				throw new QueryError('"not" needs something behind it', token.at);
			return this.#not();
		}
		const inner = this.#any();
		if (!this.#peek('close') && this.#typing) return inner;
		if (!this.#peek('close')) throw new QueryError('A bracket is not closed', token.at);
		this.#next++;
		return inner;
	}

	/* A prefix would exclude too much: an incomplete word after "not" is taken as it stands. */
	#not(): Query {
		const token = this.#tokens[this.#next];
		if (token?.begun && (token.key === '' || token.key in COLUMNS || PLACES.some((key) => key === token.key)))
			token.begun = token.value.trim() === '';
		const part = this.#one();
		return this.#typing && isEmpty(part) ? EVERYTHING : { kind: 'not', part };
	}
}

/* The limit for nested brackets. */
const DEEPEST = 50;

/**
 * Reads a query. A message has to contain all words, whole, in any order; `"words in a row"`, `word*` for the
 * beginning of a word; `not`, `or` and brackets; the keys mean what the search keys of RFC 9051 section 6.4.4 mean,
 * except that whole words are compared. Case and accents do not count. A word before a colon that is no key is a
 * word.
 *
 * @param typing the person is still typing: the last word is a prefix, an incomplete value narrows nothing, and open
 *   brackets are closed; complete words and keys mean the same as after Enter
 * @param today the day of the search, for `paused` and `expired`; without it, they are refused
 * @throws QueryError that says where it is wrong
 */
export function readQuery(
	text: string,
	{ typing = false, today }: { typing?: boolean; today?: CalendarDate | undefined } = {}
): Query {
	let depth = 0;
	for (const [at, character] of [...text].entries()) {
		depth += character === '(' ? 1 : character === ')' ? -1 : 0;
		if (depth > DEEPEST) throw new QueryError('The brackets nest too deeply', at);
	}
	const query = new Reader(text, typing, today).whole();
	const wrong = tooMuch(query);
	if (wrong) throw new QueryError(wrong, 0);
	return query;
}

/* Every condition, in the order of the text. */
const leavesOf = (query: Query): Query[] => {
	if (query.kind === 'not') return leavesOf(query.part);
	return query.kind === 'and' || query.kind === 'or' ? query.parts.flatMap(leavesOf) : [query];
};

/* More than a person types, and than a keep-list has: a search of thousands of words, or of a path of hundreds of folders, holds up the others. */
const MOST_CONDITIONS = 2_500;
const MOST_WORDS_IN_A_ROW = 64;
const MOST_LEVELS = 40;

function tooMuch(query: Query): string | undefined {
	const leaves = leavesOf(query);
	if (leaves.length > MOST_CONDITIONS)
		return `A search has at most ${MOST_CONDITIONS} words and conditions; this one has ${leaves.length}`;
	for (const leaf of leaves) {
		if (leaf.kind === 'words' && leaf.phrase.words.length > MOST_WORDS_IN_A_ROW)
			return `At most ${MOST_WORDS_IN_A_ROW} words in a row are looked for; these are ${leaf.phrase.words.length}`;
		if (leaf.kind === 'folder' && leaf.text.split('/').length > MOST_LEVELS)
			return `A folder is named with at most ${MOST_LEVELS} levels; this one has ${leaf.text.split('/').length}`;
	}
	return undefined;
}

/** Whether the query is empty, so that it finds everything. */
export function isEmpty(query: Query): boolean {
	return query.kind === 'and' && query.parts.every(isEmpty);
}

/** Whether the query asks for dates: mail with a date in doubt does not match it. */
export function asksForDates(query: Query): boolean {
	if (query.kind === 'not') return asksForDates(query.part);
	if (query.kind === 'and' || query.kind === 'or') return query.parts.some(asksForDates);
	return DATES.some((key) => key === query.kind);
}

/** Whether the query asks for something of a kind in any of its parts. */
export function asksFor(query: Query, kind: 'folder' | 'paused' | 'state'): boolean {
	if (query.kind === 'not') return asksFor(query.part, kind);
	if (query.kind === 'and' || query.kind === 'or') return query.parts.some((part) => asksFor(part, kind));
	return query.kind === kind;
}

/** The phrases to be marked in found messages. */
export function phrasesOf(query: Query): Phrase[] {
	if (query.kind === 'words') return [query.phrase];
	return query.kind === 'and' || query.kind === 'or' ? query.parts.flatMap(phrasesOf) : [];
}

/**
 * A query of words, `and` and `or` alone as an expression for SQLite's full-text index (its MATCH).
 *
 * @returns undefined where the query asks for anything else
 */
export function matchExpression(query: Query): string | undefined {
	if (query.kind === 'words') {
		const { words, columns, prefix } = query.phrase;
		const phrase = `"${words.join(' ').replaceAll('"', '')}"${prefix ? ' *' : ''}`;
		return columns ? `{${columns.join(' ')}} : ${phrase}` : phrase;
	}
	if ((query.kind !== 'and' && query.kind !== 'or') || query.parts.length === 0) return undefined;
	const parts = query.parts.map(matchExpression);
	return parts.includes(undefined) ? undefined : `(${parts.join(query.kind === 'and' ? ' AND ' : ' OR ')})`;
}
