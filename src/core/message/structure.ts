import { fieldValue, type Header, headerStart, lineEnd, nextLine, readHeader } from './header.ts';
import { fileName, readParameters } from './parameters.ts';

/** One part of a message, by its position in the bytes; nothing is decoded. */
export interface Part {
	/** Media type in lower case, such as `text/html`. */
	type: string;
	parameters: Record<string, string>;
	/** Content-Transfer-Encoding in lower case; `7bit` if none is given (RFC 2045 section 6.1). */
	encoding: string;
	/** In lower case; empty if none is given (RFC 2183). */
	disposition: string;
	/** Safe to show and to save; undefined if the part has no name. */
	fileName: string | undefined;
	contentId: string | undefined;
	header: Header;
	/** Offset of the part's first header line. */
	start: number;
	/** Offset of the first byte of its body. */
	bodyStart: number;
	/** Offset after its body, without the line break that belongs to the boundary (RFC 2046 section 5.1.1). */
	end: number;
	/** Parts of a multipart; the one message of a message/rfc822. */
	parts: Part[];
}

/* Limits against hostile nesting; anything beyond stays in the raw bytes as one undivided part. */
const DEEPEST = 40;
const MOST_PARTS = 2_000;

const DASH = 45;
const LF = 10;
const CR = 13;

interface Scan {
	bytes: Uint8Array;
	eol: number;
	parts: number;
}

/** Offset after the body that ends before the boundary line at `at`. */
function withoutLineBreak(scan: Scan, at: number, lowest: number): number {
	let end = at;
	if (end > lowest && scan.bytes[end - 1] === scan.eol) end--;
	if (end > lowest && scan.eol === LF && scan.bytes[end - 1] === CR) end--;
	return end;
}

interface BoundaryLine {
	at: number;
	next: number;
	closing: boolean;
}

/*
 * Offset of the next line that starts with two dashes, after the line that starts at `start`; -1: none. Every second
 * byte is checked, as one of the two dashes falls on it.
 */
function nextDashes({ bytes, eol }: Scan, start: number, end: number): number {
	for (let at = start + 1; at < end; at += 2) {
		if (bytes[at] !== DASH) continue;
		const first = bytes[at - 1] === DASH ? at - 1 : at;
		if (first > start && bytes[first - 1] === eol && bytes[first + 1] === DASH && first + 1 < end) return first;
	}
	return -1;
}

/** The next line `--boundary` or `--boundary--` from `start` on (blanks may follow: RFC 2046 section 5.1.1). */
function nextBoundary(scan: Scan, boundary: string, start: number, end: number): BoundaryLine | undefined {
	const { bytes, eol } = scan;
	for (let at = start; at !== -1 && at < end; at = nextDashes(scan, at, end)) {
		if (bytes[at] !== DASH || bytes[at + 1] !== DASH) continue;
		let rest = at + 2;
		while (rest - at - 2 < boundary.length && bytes[rest] === (boundary.charCodeAt(rest - at - 2) & 0xff)) rest++;
		if (rest - at - 2 < boundary.length) continue;
		const next = nextLine(bytes, at, end, eol);
		const closing = bytes[rest] === DASH && bytes[rest + 1] === DASH;
		if (closing) rest += 2;
		while (rest < next && (bytes[rest] as number) <= 32) rest++;
		if (rest >= next) return { at, next, closing };
	}
	return undefined;
}

function scanMultipart(scan: Scan, part: Part, depth: number): void {
	const boundary = part.parameters.boundary ?? '';
	if (!boundary) return;
	const inDigest = part.type === 'multipart/digest';
	let open = nextBoundary(scan, boundary, part.bodyStart, part.end);
	while (open && !open.closing && scan.parts < MOST_PARTS) {
		const close = nextBoundary(scan, boundary, open.next, part.end);
		const end = close ? withoutLineBreak(scan, close.at, open.next) : part.end;
		part.parts.push(scanPart(scan, open.next, end, depth + 1, inDigest));
		open = close;
	}
}

function scanPart(scan: Scan, start: number, end: number, depth: number, inDigest: boolean): Part {
	scan.parts++;
	const header = readHeader(scan.bytes, start, end, scan.eol);
	const content = readParameters(fieldValue(header, 'content-type') ?? '');
	const disposition = readParameters(fieldValue(header, 'content-disposition') ?? '');
	const encoding = readParameters(fieldValue(header, 'content-transfer-encoding') ?? '').value;
	const part: Part = {
		// RFC 2045 section 5.2 and RFC 2046 section 5.1.5: the meaning of a missing or broken type
		type: /^[^\s/]+\/[^\s/]+$/.test(content.value) ? content.value : inDigest ? 'message/rfc822' : 'text/plain',
		parameters: content.parameters,
		encoding: encoding || '7bit',
		disposition: disposition.value,
		fileName: fileName(disposition.parameters.filename) ?? fileName(content.parameters.name),
		contentId: /<([^<>]+)>/.exec(fieldValue(header, 'content-id') ?? '')?.[1],
		header,
		start,
		bodyStart: Math.min(header.bodyStart, end),
		end,
		parts: []
	};
	if (depth >= DEEPEST) return part;
	if (part.type.startsWith('multipart/')) scanMultipart(scan, part, depth);
	else if (part.type === 'message/rfc822' && !['base64', 'quoted-printable'].includes(part.encoding))
		part.parts.push(scanPart(scan, part.bodyStart, end, depth + 1, false));
	return part;
}

/**
 * Finds the parts of a message in one pass over its bytes. Never throws and never decodes; depth and number of parts
 * are bounded.
 *
 * @param bytes the whole message as received
 * @see RFC 2045, RFC 2046
 */
export function scanStructure(bytes: Uint8Array): Part {
	return scanPart({ bytes, eol: lineEnd(bytes), parts: 0 }, headerStart(bytes), bytes.length, 0, false);
}

/** The part and all parts in it, in the order of the message. */
export function* walk(part: Part): Generator<Part> {
	yield part;
	for (const inner of part.parts) yield* walk(inner);
}
