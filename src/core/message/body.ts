import { compile } from 'html-to-text';
import { boundHtml, DEEPEST, LONGEST_HTML } from './bound-html.ts';
import { decodeCharset, decodeTransfer, joinFlowed } from './decoding.ts';
import { decodeUnstructured, fieldValue } from './header.ts';
import { type Part, walk } from './structure.ts';

/** A file attached to a message. */
export interface AttachmentInfo {
	/** Position among {@link attachments} of the message, from 0, by which it is requested. */
	index: number;
	name: string;
	type: string;
	/** Encoded size in the message, in bytes. */
	encodedBytes: number;
	/** Shown in the text by its Content-ID, not offered as a file. */
	inline: boolean;
	contentId: string | undefined;
}

const EXTENSIONS: Record<string, string> = {
	'message/rfc822': '.eml',
	'text/calendar': '.ics',
	'text/plain': '.txt',
	'text/html': '.html',
	'text/csv': '.csv',
	'application/pdf': '.pdf',
	'image/jpeg': '.jpg',
	'image/png': '.png',
	'image/gif': '.gif',
	'application/zip': '.zip'
};

/** Whether this part is shown as text of the message itself; one that is inline may have a file name (RFC 2183 section 2). */
function isBodyText(part: Part): boolean {
	const isShown = part.disposition === 'inline' || (part.disposition !== 'attachment' && !part.fileName);
	return (part.type === 'text/plain' || part.type === 'text/html') && isShown;
}

/** Whether this part can be saved as a file. */
const isFile = (part: Part): boolean => !isBodyText(part) || part.fileName !== undefined;

/* The parts of the message itself, without those of attached messages. */
function* ownParts(part: Part): Generator<Part> {
	yield part;
	if (part.type !== 'message/rfc822') for (const inner of part.parts) yield* ownParts(inner);
}

function isContainer(part: Part): boolean {
	return part.type.startsWith('multipart/') && part.parts.length > 0;
}

function attachmentParts(root: Part): Part[] {
	return [...ownParts(root)].filter((part) => !isContainer(part) && isFile(part));
}

