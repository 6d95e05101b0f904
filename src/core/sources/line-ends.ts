const CR = 13;
const LF = 10;

/*
 * Mail travels with CRLF at the end of each line (RFC 5322 section 2.3); mail files of Unix systems have LF alone. Only
 * where all line ends of a message are of one kind can each form be made from the other again, byte for byte.
 */

/** A message of a file, whose lines end with LF, as it travels; undefined: it has a CR, and is no such message. */
export function withCrlf(bytes: Uint8Array): Uint8Array | undefined {
	if (bytes.includes(CR)) return undefined;
	let lines = 0;
	for (let at = bytes.indexOf(LF); at >= 0; at = bytes.indexOf(LF, at + 1)) lines++;
	const travelling = new Uint8Array(bytes.length + lines);
	let from = 0;
	for (let n = 0; n < lines; n++) {
		const to = bytes.indexOf(LF, from);
		travelling.set(bytes.subarray(from, to), from + n);
		travelling.set([CR, LF], to + n);
		from = to + 1;
	}
	travelling.set(bytes.subarray(from), from + lines);
	return travelling;
}

/** A message as it travels with LF alone, as in a file; undefined: it has a CR or a LF that is no line end. */
export function withLf(bytes: Uint8Array): Uint8Array | undefined {
	const filed = new Uint8Array(bytes.length);
	let length = 0;
	let from = 0;
	for (let at = bytes.indexOf(CR); at >= 0; at = bytes.indexOf(CR, from)) {
		if (bytes[at + 1] !== LF) return undefined;
		const line = bytes.subarray(from, at);
		if (line.includes(LF)) return undefined;
		filed.set(line, length);
		length += line.length;
		filed[length++] = LF;
		from = at + 2;
	}
	const rest = bytes.subarray(from);
	if (rest.includes(LF)) return undefined;
	filed.set(rest, length);
	return filed.slice(0, length + rest.length);
}
