/*
 * The lines of ManageSieve (RFC 5804): scripts on a mail server are listed, stored and made active with them. Sieve itself
 * is in core/rules.
 */

/** Where such a server usually listens (RFC 5804 section 1.8). */
export const SIEVE_PORT = 4190;

/** One answer of a server: its lines of data, and how it ended. */
export interface SieveAnswer {
	/** Strings and atoms of each line. */
	lines: string[][];
	status: 'OK' | 'NO' | 'BYE';
	/** The response code, such as QUOTA/MAXSIZE; empty: none. */
	code: string;
	/** What it says to a person. */
	text: string;
	/** Bytes that the answer takes. */
	length: number;
}

/** A server said something that is not of this protocol. */
export class NotSieveError extends Error {
	override name = 'NotSieveError';
}

const LF = 10;
const latin1 = new TextDecoder('latin1');
const utf8 = new TextDecoder();

/* A line with the strings that stand in it by their length. */
interface Line {
	words: string[];
	end: number;
}

const QUOTED = /^"((?:[^"\\]|\\.)*)"/;
const ATOM = /^[^\s"(){]+/;
const LITERAL = /^\{(\d{1,9})\+?\}\r?$/;

function lineEnd(bytes: Uint8Array, at: number): number | undefined {
	const found = bytes.indexOf(LF, at);
	return found < 0 ? undefined : found;
}

/* @returns undefined where the line is not here yet */
function readLine(bytes: Uint8Array, begin: number): Line | undefined {
	const words: string[] = [];
	let at = begin;
	for (;;) {
		const end = lineEnd(bytes, at);
		if (end === undefined) return undefined;
		let rest = latin1.decode(bytes.subarray(at, end)).replace(/\r$/, '');
		const take = (length: number, word: string) => {
			words.push(word);
			rest = rest.slice(length);
			at += length;
		};
		let literal: number | undefined;
		while (rest !== '') {
			const quoted = QUOTED.exec(rest);
			const atom = ATOM.exec(rest);
			const counted = LITERAL.exec(rest);
			if (/^[ ()]/.test(rest)) {
				// codes stand in brackets, and keep them
				if (rest[0] === ' ') [rest, at] = [rest.slice(1), at + 1];
				else take(1, rest[0] as string);
			} else if (counted) {
				literal = Number(counted[1]);
				break;
			} else if (quoted) {
				const inner = bytes.subarray(at + 1, at + quoted[0].length - 1);
				take(quoted[0].length, utf8.decode(inner).replaceAll(/\\(.)/g, '$1'));
			} else if (atom) take(atom[0].length, atom[0]);
			else throw new NotSieveError('This is no answer of a ManageSieve server');
		}
		if (literal === undefined) return { words, end: end + 1 };
		const from = end + 1;
		if (bytes.length < from + literal) return undefined;
		words.push(utf8.decode(bytes.subarray(from, from + literal)));
		at = from + literal;
	}
}

/**
 * Reads the answer with which some bytes begin (RFC 5804 sections 1.2, 1.3 and 4).
 *
 * @returns undefined where it is not whole yet
 * @throws NotSieveError
 */
export function readAnswer(bytes: Uint8Array): SieveAnswer | undefined {
	const lines: string[][] = [];
	let at = 0;
	for (;;) {
		const line = readLine(bytes, at);
		if (!line) return undefined;
		const isQuoted = bytes[at] === 0x22 || bytes[at] === 0x7b;
		at = line.end;
		const [first = '', ...rest] = line.words;
		const status = first.toUpperCase();
		if (isQuoted || (status !== 'OK' && status !== 'NO' && status !== 'BYE')) {
			lines.push(line.words);
			continue;
		}
		const opens = rest[0] === '(' ? 0 : -1;
		const closes = opens === 0 ? rest.indexOf(')') : -1;
		return {
			lines,
			status,
			code: closes > 0 ? rest.slice(1, closes).join(' ') : '',
			text: rest.slice(closes + 1).join(' '),
			length: at
		};
	}
}

/**
 * Reads what a server says while somebody signs in, before it answers: a line of one string (RFC 5804 section 2.1).
 *
 * @returns how many bytes it takes; undefined where none is whole
 */
export function readChallenge(bytes: Uint8Array): number | undefined {
	const isString = bytes[0] === 0x22 || bytes[0] === 0x7b;
	const line = isString ? readLine(bytes, 0) : undefined;
	return line?.words.length === 1 ? line.end : undefined;
}

const encoder = new TextEncoder();

/** A string as an argument of a command, by its length (RFC 5804 section 4, literal-c2s). */
export function sieveString(text: string): string {
	return `{${encoder.encode(text).length}+}\r\n${text}`;
}

/** What a server says that it can do (RFC 5804 section 1.7), by names in capitals. */
export function capabilitiesOf({ lines }: SieveAnswer): Map<string, string> {
	return new Map(lines.map(([name = '', value = '']) => [name.toUpperCase(), value]));
}

/** The scripts of an answer to LISTSCRIPTS (RFC 5804 section 2.7), and which is active. */
export function scriptsOf({ lines }: SieveAnswer): { name: string; isActive: boolean }[] {
	return lines.map(([name = '', mark = '']) => ({ name, isActive: mark.toUpperCase() === 'ACTIVE' }));
}
