/* The longest line with its soft break, of the 78 characters that RFC 3676 section 4.2 allows. */
const LONGEST_LINE = 76;

/* The marks of quoting at the start of a line, as people write them: ">> text" or "> > text". */
const QUOTED = /^(?:> ?)+/;

/* Words stay whole: one that is longer than a line, such as a link, has a line of its own. */
function wrap(text: string, width: number): string[] {
	const lines: string[] = [];
	let line = '';
	for (const word of text.split(/(?<= )(?=[^ ])/)) {
		if (line !== '' && line.length + word.trimEnd().length > width) {
			lines.push(line);
			line = '';
		}
		line += word;
	}
	return [...lines, line.trimEnd()];
}

/**
 * A text as the body of a format=flowed message: a line of the text is a paragraph, broken softly, each with its depth
 * of quoting. The line above a signature stays as it is.
 *
 * @returns lines ended by LF, each but the soft breaks without a blank at its end
 * @see RFC 3676 sections 4.1 to 4.5
 */
export function flowText(text: string): string {
	return text
		.replace(/\r\n?/g, '\n')
		.split('\n')
		.flatMap((line) => {
			if (line === '-- ') return [line];
			const marks = QUOTED.exec(line)?.[0] ?? '';
			const depth = marks.replaceAll(' ', '').length;
			const lines = wrap(line.slice(marks.length).trimEnd(), LONGEST_LINE - depth - 1);
			if (depth > 0) return lines.map((each) => `${'>'.repeat(depth)}${each === '' ? '' : ` ${each}`}`);
			return lines.map((each) => (/^(?: |>|From )/.test(each) ? ` ${each}` : each));
		})
		.join('\n');
}

/**
 * A text as it is quoted in an answer: each line one level deeper.
 *
 * @param most characters that are quoted; the rest is left out, and said so
 */
export function quoteText(text: string, most = 100_000): string {
	const shown = text.length > most ? `${text.slice(0, most)}\n[…]` : text;
	return shown
		.replace(/\r\n?/g, '\n')
		.trimEnd()
		.split('\n')
		.map((line) => (line.startsWith('>') ? `>${line}` : `> ${line}`.trimEnd()))
		.join('\n');
}
