import type { Column, Phrase } from '../search/query.ts';
import { foldWord } from '../search/words.ts';

/** The header fields whose words stand in a column of the index; the others hold no header. */
export const FIELDS: Partial<Record<Column, string>> = {
	subject: 'subject',
	sender: 'from',
	recipients: 'to',
	copied: 'cc'
};

/* The letters that fold to the same one: the precomposed ones of the Latin blocks of Unicode. */
const VARIANTS = new Map<string, string[]>();
const LATIN_BLOCKS = [
	[0x00_c0, 0x02_4f],
	[0x1e_00, 0x1e_ff]
] as const;
for (const [first, last] of LATIN_BLOCKS)
	for (let code = first; code <= last; code++) {
		const letter = String.fromCodePoint(code);
		const folded = foldWord(letter);
		VARIANTS.set(folded, [...(VARIANTS.get(folded) ?? []), letter]);
	}

/* What parts words: every character of ASCII that is no letter and no digit, and the usual marks beyond ASCII. */
const MARKS = ['«', '»', '·', '¡', '¿', '´', '“', '”', '„', '‘', '’', '–', '—', '…', '•', '\u00a0'];
const PARTING = `([[:space:][:punct:][:cntrl:]]|${MARKS.join('|')})`;

/* A letter of a folded word in every form in which it folds to that; case within ASCII is the comparator's. */
function anyForm(letter: string): string {
	const forms = new Set([letter, letter.toUpperCase(), ...(VARIANTS.get(letter) ?? [])]);
	if (/[a-z]/.test(letter)) forms.delete(letter.toUpperCase());
	return forms.size === 1 ? letter : `(${[...forms].join('|')})`;
}

/**
 * An extended regular expression (POSIX) that finds the words of a phrase in a header field as the index of words
 * finds them: whole words in a row, without regard to case and accents. It needs the comparator i;ascii-casemap.
 *
 * @param phrase in words of letters and digits
 * @returns undefined for scripts whose words are not parted by blanks
 */
export function wordPattern({ words, prefix }: Phrase): string | undefined {
	const folded = words.flatMap((word) => word.match(/[\p{L}\p{N}\p{M}]+/gu) ?? []).map(foldWord);
	if (
		folded.length === 0 ||
		folded.some((word) => !/^[\p{Script=Latin}\p{Script=Greek}\p{Script=Cyrillic}\d]+$/u.test(word))
	)
		return undefined;
	const inARow = folded.map((word) => [...word].map(anyForm).join('')).join(`${PARTING}+`);
	return `(^|${PARTING})${inARow}${prefix ? '' : `($|${PARTING})`}`;
}
