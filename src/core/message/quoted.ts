/** The text of a message, divided by who wrote it. */
export interface DividedText {
	/** What the sender wrote. */
	own: string;
	/** What the sender quoted from earlier messages. */
	quoted: string;
}

const QUOTE_MARK = /^\s{0,3}>/;
/* The line above a quote that says whose words follow. */
const ATTRIBUTION = /^.{0,200}\b(wrote|writes|schrieb|a écrit|escribió|skrev)\b.{0,60}:\s*$/iu;

/**
 * Divides a plain text into own and quoted lines. A quoted line starts with `>` (RFC 3676 section 4.5); the line of
 * attribution right above a quote goes with it (common practice).
 */
export function divideText(text: string): DividedText {
	if (!text.includes('>')) return { own: text, quoted: '' };
	const own: string[] = [];
	const quoted: string[] = [];
	const lines = text.split('\n');
	lines.forEach((line, at) => {
		if (QUOTE_MARK.test(line)) {
			quoted.push(line.replace(/^[\s>]+/, ''));
			return;
		}
		const below = lines[at + 1]?.trim() ? lines[at + 1] : lines[at + 2];
		if (below && QUOTE_MARK.test(below) && ATTRIBUTION.test(line)) quoted.push(line);
		else own.push(line);
	});
	return { own: own.join('\n'), quoted: quoted.join('\n') };
}