function attachmentName(part: Part, index: number): string {
	if (part.fileName) return part.fileName;
	const subject = part.parts[0] ? decodeUnstructured(fieldValue(part.parts[0].header, 'subject') ?? '') : '';
	const base = subject.replace(/[/\\:*?"<>|]/g, '_').slice(0, 80) || `part ${index + 1}`;
	return base + (EXTENSIONS[part.type] ?? '');
}

/** All files of a message. */
export function attachments(root: Part): AttachmentInfo[] {
	return attachmentParts(root).map((part, index) => ({
		index,
		name: attachmentName(part, index),
		type: part.type,
		encodedBytes: part.end - part.bodyStart,
		inline: part.contentId !== undefined && part.disposition !== 'attachment' && part.type.startsWith('image/'),
		contentId: part.contentId
	}));
}

function decodeText(bytes: Uint8Array, part: Part): string {
	const body = decodeTransfer(bytes.subarray(part.bodyStart, part.end), part.encoding, 'text');
	const decoded = decodeCharset(body, part.parameters.charset);
	const text = decoded.includes('\r') ? decoded.replace(/\r\n?/g, '\n') : decoded;
	const flowed = part.type === 'text/plain' && part.parameters.format?.toLowerCase() === 'flowed';
	return flowed ? joinFlowed(text, part.parameters.delsp?.toLowerCase() === 'yes') : text;
}

/**
 * The content of one attachment, decoded.
 *
 * @param bytes the whole message
 * @param index as in {@link AttachmentInfo.index}
 * @returns undefined where the message has no such attachment
 */
export function attachmentContent(bytes: Uint8Array, root: Part, index: number): Uint8Array | undefined {
	const part = attachmentParts(root)[index];
	return part && decodeTransfer(bytes.subarray(part.bodyStart, part.end), part.encoding);
}

/** The text of the first calendar in a message; empty if there is none. */
export function calendarText(bytes: Uint8Array, root: Part): string {
	for (const part of ownParts(root)) if (part.type === 'text/calendar') return decodeText(bytes, part);
	return '';
}

/*
 * The limit for indexed and shown text; the rest stays in the raw bytes. Half a megabyte is a book of 80,000 words.
 */
const LONGEST_TEXT = 512 * 1024;

/* Compiled once: that takes longer than reading a newsletter. */
const convert = compile({
	wordwrap: false,
	// also text outside of <body>
	baseElements: { selectors: [], returnDomByDefault: true },
	// already bounded, so no limit here, which would lose text; escapes make it longer
	limits: { maxInputLength: 5 * LONGEST_HTML, maxDepth: 10 * DEEPEST },
	selectors: [
		{ selector: 'img', format: 'skip' },
		{ selector: 'a', options: { ignoreHref: true } },
		{ selector: 'table', format: 'block' },
		...['h1', 'h2', 'h3', 'h4', 'h5', 'h6'].map((selector) => ({ selector, options: { uppercase: false } }))
	]
});

/**
 * The readable text of an HTML body, for the index and for previews.
 */
export function textOfHtml(html: string): string {
	return convert(boundHtml(html).html);
}

/** What a person reads of a message. */
export interface Body {
	/** Plain text; made from the HTML if there is none. */
	text: string;
	/** HTML as sent, not sanitised; undefined if there is none. */
	html: string | undefined;
	/** Whether the text has all of the HTML's, as there is no plain one beside it. */
	isOfHtml: boolean;
	/** Whether the text is complete; the end of a very long one is cut off. */
	isWhole: boolean;
}

/* The parts within alternatives, found in one pass: a hostile message has very many. */
function inAlternatives(root: Part): Set<Part> {
	const found = new Set<Part>();
	const look = (part: Part, isInside: boolean): void => {
		const inside = isInside || part.type === 'multipart/alternative';
		for (const inner of part.parts) {
			if (inside) found.add(inner);
			look(inner, inside);
		}
	};
	look(root, false);
	return found;
}

/**
 * Decodes the text of a message. Of alternatives, the plain text becomes `text` and the HTML `html`; consecutive
 * texts are joined.
 */
export function readBody(bytes: Uint8Array, root: Part): Body {
	const bodies = [...ownParts(root)].filter((part) => !isContainer(part) && isBodyText(part));
	const alternatives = inAlternatives(root);
	const plain: string[] = [];
	const html: string[] = [];
	let hasPlainAlternative = false;
	for (const part of bodies) {
		const text = decodeText(bytes, part);
		if (part.type === 'text/html') html.push(text);
		else {
			plain.push(text);
			hasPlainAlternative ||= text.trim() !== '' && alternatives.has(part);
		}
	}
	const fromHtml = html.length > 0 && !hasPlainAlternative ? html.map(textOfHtml) : [];
	const text = [...plain, ...fromHtml].join('\n');
	return {
		text: text.slice(0, LONGEST_TEXT).trimEnd(),
		html: html.length > 0 ? html.join('\n<hr>\n') : undefined,
		isOfHtml: fromHtml.length > 0,
		isWhole: text.length <= LONGEST_TEXT && html.every(({ length }) => length <= LONGEST_HTML)
	};
}

/** Text of attached messages, for the index, so that words of a forwarded message are found. */
export function attachedMessagesText(bytes: Uint8Array, root: Part): string {
	const texts: string[] = [];
	let length = 0;
	for (const part of walk(root)) {
		const message = part.type === 'message/rfc822' ? part.parts[0] : undefined;
		if (!message || length > LONGEST_TEXT) continue;
		const subject = decodeUnstructured(fieldValue(message.header, 'subject') ?? '');
		const { text } = readBody(bytes, message);
		texts.push(subject, text);
		length += text.length;
	}
	return texts.join('\n').slice(0, LONGEST_TEXT);
}
