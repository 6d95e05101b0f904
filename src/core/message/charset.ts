import { decodeWords } from 'postal-mime';

const utf8 = new TextDecoder('utf-8', { fatal: true });
const western = new TextDecoder('windows-1252');

/**
 * Text of bytes by a decoder. Decoders for single-byte charsets are called in streaming mode and then finished:
 * otherwise Node 20 takes windows-1252 for ISO 8859-1 and loses the euro sign, quotation marks and dashes (observed;
 * the test shows when it is fixed). UTF-8 is decoded several times faster without that.
 */
export function decodeBy(decoder: TextDecoder, bytes: Uint8Array): string {
	if (decoder.encoding === 'utf-8') return decoder.decode(bytes);
	return decoder.decode(bytes, { stream: true }) + decoder.decode();
}

/** Whether bytes are valid UTF-8. */
export function isUtf8(bytes: Uint8Array): boolean {
	try {
		utf8.decode(bytes);
		return true;
	} catch {
		return false;
	}
}

/** Text of bytes without a declared charset: UTF-8 if they are valid, else windows-1252, which maps every byte. */
export function decodeUnnamed(bytes: Uint8Array): string {
	try {
		return utf8.decode(bytes);
	} catch {
		return decodeBy(western, bytes);
	}
}

/* The same fault in encoded words: control characters in place of letters. */

const LEFT_OVER = /[\u0080-\u009f]/g;

/** Decodes the encoded words in a header's text (RFC 2047). */
export function decodeEncodedWords(text: string): string {
	if (!text.includes('=?')) return text;
	return decodeWords(text).replace(LEFT_OVER, (character) => decodeBy(western, Uint8Array.of(character.charCodeAt(0))));
}
