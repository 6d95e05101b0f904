/** Bytes of a text whose characters are bytes; LF becomes CRLF, as over the crlfBytes. */
export function crlfBytes(text: string): Uint8Array {
	return Uint8Array.from(text.replaceAll('\n', '\r\n'), (character) => character.charCodeAt(0));
}

/** Bytes of a text whose characters are bytes. */
export function bytesOf(text: string): Uint8Array {
	return Uint8Array.from(text, (character) => character.charCodeAt(0));
}

/** The text again. */
export function textOf(bytes: Uint8Array): string {
	return String.fromCharCode(...bytes);
}
