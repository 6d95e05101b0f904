import { originsOfLines } from '../message/quoted.ts';

/** What of a message has to be found in another one before it says nothing of its own. */
export interface Carried {
	/** Its text, what it quotes included: once for each alternative that says something of its own ({@link alternativeTexts}). */
	texts: readonly string[];
	/** The HTML as sent; undefined where there is none. */
	html: string | undefined;
	/** SHA-256 of each file, inline pictures included, in hexadecimal. */
	files: readonly string[];
	/** Base subject (RFC 5256 section 2.1). */
	subject: string;
}

const QUOTE_MARKS = /^[\s>|]+/;

/**
 * The words of a text in their order, marks of quoting taken off: how lines are wrapped and how deep they are quoted does not
 * matter, every other character does.
 */
export function quotedWords(text: string): string[] {
	return text
		.split('\n')
		.map((line) => line.replace(QUOTE_MARKS, ''))
		.join(' ')
		.split(/\s+/)
		.filter((word) => word !== '');
}

/**
 * Where the words of one text stand in those of another, in a row.
 *
 * @returns the position of the first; -1: nowhere
 */
export function positionOf(needle: readonly string[], hay: readonly string[]): number {
	if (needle.length === 0 || needle.length > hay.length) return -1;
	// Knuth, Morris and Pratt: a text of a thousand equal words is looked through once
	const back = new Int32Array(needle.length);
	for (let at = 1, length = 0; at < needle.length; at++) {
		while (length > 0 && needle[at] !== needle[length]) length = back[length - 1] as number;
		if (needle[at] === needle[length]) length++;
		back[at] = length;
	}
	for (let at = 0, length = 0; at < hay.length; at++) {
		while (length > 0 && hay[at] !== needle[length]) length = back[length - 1] as number;
		if (hay[at] === needle[length]) length++;
		if (length === needle.length) return at - length + 1;
	}
	return -1;
}

const WORD = /[\p{L}\p{N}]+/gu;

/* Whether every word of a text stands in another one too, in the same order: between words and markup it may differ. */
function saysNoMore(text: string, than: string): boolean {
	const words = text.toLowerCase().match(WORD) ?? [];
	let found = 0;
	for (const [word] of than.toLowerCase().matchAll(WORD)) if (found < words.length && word === words[found]) found++;
	return found === words.length;
}

/**
 * The texts of a message that each say something of their own: its plain text, and its HTML as text where that says more, as
 * of a plain part that says only "best read as HTML".
 *
 * @param plain the plain text, what was made from HTML where there is none
 * @param fromHtml the text of the HTML; empty where there is none
 */
export function alternativeTexts(plain: string, fromHtml: string): string[] {
	if (saysNoMore(fromHtml, plain)) return [plain];
	return saysNoMore(plain, fromHtml) ? [fromHtml] : [plain, fromHtml];
}

