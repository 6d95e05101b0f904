/** The text of a message, divided by author. */
export interface DividedText {
	/** What the sender wrote. */
	own: string;
	/** What the sender quoted from earlier messages. */
	quoted: string;
}

const QUOTE_MARK = /^\s{0,3}>/;
/* The line above a quote that names its author. */
const ATTRIBUTION = /^.{0,200}\b(wrote|writes|schrieb|a écrit|escribió|skrev)\b.{0,60}:\s*$/iu;

/** The author of a line: the sender, somebody quoted, or nobody (the attribution above a quote). */
export type LineOrigin = 'own' | 'quoted' | 'attribution';

/**
 * Finds the author of each line of a plain text. A quoted line starts with `>` (RFC 3676 section 4.5); the
 * attribution right above a quote belongs to it (common practice).
 */
export function originsOfLines(lines: readonly string[]): LineOrigin[] {
	return lines.map((line, at) => {
		if (QUOTE_MARK.test(line)) return 'quoted';
		const below = lines[at + 1]?.trim() ? lines[at + 1] : lines[at + 2];
		return below && QUOTE_MARK.test(below) && ATTRIBUTION.test(line) ? 'attribution' : 'own';
	});
}

/** Divides a plain text into own and quoted lines; an attribution counts with its quote. */
export function divideText(text: string): DividedText {
	if (!text.includes('>')) return { own: text, quoted: '' };
	const own: string[] = [];
	const quoted: string[] = [];
	const lines = text.split('\n');
	const origins = originsOfLines(lines);
	for (const [at, line] of lines.entries())
		if (origins[at] === 'own') own.push(line);
		else quoted.push(origins[at] === 'quoted' ? line.replace(/^[\s>]+/, '') : line);
	return { own: own.join('\n'), quoted: quoted.join('\n') };
}

/** The quotes in a plain text, each as one block; attributions are left out. */
export function quotesIn(text: string): string[] {
	if (!text.includes('>')) return [];
	const lines = text.split('\n');
	const origins = originsOfLines(lines);
	const quotes: string[][] = [];
	let isOpen = false;
	for (const [at, line] of lines.entries()) {
		if (origins[at] === 'quoted') {
			if (!isOpen) quotes.push([]);
			quotes.at(-1)?.push(line);
			isOpen = true;
		} else if (line.trim() !== '') isOpen = false;
	}
	return quotes.map((quote) => quote.join('\n'));
}
