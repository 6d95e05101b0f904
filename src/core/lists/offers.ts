import { OFFER_WORDS, OTHER_PURPOSES } from './offer-words.ts';

/** The unsubscribe offer of a footer: its sentence, and its target. */
export interface Offer {
	sentence: string;
	/** A web or mail address; empty if the sentence itself says what to do. */
	target: string;
}

/** A link of an HTML body. */
export interface Anchor {
	href: string;
	/** Its text, with some of the text before it. */
	text: string;
}

/* A footer stands at the end. */
const FOOTER_CHARACTERS = 2_000;
const FOOTER_LINES = 14;
const LONGEST_SENTENCE = 300;
/* How far a target stands from the words it belongs to. */
const LINES_BEHIND = 4;
const NEAR = 120;

const escaped = (words: string) => words.replace(/[.*+?^${}()|[\]\\]/g, '\\$&').replace(/ /g, '\\s+');
const anyOf = (words: readonly string[]) => new RegExp(`(?<![a-z])(?:${words.map(escaped).join('|')})(?![a-z])`);

const LANGUAGES = Object.values(OFFER_WORDS).map(({ leave, how }) => ({ leave: anyOf(leave), how: anyOf(how) }));
const ANY_LEAVE = anyOf(Object.values(OFFER_WORDS).flatMap(({ leave }) => leave));

const OTHERS = anyOf(OTHER_PURPOSES);

