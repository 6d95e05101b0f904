import { type Column, type Phrase } from './query.ts';
import { foldWord, type PlacedWord, placedWords } from './words.ts';

/** A stretch of text, marked if it matches the search. */
export interface Stretch {
	text: string;
	hit: boolean;
}

/* Phrases in scripts without blanks are indexed as pairs (words.ts); single characters are compared here. */
function phraseWords(phrase: Phrase): string[] {
	const placed = phrase.words.map((word) => placedWords(word).map(({ folded }) => folded));
	if (placed.every((characters) => characters.length === 1)) return placed.flat();
	return placed.flatMap((characters, at) => (at === 0 || characters.length === 1 ? characters : characters.slice(1)));
}

function occurrences(words: readonly PlacedWord[], phrase: Phrase): [number, number][] {
	const wanted = phraseWords(phrase).map(foldWord);
	const found: [number, number][] = [];
	for (let at = 0; at + wanted.length <= words.length; at++) {
		const fits = wanted.every((word, i) => {
			const here = (words[at + i] as PlacedWord).folded;
			return phrase.prefix && i === wanted.length - 1 ? here.startsWith(word) : here === word;
		});
		if (fits) found.push([at, at + wanted.length - 1]);
	}
	return found;
}

/* The limit for text searched for an excerpt. */
const FURTHEST = 200_000;

function mark(text: string, ranges: [number, number][]): Stretch[] {
	const stretches: Stretch[] = [];
	let from = 0;
	for (const [start, end] of ranges) {
		if (start < from) continue;
		if (start > from) stretches.push({ text: text.slice(from, start), hit: false });
		stretches.push({ text: text.slice(start, end), hit: true });
		from = end;
	}
	if (from < text.length) stretches.push({ text: text.slice(from), hit: false });
	return stretches;
}

/**
 * Marks the matches in a short text such as a subject.
 *
 * @param text the whole text
 * @param phrases those of the query
 * @param column the text's column: phrases for other columns do not count
 */
export function markHits(text: string, phrases: readonly Phrase[], column: Column): Stretch[] {
	const words = placedWords(text.slice(0, FURTHEST));
	const ranges = phrases
		.filter((phrase) => phrase.columns === undefined || phrase.columns.includes(column))
		.flatMap((phrase) => occurrences(words, phrase))
		.map(([first, last]) => [(words[first] as PlacedWord).start, (words[last] as PlacedWord).end] as [number, number])
		.sort((a, b) => a[0] - b[0]);
	return mark(text, ranges);
}

/**
 * A stretch of a long text around its first match, else its beginning.
 *
 * @param length wanted length in characters
 */
export function excerpt(text: string, phrases: readonly Phrase[], column: Column, length = 160): Stretch[] {
	const marked = markHits(text.replace(/\s+/g, ' ').trim().slice(0, FURTHEST), phrases, column);
	const whole = marked.map((stretch) => stretch.text).join('');
	let firstHit = 0;
	for (const stretch of marked) {
		if (stretch.hit) break;
		firstHit += stretch.text.length;
	}
	if (firstHit >= whole.length) firstHit = 0;
	let start = Math.max(0, firstHit - Math.floor(length / 4));
	if (start > 0) start = whole.indexOf(' ', start) + 1 || start;
	if (start > firstHit) start = firstHit;
	const cut = markHits(whole.slice(start, start + length), phrases, column);
	if (start > 0) cut.unshift({ text: '… ', hit: false });
	if (start + length < whole.length) cut.push({ text: ' …', hit: false });
	return cut;
}
