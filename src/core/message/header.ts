import { decodeBy, decodeEncodedWords, decodeUnnamed } from './charset.ts';
import { decodeDeclared } from './decoding.ts';

/** One header field as it stands in the message. */
interface HeaderField {
	/** As written, without the colon. */
	name: string;
	/** Unfolded (RFC 5322 section 2.2.3); encoded words are left as they are. */
	value: string;
}

/** The header block of a message or of a part. */
export interface Header {
	fields: HeaderField[];
	/** Offset of the first byte of the body. */
	bodyStart: number;
}

const LF = 10;
const CR = 13;
const SPACE = 32;
const TAB = 9;
const COLON = 58;

/* The limit for header text: a hostile message may be one header of a gigabyte. */
const LONGEST_FIELD = 256 * 1024;
const MOST_FIELDS = 5_000;
const LONGEST_ASCII = 64 * 1024;
// eslint-disable-next-line no-control-regex
const NOT_ASCII = /[^\u0000-\u007f]/;

/** The byte that ends a line in this message: LF, or CR if there is no LF at all (old Macintosh files). */
export function lineEnd(bytes: Uint8Array): number {
	return bytes.includes(LF) || !bytes.includes(CR) ? LF : CR;
}

const BYTE_ORDER_MARK = [0xef, 0xbb, 0xbf];

/** The length of a byte order mark, as editors put it before what they save as UTF-8; 0: there is none. */
export const markLength = (bytes: Uint8Array): number =>
	BYTE_ORDER_MARK.every((byte, n) => bytes[n] === byte) ? BYTE_ORDER_MARK.length : 0;

/** Where the header of a message begins: behind a byte order mark and blank lines. */
export function headerStart(bytes: Uint8Array): number {
	let at = markLength(bytes);
	while (bytes[at] === LF || bytes[at] === CR) at++;
	return at < bytes.length ? at : 0;
}

/** Offset just behind the line that starts at `start`. */
export function nextLine(bytes: Uint8Array, start: number, end: number, eol = LF): number {
	const found = bytes.indexOf(eol, start);
	return found === -1 || found >= end ? end : found + 1;
}

/** Length of the field name when the line at `start` is `name:` (RFC 5322 3.6.8; blanks before the colon: 4.5), else 0. */
function fieldNameLength(bytes: Uint8Array, start: number, end: number): number {
	let at = start;
	while (at < end && (bytes[at] as number) > SPACE && (bytes[at] as number) < 127 && bytes[at] !== COLON) at++;
	const length = at - start;
	while (at < end && (bytes[at] === SPACE || bytes[at] === TAB)) at++;
	return at < end && bytes[at] === COLON ? length : 0;
}

function startsWith(bytes: Uint8Array, start: number, ascii: string): boolean {
	for (let i = 0; i < ascii.length; i++) if (bytes[start + i] !== ascii.charCodeAt(i)) return false;
	return true;
}

interface PlacedField {
	start: number;
	end: number;
	nameLength: number;
}

/* How far behind a header the first part of a message declares its charset. */
const DECLARED_WITHIN = 8_192;
const DECLARED = /^content-type[ \t]*:(?:[^\r\n]|\r?\n[ \t])*?charset[ \t]*=[ \t]*"?([\w.:+-]+)/im;

/*
 * The charset that a message declares, its own or that of its first part: bytes above 127 that stand in its header without
 * one are in it, if they are no UTF-8.
 */
function declaredCharset(bytes: Uint8Array, from: number, to: number): string | undefined {
	const text = decodeBy(new TextDecoder('latin1'), bytes.subarray(from, Math.min(bytes.length, to + DECLARED_WITHIN)));
	const label = DECLARED.exec(text)?.[1]?.toLowerCase();
	return label === undefined || /^(us-)?ascii$|^utf-?8$|^(x-)?unknown/.test(label) ? undefined : label;
}