const TARGETS = /https?:\/\/[^\s<>"')\]]+|mailto:[^\s<>"')\]]+|[\w.+-]{1,64}@[a-z0-9-]+(?:\.[a-z0-9-]+)+/gi;

/* Small letters without accents. Nearly all keep their position, which is close enough to find a link beside them. */
function folded(text: string): string {
	const small = text.toLowerCase();
	// most mail has no accents
	return /[^ -~\s]/.test(small) ? small.normalize('NFD').replace(/[\u0300-\u036f]+/g, '') : small;
}

/* Words that are common in any mail. */
const USUAL = new Set(['the', 'this', 'these', 'our', 'list', 'liste', 'mail', 'mails']);

/*
 * The longest uncommon word of each phrase: if none of them occurs, no phrase does. Nearly every message is searched
 * for them, so the search compares their first four bytes at once, and few words share those.
 */
const KEYWORDS = new Map<number, Uint8Array[]>();
const FIRST_FOURS = new Uint8Array(1 << 16);
const hashOf = (four: number) => Math.imul(four, 0x9e3779b1) >>> 16;
const encoder = new TextEncoder();

for (const phrase of Object.values(OFFER_WORDS).flatMap(({ leave }) => leave)) {
	const rare = phrase.split(/[^a-z]+/).filter((word) => !USUAL.has(word));
	const word = encoder.encode(rare.reduce((longest, word) => (word.length > longest.length ? word : longest)));
	// a word of three letters is followed by a blank, or by the phrase's next character
	const fourth = word.length > 3 ? [word[3] as number] : [...encoder.encode(' \t\n\v\f\r-:')];
	for (const last of fourth) {
		const four = [...word.subarray(0, 3), last].reduce((before, byte) => (before << 8) | byte | 32, 0);
		KEYWORDS.set(four, [...(KEYWORDS.get(four) ?? []), word]);
		FIRST_FOURS[hashOf(four)] = 1;
	}
}

/*
 * Searching bytes is several times faster than searching a substring; a character has at most three bytes. Padding
 * around them avoids slow reads beyond the end.
 */
const ROOM = 64;
const scratch = new Uint8Array(3 * FOOTER_CHARACTERS + 2 * ROOM);
const isLetter = (code: number) => (code | 32) >= 97 && (code | 32) <= 122;

/* Whether one of the words with this beginning stands there, in any case. */
function keywordStands(four: number, start: number): boolean {
	if (isLetter(scratch[start - 1] as number)) return false;
	const stands = (word: Uint8Array) =>
		!isLetter(scratch[start + word.length] as number) &&
		word.every((letter, index) => letter === ((scratch[start + index] as number) | 32));
	return KEYWORDS.get(four)?.some(stands) ?? false;
}

/* Whether one of them stands as a word at the end of a text. */
function hasKeyword(footer: string): boolean {
	const { written } = encoder.encodeInto(footer, scratch.subarray(ROOM));
	const end = ROOM + written;
	// the last word is complete
	scratch.fill(0, end, end + ROOM);
	for (let at = ROOM, four = 0; at <= end; at++) {
		const byte = scratch[at] as number;
		if (byte > 127) return hasKeyword(folded(footer).replace(/[^ -~]/g, ' '));
		four = (four << 8) | byte | 32;
		if (FIRST_FOURS[hashOf(four)] === 1 && keywordStands(four, at - 3)) return true;
	}
	return false;
}

const tidy = (sentence: string) => sentence.replace(/\s+/g, ' ').trim().slice(0, LONGEST_SENTENCE);

function clean(target: string): string {
	return target.replace(/[.,;:!?]+$/, '');
}

/* Somebody mentions it, rather than a footer offering it. */
const SPOKEN =
	/(?<![a-z])(?:i|we|i'm|i've|he|she|they|ich|wir|je|nous|yo|nosotros)\s+(?:\S+\s+){0,5}?(?:unsubscrib|opt|abmeld|abbestell|desabonn|desinscri|baja|desuscrib)/;

/* A target in the lines of a footer, with the words that stand before it on its line. */
interface Target {
	line: number;
	start: number;
	end: number;
	text: string;
	label: string;
}

/* Targets of the lines from `first` to `last`. */
function targetsIn(lines: readonly string[], first: number, last: number): Target[] {
	const found: Target[] = [];
	for (let line = Math.max(0, first); line <= Math.min(last, lines.length - 1); line++) {
		const text = lines[line] as string;
		let behind = 0;
		for (const one of text.matchAll(TARGETS)) {
			const start = one.index;
			const end = start + one[0].length;
			found.push({ line, start, end, text: one[0], label: folded(text.slice(behind, start)) });
			behind = end;
		}
	}
	return found;
}

const SENTENCE_ENDS = /[.!?](?:\s|$)/;
const isOthers = (label: string) => OTHERS.test(label) && !ANY_LEAVE.test(label);

/* A line with nothing but a target, or with words that go on to one. */
const isBare = ({ label }: Target) => /^[\s<([>–—-]*$/.test(label);

/** Where the words of leaving stand: they may end on a later line than they begin. */
interface Words {
	first: number;
	from: number;
	last: number;
	to: number;
}

/* The lines and columns of a stretch of lines that were joined by blanks. */
function placed(lines: readonly string[], at: number, from: number, length: number): Words {
	let last = at;
	let to = from + length;
	while (last + 1 < lines.length && to > (lines[last] as string).length) to -= (lines[last++] as string).length + 1;
	return { first: at, from, last, to: Math.max(0, to) };
}

/*
 * The target that the words of leaving belong to: on their own line the next one behind them, else the one before; else the
 * next of the lines that follow, unless what stands before it speaks of something else.
 */
function targetFor(lines: readonly string[], { first, from, last, to }: Words): Target | undefined {
	const near = targetsIn(lines, first - 1, last + LINES_BEHIND);
	const behind = near.find(({ line, start }) => line === last && start >= to);
	const before = near.findLast(({ line, end }) => line === first && end <= from && from - end <= NEAR);
	const between = folded((lines[last] as string).slice(to, behind?.start));
	// behind a comma or a full stop, something else begins
	if (behind && !isOthers(between) && !(before && /^\s*[,;.|]/.test(between))) return behind;
	if (before) return before;
	let words = (lines[last] as string).slice(to);
	for (let line = last + 1; line <= last + LINES_BEHIND && line < lines.length; line++) {
		// another sentence has begun since
		if (SENTENCE_ENDS.test(words.trim().slice(0, -1))) break;
		const next = near.find((target) => target.line === line);
		if (!next) {
			words += `\n${lines[line] as string}`;
			continue;
		}
		if (isOthers(next.label)) return undefined;
		// a target alone on its line is what was spoken of; words before it may begin another sentence
		const isEnded = /[.!?]$/.test(words.trim()) || /:\s*$/.test(next.label);
		return isBare(next) || !isEnded || ANY_LEAVE.test(next.label) ? next : undefined;
	}
	// a link on the line before, with the words of its purpose behind it
	const above = near.findLast(({ line }) => line === first - 1);
	return above && isBare(above) && above.end === (lines[first - 1] as string).length && from < 5 ? above : undefined;
}

/* Marks of HTML in a plain text are no words of its sentence; addresses in brackets are. */
const withoutMarks = (text: string) => text.replace(/<\/?[a-z][a-z0-9]*(?:\s[^<>]*)?\/?>|&nbsp;|&amp;/gi, ' ');

function offerInText(text: string): Offer | undefined {
	const footer = text.slice(-FOOTER_CHARACTERS);
	if (!hasKeyword(footer)) return undefined;
	const lines = footer
		.split('\n')
		.map((line) => line.trim())
		.filter(Boolean)
		.slice(-FOOTER_LINES);
	if (!ANY_LEAVE.test(folded(lines.join('\n')))) return undefined;
	for (let at = 0; at < lines.length; at++) {
		// a sentence spans lines, and its link follows it
		const here = lines.slice(at, at + 3).join(' ');
		const flat = folded(here);
		const leave = LANGUAGES.map((language) => ({ language, found: language.leave.exec(flat) })).find(
			({ found }) => found
		);
		if (!leave?.found || SPOKEN.test(flat)) continue;
		const from = leave.found.index;
		const own = lines[at] as string;
		// the line with its words, and as much of the next lines as it needs
		if (from > own.length && at + 1 < lines.length) continue;
		const target = targetFor(lines, placed(lines, at, from, leave.found[0].length));
		if (target) {
			const until = lines.slice(at, Math.max(at, target.line) + 1).join(' ');
			return { sentence: tidy(withoutMarks(until)), target: clean(target.text) };
		}
		// without a link it has to be an instruction: "to leave, answer with …"
		if (leave.language.how.test(flat) && here.length <= LONGEST_SENTENCE && !here.includes('?'))
			return { sentence: tidy(withoutMarks(here)), target: '' };
	}
	return undefined;
}

function offerInAnchors(anchors: readonly Anchor[]): Offer | undefined {
	for (const { href, text } of anchors.toReversed())
		if (/^(https?:|mailto:)/i.test(href) && ANY_LEAVE.test(folded(text))) return { sentence: tidy(text), target: href };
	return undefined;
}

/* Words before a link that tell its purpose: "To leave this list, click <here>." */
const WORDS_BEFORE = 90;
const MOST_ANCHORS = 12;
const HTML_TAIL = 12_000;
const LONGEST_TAG = 4_000;

const ENTITIES: Record<string, string> = {
	amp: '&',
	nbsp: ' ',
	quot: '"',
	lt: '<',
	gt: '>',
	eacute: 'é',
	auml: 'ä',
	ouml: 'ö',
	uuml: 'ü',
	szlig: 'ß',
	oacute: 'ó'
};
const unescaped = (html: string) =>
	html
		.replace(/&#(x?)([0-9a-f]{1,6});/gi, (_all, hex: string, code: string) => {
			const point = Number.parseInt(code, hex ? 16 : 10);
			return point > 31 && point < 0x110000 ? String.fromCodePoint(point) : ' ';
		})
		.replace(/&(\w{2,8});/g, (all, name: string) => ENTITIES[name] ?? all);
/* What stands between two places of HTML as words; at either end a tag may have been cut in two. */
const words = (html: string) =>
	unescaped(
		html
			.replace(/^[^<>]*>/, '')
			.replace(/<[^<>]*$/, '')
			.replace(/<(style|script)\b[\s\S]*?<\/\1\s*>|<!--[\s\S]*?-->|<[^<>]*>/gi, ' ')
	).replace(/\s+/g, ' ');

/**
 * The last links of an HTML body with their text, for finding a footer's link only: nothing is opened by it, and the
 * page that shows a link judges it.
 */
export function lastAnchors(html: string): Anchor[] {
	const tail = html.slice(-HTML_TAIL);
	const small = tail.toLowerCase();
	const found: Anchor[] = [];
	for (
		let at = small.lastIndexOf('<a');
		at !== -1 && found.length < MOST_ANCHORS;
		at = at === 0 ? -1 : small.lastIndexOf('<a', at - 1)
	) {
		const end = tail.indexOf('>', at);
		const tag = end === -1 ? '' : tail.slice(at, Math.min(end, at + LONGEST_TAG));
		const href = /^<a\s(?:[^<>]*?\s)?href\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s"']+))/i.exec(tag);
		if (!href) continue;
		const close = tail.indexOf('</', end);
		const inside = words(tail.slice(end + 1, close === -1 ? end + 200 : Math.min(close, end + 400)));
		const beside = tail.slice(Math.max(0, at - 600), at);
		const before = words(beside.slice(beside.toLowerCase().lastIndexOf('</a') + 1)).slice(-WORDS_BEFORE);
		// text before another link belongs to that link
		const own = before.split(/[.!?|•]\s/).at(-1) ?? '';
		found.push({
			href: unescaped(href[1] ?? href[2] ?? href[3] ?? '')
				.trim()
				.slice(0, LONGEST_TAG),
			text: inside.trim().split(' ').length > 2 ? inside : `${own} ${inside}`
		});
	}
	return found.reverse();
}

/**
 * The unsubscribe offer in a message's footer.
 *
 * @param text what the sender wrote
 * @param html its HTML, where it has any
 */
export function findOffer(text: string, html: string | undefined): Offer | undefined {
	return offerInText(text) ?? (html === undefined ? undefined : offerInAnchors(lastAnchors(html)));
}
