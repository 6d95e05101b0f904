import { decodeBy, decodeEncodedWords, decodeUnnamed, isUtf8 } from './charset.ts';

/* A string with one character a byte, in steps that fit on the stack. */
function toBinary(bytes: Uint8Array): string {
	let binary = '';
	for (let at = 0; at < bytes.length; at += 16_384) binary += String.fromCharCode(...bytes.subarray(at, at + 16_384));
	return binary;
}

const ALPHABET = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
const SIXES = new Int8Array(256).fill(-1);
for (let at = 0; at < ALPHABET.length; at++) SIXES[ALPHABET.charCodeAt(at)] = at;
const HEX = new Int8Array(256).fill(-1);
for (let at = 0; at < 16; at++) {
	HEX['0123456789abcdef'.charCodeAt(at)] = at;
	HEX['0123456789ABCDEF'.charCodeAt(at)] = at;
}

const [TAB, LF, CR, BLANK, EQUALS] = [9, 10, 13, 32, 61];
const isSpace = (byte: number | undefined) => byte === BLANK || byte === TAB || byte === LF || byte === CR;

/*
 * The place of text that a list has put behind the encoded bytes: a line after the padding that is not of the alphabet.
 * Undefined: only encoded bytes follow, as of writers that pad every line.
 */
function appendedAt(bytes: Uint8Array, from: number): number | undefined {
	let start = from;
	while (isSpace(bytes[start])) start++;
	if (start === from) return undefined;
	const found = bytes.indexOf(LF, start);
	let end = found === -1 ? bytes.length : found;
	while (end > start && isSpace(bytes[end - 1])) end--;
	for (let at = start; at < end; at++) {
		const byte = bytes[at] as number;
		if ((SIXES[byte] as number) < 0 && byte !== EQUALS) return start;
	}
	return undefined;
}

/*
 * Characters outside the alphabet are skipped (RFC 2045 section 6.8). Padding ends a unit: some writers pad every
 * line. A single leftover character is no byte.
 */
function decodeBase64(bytes: Uint8Array, appended: Appended): Uint8Array<ArrayBuffer> {
	const decoded = new Uint8Array(bytes.length + 1);
	let length = 0;
	let unit = 0;
	let sixes = 0;
	const endUnit = () => {
		if (sixes > 1) decoded[length++] = unit >> (sixes === 2 ? 4 : 10);
		if (sixes > 2) decoded[length++] = unit >> 2;
		unit = 0;
		sixes = 0;
	};
	for (let at = 0; at < bytes.length; at++) {
		const byte = bytes[at] as number;
		const value = SIXES[byte] as number;
		if (value >= 0) {
			unit = (unit << 6) | value;
			if (++sixes < 4) continue;
			decoded[length] = unit >> 16;
			decoded[length + 1] = unit >> 8;
			decoded[length + 2] = unit;
			length += 3;
			unit = 0;
			sixes = 0;
		} else if (byte === EQUALS) {
			endUnit();
			while (bytes[at + 1] === EQUALS) at++;
			const text = appendedAt(bytes, at + 1);
			if (text === undefined) continue;
			if (appended === 'text') {
				decoded[length++] = LF;
				decoded.set(bytes.subarray(text), length);
				length += bytes.length - text;
			}
			return decoded.subarray(0, length);
		}
	}
	endUnit();
	return decoded.subarray(0, length);
}

/* A line loses all blanks at its end (RFC 2045 section 6.7, rule 3); what is no escape stays as it is. */
function decodeQuotedPrintable(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
	const decoded = new Uint8Array(bytes.length);
	let length = 0;
	for (let start = 0; start < bytes.length;) {
		const found = bytes.indexOf(LF, start);
		const next = found === -1 ? bytes.length : found + 1;
		let breakAt = found === -1 ? next : found;
		if (breakAt > start && bytes[breakAt - 1] === CR) breakAt--;
		let end = breakAt;
		while (end > start && (bytes[end - 1] === BLANK || bytes[end - 1] === TAB)) end--;
		const isSoft = bytes[end - 1] === EQUALS && end > start;
		if (isSoft) end--;
		for (let at = start; at < end; at++) {
			const byte = bytes[at] as number;
			const high = byte === EQUALS && at + 2 < end ? (HEX[bytes[at + 1] as number] as number) : -1;
			const low = high >= 0 ? (HEX[bytes[at + 2] as number] as number) : -1;
			if (low < 0) decoded[length++] = byte;
			else {
				decoded[length++] = (high << 4) | low;
				at += 2;
			}
		}
		if (!isSoft) for (let at = breakAt; at < next; at++) decoded[length++] = bytes[at] as number;
		start = next;
	}
	return decoded.subarray(0, length);
}