/* Where a link leads is not in its text. */
function links(html: string | undefined): Set<string> {
	const found = new Set<string>();
	for (const [, double, single] of (html ?? '').matchAll(/\b(?:href|src)\s*=\s*(?:"([^"]*)"|'([^']*)')/gi))
		found.add((double ?? single ?? '').trim());
	return found;
}

/** A stretch of a text, by the positions of its characters. */
interface Stretch {
	start: number;
	end: number;
}

/* A word that is quoted: where it stands, and how many lines the writer has written above it. */
interface QuotedWord extends Stretch {
	word: string;
	ownAbove: number;
}

function quotedPlaces(text: string): QuotedWord[] {
	const lines = text.split('\n');
	const origins = originsOfLines(lines);
	const places: QuotedWord[] = [];
	let ownAbove = 0;
	let lineStart = 0;
	for (const [at, line] of lines.entries()) {
		if (origins[at] === 'own') ownAbove += line.trim() === '' ? 0 : 1;
		else {
			const marks = QUOTE_MARKS.exec(line)?.[0].length ?? 0;
			for (const found of line.slice(marks).matchAll(/\S+/g)) {
				const start = lineStart + marks + found.index;
				places.push({ word: found[0], start, end: start + found[0].length, ownAbove });
			}
		}
		lineStart += line.length + 1;
	}
	return places;
}

/* What a text says, and what of it is quoted: its words, and for each the lines that are written above it. */
interface Apart {
	words: string[];
	quoted: string[];
	ownAbove: Int32Array;
}

/* A message is compared with many of its thread, and taken apart once. */
const APART = new WeakMap<Carried, Apart[]>();

function apart(message: Carried): Apart[] {
	const known = APART.get(message);
	if (known) return known;
	const made = message.texts.map((text) => {
		const places = quotedPlaces(text);
		return {
			words: quotedWords(text),
			quoted: places.map(({ word }) => word),
			ownAbove: Int32Array.from(places, ({ ownAbove }) => ownAbove)
		};
	});
	APART.set(message, made);
	return made;
}

/* Fewer words stand in many a message by chance. */
const FEWEST_WORDS = 4;

/** How a later message carries an earlier one: in a row, or with answers written between its lines. */
export type Carrying = 'in-a-row' | 'answered-between';

/**
 * Whether a later message carries everything that an earlier one says: all its text, of every alternative, within what it
 * quotes, all its files, all that its links lead to, under the same subject.
 *
 * @returns how; undefined: it does not
 */
export function carriesAll(earlier: Carried, later: Carried): Carrying | undefined {
	if (earlier.subject !== later.subject) return undefined;
	if (!apart(earlier).some(({ words }) => words.length >= FEWEST_WORDS)) return undefined;
	const files = new Set(later.files);
	if (!earlier.files.every((file) => files.has(file))) return undefined;
	let how: Carrying = 'in-a-row';
	for (const { words } of apart(earlier)) {
		const found = apart(later).flatMap((other) => {
			const first = positionOf(words, other.quoted);
			return first === -1 ? [] : [other.ownAbove[first] === other.ownAbove[first + words.length - 1]];
		});
		if (found.length === 0) return undefined;
		if (!found.includes(true)) how = 'answered-between';
	}
	const leads = links(later.html);
	const isLed = (link: string) => leads.has(link) || later.texts.some((text) => text.includes(link));
	return [...links(earlier.html)].every(isLed) ? how : undefined;
}

/** Whether a quote stands in another message, in a row: how it is wrapped and marked does not matter. */
export function standsIn(quote: string, texts: readonly string[]): boolean {
	const words = quotedWords(quote);
	return words.length === 0 || texts.some((text) => positionOf(words, quotedWords(text)) !== -1);
}

/* Words in one stretch, or in several where the writer has written in between. */
function inStretches(words: readonly QuotedWord[]): Stretch[] {
	const stretches: Stretch[] = [];
	let above: number | undefined;
	for (const { start, end, ownAbove } of words) {
		const open = stretches.at(-1);
		if (open && ownAbove === above) open.end = end;
		else stretches.push({ start, end });
		above = ownAbove;
	}
	return stretches;
}

/**
 * The later text in pieces, with those marked in which the earlier text stands: for people to see what is carried, and what was
 * written in between.
 *
 * @returns the later text whole, unmarked, where the earlier one does not stand in it
 */
export function markCarried(earlier: string, later: string): { text: string; carried: boolean }[] {
	if (earlier.trim() === later.trim()) return [{ text: later, carried: true }];
	const places = quotedPlaces(later);
	const words = quotedWords(earlier);
	const first = positionOf(
		words,
		places.map(({ word }) => word)
	);
	const pieces: { text: string; carried: boolean }[] = [];
	let at = 0;
	for (const { start, end } of first === -1 ? [] : inStretches(places.slice(first, first + words.length))) {
		pieces.push({ text: later.slice(at, start), carried: false }, { text: later.slice(start, end), carried: true });
		at = end;
	}
	return [...pieces, { text: later.slice(at), carried: false }].filter(({ text }) => text !== '');
}
