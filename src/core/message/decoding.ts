import PostalMime from 'postal-mime';
import quotedPrintable from 'quoted-printable';
import { decodeBy, decodeEncodedWords, decodeUnnamed } from './charset.ts';

/* A string with one character a byte, in steps that fit on the stack. */
function toBinary(bytes: Uint8Array): string {
	let binary = '';
	for (let at = 0; at < bytes.length; at += 16_384) binary += String.fromCharCode(...bytes.subarray(at, at + 16_384));
	return binary;
}

function fromBinary(binary: string): Uint8Array<ArrayBuffer> {
	const bytes = new Uint8Array(binary.length);
	for (let at = 0; at < binary.length; at++) bytes[at] = binary.charCodeAt(at);
	return bytes;
}

/*
 * Characters outside the alphabet are skipped (RFC 2045 section 6.8). Padding ends a unit: some writers pad every
 * line. A single leftover character is no byte.
 */
function decodeBase64(text: string): string {
	return text
		.replace(/[^A-Za-z0-9+/=]+/g, '')
		.split(/=+/)
		.map((unit) => atob(unit.length % 4 === 1 ? unit.slice(0, -1) : unit))
		.join('');
}

/**
 * Decodes the transfer encoding of a body.
 *
 * @param encoding value of Content-Transfer-Encoding in lower case; bytes of an identity encoding stay as they are
 * @see RFC 2045 sections 6.7 and 6.8
 */
export function decodeTransfer(bytes: Uint8Array, encoding: string): Uint8Array {
	if (encoding === 'base64') return fromBinary(decodeBase64(toBinary(bytes)));
	if (encoding === 'quoted-printable') return fromBinary(quotedPrintable.decode(toBinary(bytes)));
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

/* The library is slow per line. A text with more lines stays as it was sent: its words are the same. */
const MOST_FLOWED_LINES = 10_000;

/** Joins the soft line breaks of a text with format=flowed (RFC 3676), by the library, as it is rare. */
export async function joinFlowed(text: string, deleteSpace: boolean): Promise<string> {
	let lines = 0;
	for (let at = text.indexOf('\n'); at !== -1; at = text.indexOf('\n', at + 1))
		if (++lines > MOST_FLOWED_LINES) return text;
	const parsed = await PostalMime.parse(
		`Content-Type: text/plain; charset=utf-8; format=flowed${deleteSpace ? '; delsp=yes' : ''}\r\nContent-Transfer-Encoding: 8bit\r\n\r\n${text}`
	);
	return parsed.text ?? '';
}