/** What becomes of text that a list has put behind the padding of base64: it belongs to a text, and to no file. */
type Appended = 'text' | 'dropped';

/**
 * Decodes the transfer encoding of a body.
 *
 * @param encoding value of Content-Transfer-Encoding in lower case; bytes of an identity encoding stay as they are
 * @param appended of text behind the padding of base64
 * @see RFC 2045 sections 6.7 and 6.8
 */
export function decodeTransfer(bytes: Uint8Array, encoding: string, appended: Appended = 'dropped'): Uint8Array {
	if (encoding === 'base64') return decodeBase64(bytes, appended);
	if (encoding === 'quoted-printable') return decodeQuotedPrintable(bytes);
	return bytes;
}

const decoders = new Map<string, TextDecoder | undefined>();

/* Labels come from hostile messages: the map stays small. */
function decoderFor(label: string): TextDecoder | undefined {
	if (!decoders.has(label)) {
		if (decoders.size > 200) decoders.clear();
		let decoder: TextDecoder | undefined;
		try {
			decoder = new TextDecoder(label);
		} catch {
			decoder = undefined;
		}
		decoders.set(label, decoder);
	}
	return decoders.get(label);
}

/**
 * Text of bytes.
 *
 * @param charset as declared; if it is missing or US-ASCII, UTF-8 is tried and then windows-1252, which maps every
 *   byte. Labels unknown to the Encoding standard are left to the library's aliases.
 */
export function decodeCharset(bytes: Uint8Array, charset: string | undefined): string {
	const label = charset?.trim().toLowerCase() ?? '';
	if (label === '' || label === 'us-ascii' || label === 'ascii') return decodeUnnamed(bytes);
	const decoder = decoderFor(label);
	if (decoder) return decodeBy(decoder, bytes);
	return /^[\w.:+-]+$/.test(label)
		? decodeEncodedWords(`=?${label}?B?${btoa(toBinary(bytes))}?=`)
		: decodeUnnamed(bytes);
}

/** Text of bytes that are UTF-8, else in a charset that was declared for something near them, else in windows-1252. */
export function decodeDeclared(bytes: Uint8Array, charset: string | undefined): string {
	return charset === undefined || isUtf8(bytes) ? decodeUnnamed(bytes) : decodeCharset(bytes, charset);
}

/* A text with more lines stays as it was sent: its words are the same. */
const MOST_FLOWED_LINES = 10_000;
const SIGNATURE = '-- ';

/**
 * Joins the soft line breaks of a text with format=flowed, to the letter as postal-mime does, which would parse a message
 * made for it: that takes as long as all other reading of a message of a list. An empty line ends no paragraph there, and
 * the last line is ended.
 *
 * @param text its lines ended by LF
 * @see RFC 3676 sections 4.1 to 4.4
 */
export function joinFlowed(text: string, deleteSpace: boolean): string {
	const lines = (text === '' || text.endsWith('\n') ? text : `${text}\n`).split('\n');
	if (lines.length > MOST_FLOWED_LINES + 1) return text;
	const pieces: string[] = [];
	let paragraphStart = 0;
	const isSignature = () => pieces.length - paragraphStart <= 3 && pieces.slice(paragraphStart).join('') === SIGNATURE;
	for (const [at, line] of lines.entries()) {
		const last = pieces.at(-1) ?? '';
		if (at > 0 && (!last.endsWith(' ') || isSignature())) paragraphStart = pieces.push('\n');
		else if (at > 0 && deleteSpace) {
			pieces.pop();
			if (last.length > 1) pieces.push(last.slice(0, -1));
		}
		const written = line.startsWith(' ') ? line.slice(1) : line;
		if (written !== '') pieces.push(written);
	}
	return pieces.join('');
}
