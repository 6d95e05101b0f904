/** A font file, and the letters that it has. */
export interface Face {
	file: string;
	/** As CSS writes it (`unicode-range`, CSS Fonts Module Level 4). */
	written: string;
	ranges: readonly (readonly [from: number, to: number])[];
}

/* Letters for which the faces of a page have no glyphs: behind Latin, Greek and Cyrillic, without punctuation and signs. */
const OTHER_LETTER = /[\u0590-\u1fff\u2c00-\u{10ffff}]/u;

/** Whether a text has letters of another script than Latin, Greek and Cyrillic. */
export const hasOtherScript = (text: string): boolean => OTHER_LETTER.test(text);

/* Limits for distinct letters and for all that are read: a hostile message has every letter, or one of them ten million times. */
const MOST_LETTERS = 3000;
const MOST_READ = 200_000;

/**
 * The ranges of code points of a `unicode-range`.
 *
 * @param written such as `U+0600-06FF,U+204F`; wildcards are not used by any face
 */
export function rangesOf(written: string): [number, number][] {
	return written.split(',').map((range) => {
		const [from = '', to = from] = range.trim().replace(/^U\+/i, '').split('-');
		return [parseInt(from, 16), parseInt(to, 16)];
	});
}

/**
 * The faces that a text needs, each once, the first of them last: of two rules whose ranges have a letter, a browser takes the
 * later one (CSS Fonts Module Level 4, section 4.5).
 *
 * @param faces a letter that several have is taken from the first of them
 */
export function facesFor<F extends Face>(text: string, faces: readonly F[]): F[] {
	const letters = new Set<number>();
	let read = 0;
	for (const [letter] of text.matchAll(new RegExp(OTHER_LETTER, 'gu'))) {
		letters.add(letter.codePointAt(0) ?? 0);
		if (letters.size === MOST_LETTERS || ++read === MOST_READ) break;
	}
	const needed = new Set<number>();
	for (const letter of letters) {
		const at = faces.findIndex(({ ranges }) => ranges.some(([from, to]) => letter >= from && letter <= to));
		if (at >= 0) needed.add(at);
	}
	return faces.filter((_face, at) => needed.has(at)).reverse();
}
