import { originsOfLines } from '../message/quoted.ts';

/** The parts of a message that another one has to contain before this one is redundant. */
export interface Carried {
	/** Its texts, quotes included: one for each alternative with content of its own ({@link alternativeTexts}). */
	texts: readonly string[];
	/** The HTML as sent; undefined if there is none. */
	html: string | undefined;
	/** SHA-256 of each file, inline pictures included, in hexadecimal. */
	files: readonly string[];
	/** Base subject (RFC 5256 section 2.1). */
	subject: string;
}

/* Marks before a quoted line, also with the initials of whom it quotes (`JS> `: common practice). */
const QUOTE_MARKS = /^(?:[\s>|]|[A-Za-z]{1,3}>)+/;
/* Lines above a message that is quoted whole without marks (common practice, from memory). */
const INTRODUCES =
	/^\s*(?:[-_=*]{2,}\s*(?:original message|original appointment|forwarded message|forwarded by|weitergeleitete nachricht|ursprüngliche nachricht|message d.origine|message transféré|mensaje original|mensaje reenviado|messaggio originale|oorspronkelijk bericht|mensagem original|ursprungligt meddelande|opprinnelig melding|oprindelig meddelelse)\b.*|begin forwarded message:?)\s*$/i;

/**
 * The words of a text in order, without quote marks: line wrapping and quote depth do not count, every other
 * character does.
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
 * Where the words of one text stand in another's, in a row.
 *
 * @returns the position of the first; -1: nowhere
 */
export function positionOf(needle: readonly string[], hay: readonly string[]): number {
	if (needle.length === 0 || needle.length > hay.length) return -1;
	// Knuth, Morris and Pratt: a text of a thousand equal words takes one pass
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

/* Whether every word of a text stands in another one, in the same order; the characters between words may differ. */
function saysNoMore(text: string, than: string): boolean {
	const words = text.toLowerCase().match(WORD) ?? [];
	let found = 0;
	for (const [word] of than.toLowerCase().matchAll(WORD)) if (found < words.length && word === words[found]) found++;
	return found === words.length;
}

/**
 * The texts of a message, each with content of its own: its plain text, and its HTML as text if that says more, as
 * beside a plain part that says only "best read as HTML".
 *
 * @param plain the plain text, or what was made from HTML if there is none
 * @param fromHtml the text of the HTML; empty where there is none
 */
export function alternativeTexts(plain: string, fromHtml: string): string[] {
	if (saysNoMore(fromHtml, plain)) return [plain];
	return saysNoMore(plain, fromHtml) ? [fromHtml] : [plain, fromHtml];
}

/* The targets of links, which its text does not contain. */
function links(html: string | undefined): Set<string> {
	const found = new Set<string>();
	for (const [, double, single] of (html ?? '').matchAll(/\b(?:href|src)\s*=\s*(?:"([^"]*)"|'([^']*)')/gi))
		found.add((double ?? single ?? '').trim());
	return found;
}

/** A stretch of a text, by character positions. */
interface Stretch {
	start: number;
	end: number;
}

/* A quoted word: its position, and how many lines the writer has written above it. */
interface QuotedWord extends Stretch {
	word: string;
	ownAbove: number;
}

function placesOf(text: string, isAll: boolean): QuotedWord[] {
	const lines = text.split('\n');
	const origins = isAll ? [] : originsOfLines(lines);
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

/* The words of a text and its quoted words, each with the number of own lines above it. */
interface Apart {
	words: string[];
	quoted: string[];
	ownAbove: Int32Array;
	/** Where in `words` a message begins that is quoted whole without marks; -1: nowhere. */
	introducedAt: number;
}

/* How many words stand above the line that introduces a quoted message. */
function introducedAt(text: string): number {
	const lines = text.split('\n');
	const at = lines.findIndex((line) => INTRODUCES.test(line));
	return at === -1 ? -1 : quotedWords(lines.slice(0, at + 1).join('\n')).length;
}

/* A message is compared with many of its thread; it is parsed once. */
const APART = new WeakMap<Carried, Apart[]>();

function apart(message: Carried): Apart[] {
	const known = APART.get(message);
	if (known) return known;
	const made = message.texts.map((text) => {
		const places = placesOf(text, false);
		return {
			words: quotedWords(text),
			quoted: places.map(({ word }) => word),
			ownAbove: Int32Array.from(places, ({ ownAbove }) => ownAbove),
			introducedAt: introducedAt(text)
		};
	});
	APART.set(message, made);
	return made;
}

/* Fewer words occur in many messages by chance. */
const FEWEST_WORDS = 4;
/* Without marks or a line that introduces it, somebody may say the same by chance. */
const FEWEST_UNMARKED = 12;

/* Whether a text stands in another one without quote marks. */
function standsUnmarked(words: readonly string[], { words: others, introducedAt }: Apart): boolean {
	if (words.length >= FEWEST_UNMARKED) return positionOf(words, others) !== -1;
	return introducedAt !== -1 && positionOf(words, others.slice(introducedAt)) !== -1;
}

/** How a later message carries an earlier one: in a row, or with answers written between its lines. */
export type Carrying = 'in-a-row' | 'answered-between';

/**
 * Whether a later message carries everything in an earlier one under the same subject: the text of every alternative
 * within its quotes, or whole without marks; all files, all link targets.
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
		if (found.length === 0) {
			if (!apart(later).some((other) => standsUnmarked(words, other))) return undefined;
			continue;
		}
		if (!found.includes(true)) how = 'answered-between';
	}
	const leads = links(later.html);
	const isLed = (link: string) => leads.has(link) || later.texts.some((text) => text.includes(link));
	return [...links(earlier.html)].every(isLed) ? how : undefined;
}

/** Whether a quote stands in another message, in a row; wrapping and quote marks do not count. */
export function standsIn(quote: string, texts: readonly string[]): boolean {
	const words = quotedWords(quote);
	return words.length === 0 || texts.some((text) => positionOf(words, quotedWords(text)) !== -1);
}

/* Words in one stretch, or in several if the writer has written in between. */
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
 * The later text in pieces, those of the earlier text marked, so that people see what is carried and what was written
 * in between.
 *
 * @returns the later text whole, unmarked, if it does not contain the earlier one
 */
export function markCarried(earlier: string, later: string): { text: string; carried: boolean }[] {
	if (earlier.trim() === later.trim()) return [{ text: later, carried: true }];
	const words = quotedWords(earlier);
	const whereIn = (some: readonly QuotedWord[]) =>
		positionOf(
			words,
			some.map(({ word }) => word)
		);
	const marked = placesOf(later, false);
	// without marks it may stand anywhere
	const places = whereIn(marked) === -1 ? placesOf(later, true) : marked;
	const first = whereIn(places);
	const pieces: { text: string; carried: boolean }[] = [];
	let at = 0;
	for (const { start, end } of first === -1 ? [] : inStretches(places.slice(first, first + words.length))) {
		pieces.push({ text: later.slice(at, start), carried: false }, { text: later.slice(start, end), carried: true });
		at = end;
	}
	return [...pieces, { text: later.slice(at), carried: false }].filter(({ text }) => text !== '');
}
