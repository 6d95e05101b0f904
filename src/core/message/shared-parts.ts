import { type Part, walk } from './structure.ts';

/** What the platform does faster with bytes. */
export interface Platform {
	/** Base64 of the standard alphabet. Never throws: what it cannot read, line breaks among it, it passes over. */
	decode(text: Uint8Array): Uint8Array;
	encode(bytes: Uint8Array): Uint8Array;
	equal(a: Uint8Array, b: Uint8Array): boolean;
}

/** A large attachment cut out of a message, to be stored once over all messages. */
export interface Cut {
	/** Offset of what was cut out, in the message. */
	start: number;
	end: number;
	/** Decoded where the message encodes it in lines of one length, else as it stands. */
	content: Uint8Array;
	/** Characters a line of base64; 0 where the content stands in the message as it is. */
	lineLength: number;
	/** What ends those lines. */
	lineBreak: '\n' | '\r\n' | '';
}

/** Smaller ones stay in their message: sharing them would cost more rows than bytes. */
export const SHARED_FROM_BYTES = 16_384;
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

/* Lines of one length, each but the last ended alike. */
function wrapped(encoded: Uint8Array, lineLength: number, lineBreak: string): Uint8Array {
	const lines = Math.max(1, Math.ceil(encoded.length / lineLength));
	const whole = new Uint8Array(encoded.length + (lines - 1) * lineBreak.length);
	let to = 0;
	for (let line = 0; line < lines; line++) {
		if (line > 0) for (let i = 0; i < lineBreak.length; i++) whole[to++] = lineBreak.charCodeAt(i);
		const text = encoded.subarray(line * lineLength, (line + 1) * lineLength);
		whole.set(text, to);
		to += text.length;
	}
	return whole;
}

/* Decoded, if encoding it again gives the very same bytes. */
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
	const content = platform.decode(region);
	const again = wrapped(platform.encode(content), lineLength, lineBreak);
	return platform.equal(again, region) ? { start, end, content, lineLength, lineBreak } : undefined;
}

/**
 * Finds the large attachments of a message that can be kept apart from it. What cannot be put together again exactly as
 * it was is not among them.
 *
 * @param bytes the whole message
 */
export function cutSharedParts(bytes: Uint8Array, root: Part, platform: Platform): Cut[] {
	const cuts: Cut[] = [];
	for (const part of walk(root)) {
		if (cuts.length >= MOST_CUTS) break;
		const isText = /^text\/(plain|html)$/.test(part.type) && part.disposition !== 'attachment' && !part.fileName;
		if (part.parts.length > 0 || isText || part.end - part.bodyStart < SHARED_FROM_BYTES) continue;
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

/** What is left of a message without what was cut out of it. */
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

/** A part to be put back: where in the message it begins, and how it stands there. */
export type Insert = Pick<Cut, 'start' | 'content' | 'lineLength' | 'lineBreak'>;

/** The message again, from its frame and its parts in their order. */
export function joinParts(
	frame: Uint8Array,
	inserts: readonly Insert[],
	platform: Pick<Platform, 'encode'>
): Uint8Array {
	const texts = inserts.map(({ content, lineLength, lineBreak }) =>
		lineLength === 0 ? content : wrapped(platform.encode(content), lineLength, lineBreak)
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
