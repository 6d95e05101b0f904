/*
 * Scripts without blanks between words: runs of them become overlapping pairs of characters, in the index and in the
 * query, so that any two neighbouring characters are found.
 */
const UNSPACED =
	/[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}\p{Script=Myanmar}ー々]+/gu;

function pairs(run: string): string {
	const characters = [...run];
	if (characters.length < 2) return ` ${run} `;
	return ` ${characters
		.slice(1)
		.map((character, at) => `${characters[at]}${character}`)
		.join(' ')} `;
}

/** A text as it goes into the index of words. */
export function indexText(text: string): string {
	return text.replace(UNSPACED, pairs);
}

/*
 * A word of the index: letters, digits and their marks (SQLite FTS5 unicode61; its default classes are L*, N* and Co;
 * marks belong to the letter before them).
 */
const WORD = /[\p{L}\p{N}\p{Co}][\p{L}\p{N}\p{Co}\p{M}]*/gu;

/** The words of a text as the index divides it, in the order of the text. */
export function wordsOf(text: string): string[] {
	return indexText(text).match(WORD) ?? [];
}

/*
 * One character without its accent, as unicode61 with remove_diacritics 2 folds it: only characters that decompose
 * into a letter and marks are folded, and never into more than one.
 */
function foldCharacter(character: string): string {
	const base = character.normalize('NFD').replace(/\p{M}+/gu, '');
	return ([...base].length === 1 ? base : character).toLowerCase();
}

/** A word as it is compared: without regard to case and accents. */
export function foldWord(word: string): string {
	return [...word.replace(/(?<=.)\p{M}+/gu, '')].map(foldCharacter).join('');
}

/** A word and its position. */
export interface PlacedWord {
	folded: string;
	start: number;
	end: number;
}

/** The words of a text with their positions; runs without blanks give single characters. */
export function placedWords(text: string): PlacedWord[] {
	const placed: PlacedWord[] = [];
	for (const found of text.matchAll(WORD)) {
		const word = found[0];
		if (!new RegExp(UNSPACED.source, 'u').test(word)) {
			placed.push({ folded: foldWord(word), start: found.index, end: found.index + word.length });
			continue;
		}
		let at = found.index;
		for (const character of word) {
			placed.push({ folded: foldWord(character), start: at, end: at + character.length });
			at += character.length;
		}
	}
	return placed;
}
