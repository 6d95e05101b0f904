import { decodeEncodedWords } from './charset.ts';
import { oneLine } from './header.ts';

/** A structured value such as `text/plain; charset=utf-8`. */
export interface Parameterised {
	/** In lower case, without its parameters. */
	value: string;
	/** By lower-case name; continuations joined and decoded. */
	parameters: Record<string, string>;
}

const PARAMETER = /;\s*([^\s=;"]+)\s*=\s*(?:"((?:[^"\\]|\\[\s\S])*)"?|([^;]*))/g;

interface Section {
	index: number;
	encoded: boolean;
	text: string;
}

/*
 * The charset of an extended value is decoded by the charset library: `%E2` becomes `=E2` of an encoded word, which
 * uses the same escapes.
 */
function decodeExtended(sections: Section[]): string {
	sections.sort((a, b) => a.index - b.index);
	let charset = '';
	const text = sections
		.map(({ encoded, text }, at) => {
			if (!encoded)
				return [...new TextEncoder().encode(text)].map((byte) => `=${byte.toString(16).padStart(2, '0')}`).join('');
			const quoted = at === 0 ? /^([^']*)'[^']*'([\s\S]*)$/.exec(text) : null;
			if (quoted) charset = quoted[1] as string;
			return (quoted ? (quoted[2] as string) : text)
				.replace(/[=?_\s]/g, (c) => `=${c.charCodeAt(0).toString(16)}`)
				.replaceAll('%', '=');
		})
		.join('');
	return decodeEncodedWords(`=?${/^[^\s?]+$/.test(charset) ? charset : 'utf-8'}?Q?${text}?=`);
}

/*
 * The end of a comment that begins there (RFC 5322 section 3.2.2: comments nest and have escapes); -1: it has none.
 */
function endOfComment(text: string, from: number): number {
	let depth = 0;
	for (let at = from; at < text.length; at++) {
		const character = text[at];
		if (character === '\\') at++;
		else if (character === '(') depth++;
		else if (character === ')' && --depth === 0) return at + 1;
	}
	return -1;
}

/*
 * The value without its comments (RFC 2045 section 5.1). A comment stands between blanks and signs; brackets inside a
 * word belong to it, as in an unquoted file name.
 */
function withoutComments(text: string): string {
	if (!text.includes('(')) return text;
	let kept = '';
	let isQuoted = false;
	for (let at = 0; at < text.length;) {
		const character = text[at] as string;
		if (character === '\\' && isQuoted) {
			kept += text.slice(at, at + 2);
			at += 2;
			continue;
		}
		if (character === '"') isQuoted = !isQuoted;
		if (character === '(' && !isQuoted && /^$|[\s;=]/.test(text.slice(at - 1, at))) {
			const end = endOfComment(text, at);
			// an unclosed comment is none, and neither is any after it
			if (end === -1) return kept + text.slice(at);
			if (/^$|[\s;]/.test(text.slice(end, end + 1))) {
				kept += ' ';
				at = end;
				continue;
			}
		}
		kept += character;
		at++;
	}
	return kept;
}

/**
 * Reads a value with parameters. Never throws; of a repeated parameter the first counts.
 *
 * @param field the unfolded field value
 * @see RFC 2045 section 5.1; RFC 2231 sections 3 and 4 for continuations (`name*0*=`) and charsets
 */
export function readParameters(field: string): Parameterised {
	const text = withoutComments(field);
	const semicolon = text.indexOf(';');
	const value = (semicolon < 0 ? text : text.slice(0, semicolon)).trim().toLowerCase();
	const parameters: Record<string, string> = Object.create(null) as Record<string, string>;
	const extended = new Map<string, Section[]>();
	for (const [, name = '', quoted, bare = ''] of semicolon < 0 ? [] : text.slice(semicolon).matchAll(PARAMETER)) {
		const content = quoted === undefined ? bare.trim() : quoted.replace(/\\([\s\S])/g, '$1');
		const star = /^([^*]+)\*(?:(\d+)(\*)?)?$/.exec(name.toLowerCase());
		if (star) {
			const key = star[1] as string;
			const sections = extended.get(key) ?? [];
			sections.push({ index: Number(star[2] ?? 0), encoded: star[2] === undefined || star[3] === '*', text: content });
			extended.set(key, sections);
		} else {
			parameters[name.toLowerCase()] ??= content;
		}
	}
	for (const [key, sections] of extended) parameters[key] = decodeExtended(sections);
	return { value, parameters };
}

/* Names with a special meaning for a file system or a browser. */
const UNSAFE = /[/\\:*?"<>|]/g;

/**
 * A file name from a header, safe to show and to save on every system: encoded words are decoded (forbidden by RFC
 * 2047 section 5, but common practice), paths and control characters removed.
 *
 * @returns undefined where nothing is left of the name
 */
export function fileName(parameter: string | undefined): string | undefined {
	if (!parameter) return undefined;
	const decoded = oneLine(decodeEncodedWords(parameter));
	const base = decoded.split(/[/\\]/).at(-1) ?? '';
	const safe = base
		.replace(UNSAFE, '_')
		.replace(/^\.+/, '')
		.replace(/[. ]+$/, '')
		.slice(0, 200);
	return safe || undefined;
}
