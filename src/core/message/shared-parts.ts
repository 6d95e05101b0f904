import { type Part, walk } from './structure.ts';

/** Byte operations that the platform does faster. */
export interface Platform {
	/** Base64 of the standard alphabet. Never throws: it skips what it cannot read. */
	decode(text: string): Uint8Array;
	encode(bytes: Uint8Array): string;
	/** A text with one character a byte, and its bytes. */
	textOf(bytes: Uint8Array): string;
	bytesOf(text: string): Uint8Array;
}

/** A large attachment taken out of a message, to be stored once for all messages. */
export interface Cut {
	/** Offset of the removed text in the message. */
	start: number;
	end: number;
	/** Decoded if the message encodes it in lines of one length, else as it stands. */
	content: Uint8Array;
	/** Characters a line of base64; 0 if the content stands in the message as it is. */
	lineLength: number;
	/** The line ending of those lines. */
	lineBreak: '\n' | '\r\n' | '';
}

/** Smaller ones stay in their message: sharing them would cost more in rows than it saves. */
export const SHARED_FROM_BYTES = 16_384;
/* Larger ones stay as well: a string cannot be much longer. */
const SHARED_UP_TO_BYTES = 256 * 1024 * 1024;
const MOST_CUTS = 100;

const LF = 10;
const CR = 13;

const isBase64 = (byte: number) =>
	(byte >= 97 && byte <= 122) ||
	(byte >= 65 && byte <= 90) ||
	(byte >= 48 && byte <= 57) ||
	byte === 43 ||
	byte === 47 ||
	byte === 61;

/** The form of a base64 text in its message: lines of one length, all but the last with the same ending. */
type Lines = Pick<Cut, 'lineLength' | 'lineBreak'>;

/* Lines processed at once: some tens of kilobytes, and whole units of base64. */
const linesAtOnce = (lineLength: number) => 4 * Math.max(1, Math.ceil(16_384 / lineLength));
const LINE_OF_ONE = 65_536;

/* A text without line breaks counts as long lines with nothing between them. */
const asLines = ({ lineLength, lineBreak }: Lines): Lines => ({
	lineLength: lineBreak === '' ? LINE_OF_ONE : lineLength,
	lineBreak
});

/* Base64 in lines. Joining strings is many times faster than copying bytes line by line. */
function wrapped(content: Uint8Array, lines: Lines, platform: Pick<Platform, 'encode' | 'bytesOf'>): Uint8Array {
	const { lineLength, lineBreak } = asLines(lines);
	const bytesAtOnce = (linesAtOnce(lineLength) * lineLength * 3) / 4;
	const encodedLength = 4 * Math.ceil(content.length / 3);
	const breaks = Math.max(0, Math.ceil(encodedLength / lineLength) - 1);
	const whole = new Uint8Array(encodedLength + breaks * lineBreak.length);
	let to = 0;
	for (let from = 0; from < content.length; from += bytesAtOnce) {
		const encoded = platform.encode(content.subarray(from, from + bytesAtOnce));
		let text = '';
		for (let at = 0; at < encoded.length; at += lineLength) {
			if (from > 0 || at > 0) text += lineBreak;
			text += encoded.slice(at, at + lineLength);
		}
		whole.set(platform.bytesOf(text), to);
		to += text.length;
	}
	return whole;
}

/* The content, if encoding it again gives the same text; else undefined. */
function unwrapped(region: Uint8Array, lines: Lines, platform: Platform): Uint8Array | undefined {
	const { lineLength, lineBreak } = asLines(lines);
	const step = lineLength + lineBreak.length;
	const atOnce = linesAtOnce(lineLength) * step;
	const content = new Uint8Array(Math.ceil((region.length * 3) / 4));
	let to = 0;
	for (let from = 0; from < region.length; from += atOnce) {
		const text = platform.textOf(region.subarray(from, from + atOnce));
		let encoded = '';
		for (let at = 0; at < text.length; at += step) {
			const end = at + lineLength;
			// the last line of all has no ending
			if (end < text.length && !text.startsWith(lineBreak, end)) return undefined;
			encoded += text.slice(at, end);
		}
		const decoded = platform.decode(encoded);
		// padding in the middle would be lost
		const isWhole = from + atOnce >= region.length || 4 * decoded.length === 3 * encoded.length;
		if (!isWhole || platform.encode(decoded) !== encoded) return undefined;
		content.set(decoded, to);
		to += decoded.length;
	}
	return content.slice(0, to);
}

