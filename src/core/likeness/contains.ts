/** What of a message has to be found in another one before it says nothing of its own. */
export interface Carried {
	/** All of its text, what it quotes included. */
	text: string;
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

/* Where a link leads is not in its text. */
function links(html: string | undefined): Set<string> {
	const found = new Set<string>();
	for (const [, double, single] of (html ?? '').matchAll(/\b(?:href|src)\s*=\s*(?:"([^"]*)"|'([^']*)')/gi))
		found.add((double ?? single ?? '').trim());
	return found;
}

/* Fewer words stand in many a message by chance. */
const FEWEST_WORDS = 4;

/**
 * Whether a later message carries everything that an earlier one says: all its text in a row within what it quotes, all its
 * files, all that its links lead to, under the same subject.
 *
 * @param laterQuoted what the later message quotes, as text
 */
export function carriesAll(earlier: Carried, later: Carried, laterQuoted: string): boolean {
	if (earlier.subject !== later.subject) return false;
	const words = quotedWords(earlier.text);
	if (words.length < FEWEST_WORDS) return false;
	const files = new Set(later.files);
	if (!earlier.files.every((file) => files.has(file))) return false;
	const leads = links(later.html);
	if (![...links(earlier.html)].every((link) => leads.has(link) || later.text.includes(link))) return false;
	return positionOf(words, quotedWords(laterQuoted)) !== -1;
}

/**
 * The later text in pieces, with those marked in which the earlier text stands: for people to see what is carried.
 *
 * @returns the later text whole, unmarked, where the earlier one does not stand in it
 */
export function markCarried(earlier: string, later: string): { text: string; carried: boolean }[] {
	const needle = quotedWords(earlier);
	// the words of the later text, each with where it stands
	const places: { word: string; start: number; end: number }[] = [];
	let lineStart = 0;
	for (const line of later.split('\n')) {
		const marks = QUOTE_MARKS.exec(line)?.[0].length ?? 0;
		for (const found of line.slice(marks).matchAll(/\S+/g)) {
			const start = lineStart + marks + found.index;
			places.push({ word: found[0], start, end: start + found[0].length });
		}
		lineStart += line.length + 1;
	}
	const at = positionOf(
		needle,
		places.map(({ word }) => word)
	);
	const first = places[at];
	const last = places[at + needle.length - 1];
	if (at === -1 || !first || !last) return [{ text: later, carried: false }];
	return [
		{ text: later.slice(0, first.start), carried: false },
		{ text: later.slice(first.start, last.end), carried: true },
		{ text: later.slice(last.end), carried: false }
	].filter(({ text }) => text !== '');
}
