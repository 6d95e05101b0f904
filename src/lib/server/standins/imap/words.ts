/** A word of a command (RFC 9051 section 9): an atom or a string, or words in parentheses. */
export type Word = string | Word[];

/** What comes before a literal, and how long it is; `waits`: the client sends it only when it is told to. */
export interface Literal {
	bytes: number;
	waits: boolean;
}

/** The literal that a line announces at its end (RFC 7888: with a plus sign the client does not wait). */
export function literalOf(line: string): Literal | undefined {
	const found = /\{(\d+)(\+?)\}$/.exec(line);
	return found ? { bytes: Number(found[1]), waits: found[2] === '' } : undefined;
}

const LITERAL = /^\{\d+\+?\}/;
const ATOM = /^(?:[^\s()"[]|\[[^\]]*\])+/;

/**
 * The words of a command.
 *
 * @param line without its end; literals stand in it as `{n}`
 * @param literals their contents, in their order
 * @throws Error for what is no command
 */
export function wordsOf(line: string, literals: readonly string[]): Word[] {
	let at = 0;
	let taken = 0;
	const list = (isNested: boolean): Word[] => {
		const words: Word[] = [];
		for (;;) {
			while (line[at] === ' ') at++;
			if (at >= line.length) {
				if (isNested) throw new Error('A parenthesis is not closed');
				return words;
			}
			if (line[at] === ')') {
				if (!isNested) throw new Error('A parenthesis closes nothing');
				at++;
				return words;
			}
			if (line[at] === '(') {
				at++;
				words.push(list(true));
			} else words.push(word());
		}
	};
	const word = (): string => {
		const rest = line.slice(at);
		const literal = LITERAL.exec(rest);
		if (literal) {
			at += literal[0].length;
			return literals[taken++] ?? '';
		}
		const quoted = /^"((?:[^"\\]|\\.)*)"/.exec(rest);
		const [whole, inside] = quoted ?? ATOM.exec(rest) ?? [];
		if (whole === undefined) throw new Error('A quotation mark is not closed');
		at += whole.length;
		return quoted ? (inside ?? '').replace(/\\(.)/g, '$1') : whole;
	};
	return list(false);
}

/** Whether a number is in a set such as `1:4,7,9:*`. */
export function inSet(set: string, number: number, highest: number): boolean {
	return set.split(',').some((part) => {
		const [from, to = from] = part.split(':').map((end) => (end === '*' ? highest : Number(end)));
		return from !== undefined && to !== undefined && number >= Math.min(from, to) && number <= Math.max(from, to);
	});
}

/** A date and time of IMAP, as `"17-Jul-1996 02:44:25 -0700"`; undefined: it is none. */
export function readDateTime(text: string): number | undefined {
	const at = Date.parse(text.trim().replace(/^(\d+)-(\w+)-(\d+)/, '$1 $2 $3'));
	return Number.isNaN(at) ? undefined : at;
}

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** A moment as IMAP writes it, in UTC. */
export function showDateTime(milliseconds: number): string {
	const at = new Date(milliseconds);
	const day = String(at.getUTCDate()).padStart(2);
	return `${day}-${MONTHS[at.getUTCMonth()] ?? ''}-${at.getUTCFullYear()} ${at.toISOString().slice(11, 19)} +0000`;
}
