import type { Instant } from '../message/date.ts';

const LF = 10;
const GREATER = 62;
const FROM = [70, 114, 111, 109, 32];

/* Offsets of the lines that a reader would take for a `From ` line or a quoted one. */
function linesToQuote(bytes: Uint8Array): number[] {
	const found: number[] = [];
	for (let start = 0; start < bytes.length;) {
		let at = start;
		while (bytes[at] === GREATER) at++;
		if (FROM.every((byte, i) => bytes[at + i] === byte)) found.push(start);
		const end = bytes.indexOf(LF, start);
		if (end === -1) break;
		start = end + 1;
	}
	return found;
}

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/* The date of C's asctime, in UTC (RFC 4155 appendix A). */
function asctime(at: Instant): string {
	const date = new Date(at * 1000);
	const two = (n: number) => String(n).padStart(2, '0');
	const clock = [date.getUTCHours(), date.getUTCMinutes(), date.getUTCSeconds()].map(two).join(':');
	const year = String(Math.max(0, date.getUTCFullYear())).padStart(4, '0');
	return `${DAYS[date.getUTCDay()]} ${MONTHS[date.getUTCMonth()]} ${String(date.getUTCDate()).padStart(2)} ${clock} ${year}`;
}

/**
 * A message as an mbox entry: a `From ` line, the bytes with `From ` lines quoted at every level, a blank line.
 * Reading it again gives the same bytes, except that a missing final line break is added: mbox cannot express its
 * absence.
 *
 * @param sender address for the `From ` line; MAILER-DAEMON if it is not known (RFC 4155)
 * @param receivedAt undefined where it is not known
 */
export function mboxEntry(bytes: Uint8Array, sender: string, receivedAt: Instant | undefined): Uint8Array {
	const envelope = new TextEncoder().encode(
		`From ${sender.replace(/\s+/g, '') || 'MAILER-DAEMON'} ${asctime(receivedAt ?? 0)}\n`
	);
	const quoted = linesToQuote(bytes);
	const ending = bytes.at(-1) === LF ? 1 : 2;
	const entry = new Uint8Array(envelope.length + bytes.length + quoted.length + ending);
	entry.set(envelope);
	let to = envelope.length;
	let from = 0;
	for (const at of quoted) {
		entry.set(bytes.subarray(from, at), to);
		to += at - from;
		entry[to++] = GREATER;
		from = at;
	}
	entry.set(bytes.subarray(from), to);
	entry.fill(LF, entry.length - ending);
	return entry;
}
