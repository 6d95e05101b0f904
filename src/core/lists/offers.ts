import { OFFER_WORDS } from './offer-words.ts';

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

const escaped = (words: string) => words.replace(/[.*+?^${}()|[\]\\]/g, '\\$&').replace(/ /g, '\\s+');
const anyOf = (words: readonly string[]) => new RegExp(`(?<![a-z])(?:${words.map(escaped).join('|')})(?![a-z])`);

const LANGUAGES = Object.values(OFFER_WORDS).map(({ leave, how }) => ({ leave: anyOf(leave), how: anyOf(how) }));
const ANY_LEAVE = anyOf(Object.values(OFFER_WORDS).flatMap(({ leave }) => leave));

const TARGET = /https?:\/\/[^\s<>"')\]]+|mailto:[^\s<>"')\]]+|[\w.+-]{1,64}@[a-z0-9-]+(?:\.[a-z0-9-]+)+/i;

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
		const behind = leave.found.index + leave.found[0].length;
		const own = lines[at] as string;
		// the line with its words, and as much of the next lines as it needs
		if (leave.found.index > own.length && at + 1 < lines.length) continue;
		const after = TARGET.exec([here, lines[at + 3] ?? ''].join(' ').slice(behind, behind + LONGEST_SENTENCE))?.[0];
		const before = TARGET.exec(own.slice(Math.max(0, leave.found.index - 120), leave.found.index))?.[0];
		const sentence = tidy(
			behind > own.length || after === undefined ? here : `${own} ${own.includes(after) ? '' : after}`
		);
		const target = after ?? before;
		if (target) return { sentence, target: clean(target) };
		// without a link it has to be an instruction: "to leave, answer with …"
		if (leave.language.how.test(flat) && here.length <= LONGEST_SENTENCE && !here.includes('?'))
			return { sentence, target: '' };
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
const words = (html: string) => unescaped(html.replace(/<[^<>]*>/g, ' ')).replace(/\s+/g, ' ');

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
		const before = words(tail.slice(Math.max(0, at - 600), at)).slice(-WORDS_BEFORE);
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