/* Decoded, if it can be encoded again exactly. */
function cutBase64(bytes: Uint8Array, part: Part, platform: Platform): Cut | undefined {
	let start = part.bodyStart;
	let end = part.end;
	while (start < end && !isBase64(bytes[start] as number)) start++;
	while (end > start && !isBase64(bytes[end - 1] as number)) end--;
	const region = bytes.subarray(start, end);
	const firstBreak = region.indexOf(LF);
	const lineBreak = firstBreak < 0 ? '' : region[firstBreak - 1] === CR ? '\r\n' : '\n';
	const lineLength = firstBreak < 0 ? region.length : firstBreak - (lineBreak === '\r\n' ? 1 : 0);
	if (lineLength === 0) return undefined;
	const content = unwrapped(region, { lineLength, lineBreak }, platform);
	return content && { start, end, content, lineLength, lineBreak };
}

/**
 * Finds the large attachments that can be stored apart from their message: only those that can be joined again exactly.
 *
 * @param bytes the whole message
 */
export function cutSharedParts(bytes: Uint8Array, root: Part, platform: Platform): Cut[] {
	const cuts: Cut[] = [];
	for (const part of walk(root)) {
		if (cuts.length >= MOST_CUTS) break;
		const isText = /^text\/(plain|html)$/.test(part.type) && part.disposition !== 'attachment' && !part.fileName;
		const size = part.end - part.bodyStart;
		if (part.parts.length > 0 || isText || size < SHARED_FROM_BYTES || size > SHARED_UP_TO_BYTES) continue;
		const cut =
			part.encoding === 'base64'
				? cutBase64(bytes, part, platform)
				: ({
						start: part.bodyStart,
						end: part.end,
						content: bytes.subarray(part.bodyStart, part.end),
						lineLength: 0,
						lineBreak: ''
					} as const);
		if (cut) cuts.push(cut);
	}
	return cuts;
}

/** The rest of a message after its shared parts are taken out. */
export function frameOf(bytes: Uint8Array, cuts: readonly Cut[]): Uint8Array {
	const frame = new Uint8Array(bytes.length - cuts.reduce((sum, { start, end }) => sum + end - start, 0));
	let from = 0;
	let to = 0;
	for (const { start, end } of [...cuts, { start: bytes.length, end: bytes.length }]) {
		frame.set(bytes.subarray(from, start), to);
		to += start - from;
		from = end;
	}
	return frame;
}

/** A part taken out of a message: its offset in the message, and its form there. */
export type Insert = Pick<Cut, 'start' | 'content' | 'lineLength' | 'lineBreak'>;

/** The message again, from its frame and its parts in their order. */
export function joinParts(
	frame: Uint8Array,
	inserts: readonly Insert[],
	platform: Pick<Platform, 'encode' | 'bytesOf'>
): Uint8Array {
	const texts = inserts.map((insert) =>
		insert.lineLength === 0 ? insert.content : wrapped(insert.content, insert, platform)
	);
	const whole = new Uint8Array(frame.length + texts.reduce((sum, { length }) => sum + length, 0));
	let from = 0;
	let to = 0;
	for (const [at, { start }] of inserts.entries()) {
		const before = frame.subarray(from, from + start - to);
		whole.set(before, to);
		from += before.length;
		whole.set(texts[at] as Uint8Array, start);
		to = start + (texts[at] as Uint8Array).length;
	}
	whole.set(frame.subarray(from), to);
	return whole;
}