/* Nearly every header is ASCII: decoded once, character and byte positions are equal. RFC 6532 allows UTF-8. */
function readFields(bytes: Uint8Array, found: readonly PlacedField[]): HeaderField[] {
	const from = found[0]?.start ?? 0;
	const to = found.at(-1)?.end ?? 0;
	const whole = to - from <= LONGEST_ASCII ? decodeUnnamed(bytes.subarray(from, to)) : '';
	const isAscii = whole.length === to - from && !NOT_ASCII.test(whole);
	const charset = isAscii ? undefined : declaredCharset(bytes, from, to);
	return found.map(({ start, end, nameLength }) => {
		const text = isAscii ? whole.slice(start - from, end - from) : decodeDeclared(bytes.subarray(start, end), charset);
		const value = text.slice(text.indexOf(':', nameLength) + 1);
		return {
			name: text.slice(0, nameLength),
			value: (/[\r\n]/.test(value) ? value.replace(/\r\n?|\n/g, '') : value).trim()
		};
	});
}

/**
 * Reads the header block that starts at `start`. Never throws: a block ends at the first empty line, or at the first
 * line that is neither a field nor its continuation (that line is body). A leftover mbox `From ` line before or among
 * the fields is skipped.
 *
 * @param bytes the whole message
 * @param start offset of the first header line
 * @param end offset behind the last byte to look at
 * @param eol the byte that ends a line, see {@link lineEnd}
 * @see RFC 5322 section 2.2
 */
export function readHeader(bytes: Uint8Array, start = 0, end = bytes.length, eol = LF): Header {
	const found: PlacedField[] = [];
	let at = start;
	let fieldStart = -1;
	let nameLength = 0;

	const finish = (fieldEnd: number) => {
		if (fieldStart < 0 || found.length >= MOST_FIELDS) return;
		found.push({ start: fieldStart, end: Math.min(fieldEnd, fieldStart + LONGEST_FIELD), nameLength });
		fieldStart = -1;
	};
	const header = (bodyStart: number): Header => ({ fields: readFields(bytes, found), bodyStart });

	while (at < end) {
		const next = nextLine(bytes, at, end, eol);
		const first = bytes[at];
		if (first === eol || (first === CR && next - at <= 2)) {
			finish(at);
			return header(next);
		}
		if (first === SPACE || first === TAB) {
			if (fieldStart < 0 && found.length === 0 && at > start) break;
		} else {
			finish(at);
			const length = fieldNameLength(bytes, at, next);
			if (length > 0) {
				fieldStart = at;
				nameLength = length;
			} else if (!startsWith(bytes, at, 'From ') && !startsWith(bytes, at, '>From ') && first !== COLON) {
				return header(at);
			}
		}
		at = next;
	}
	finish(at);
	return header(at);
}

/* The length alone rules nearly all of them out. */
const isNamed = ({ name }: HeaderField, wanted: string) =>
	name.length === wanted.length && name.toLowerCase() === wanted;

/** The first field of a name, or undefined. Case does not count. */
export function fieldValue(header: Header, name: string): string | undefined {
	const wanted = name.toLowerCase();
	return header.fields.find((field) => isNamed(field, wanted))?.value;
}

/** All fields of a name, in the order of the message. */
export function fieldValues(header: Header, name: string): string[] {
	const wanted = name.toLowerCase();
	return header.fields.filter((field) => isNamed(field, wanted)).map((field) => field.value);
}

/* Control characters in a subject or name would break tables, terminals and file names. */
// eslint-disable-next-line no-control-regex
const CONTROL = /[\u0000-\u001f\u007f-\u009f\u2028\u2029\u202a-\u202e\u2066-\u2069]+/g;

/** Text for one line of a table: no line breaks, no control or direction-changing characters, single blanks. */
export function oneLine(text: string): string {
	return text.replace(CONTROL, ' ').replace(/\s+/g, ' ').trim();
}

/** The value of an unstructured field such as Subject: encoded words decoded (RFC 2047), made {@link oneLine}. */
export function decodeUnstructured(value: string): string {
	return oneLine(decodeEncodedWords(value));
}
