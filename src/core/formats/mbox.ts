import { type Instant, parseAsctime, parseDate } from '../message/date.ts';
import { fieldValue, nextLine, readHeader } from '../message/header.ts';

/** One message from an mbox file. */
export interface MboxMessage {
	/** The message without its `From ` line and the blank line after it; quoted `From ` lines are restored. */
	bytes: Uint8Array;
	/** Offset of its `From ` line in the file. */
	start: number;
	/** Offset after it in the file, from which reading can go on. */
	end: number;
	/** The date in its `From ` line. */
	envelopeDate: Instant | undefined;
	/** Bytes before the first `From ` line are no message; they are passed on so that nothing is lost. */
	preamble: boolean;
}

const LF = 10;
const CR = 13;
const GREATER = 62;
const SMALL_C = 99;

/* A larger Content-Length is not trusted: a wrong one would make the whole file one message. */
const LONGEST_CLAIM = 64 * 1024 * 1024;
/* If no LF comes within this many bytes, lines end in CR alone. */
const EOL_SAMPLE = 64 * 1024;

/* A buffer that one large message has grown beyond this is released after it. */
const LONG_LINE = 1024 * 1024;
const LARGEST_STORE = 8 * 1024 * 1024;

const latin1 = new TextDecoder('windows-1252');
const FIELD = /^[!-9;-~]+[ \t]*:/;
const ADDRESS_ONLY = /^From (?:-|\S+@\S+)\s*$/;
/* Some programs write a dash alone for sender and date (common practice): then a field of mail has to follow at once. */
const DASH_ONLY = /^From -\s*$/;
const USUAL_FIRST =
	/^(?:return-path|received|from|to|date|message-id|subject|sender|delivered-to|mime-version|content-type|x-[\w-]+)[ \t]*:/i;

function isAt(bytes: Uint8Array, at: number, ascii: string): boolean {
	for (let i = 0; i < ascii.length; i++) if (bytes[at + i] !== ascii.charCodeAt(i)) return false;
	return true;
}

/** The date in a `From ` line; undefined if it has none. */
function envelopeDate(line: string): Instant | undefined {
	return parseAsctime(line) ?? parseDate(line.replace(/^From \S*/, ' '));
}

/**
 * Whether a line that starts with `From ` separates two messages, rather than starting a sentence. With a date it has
 * to follow a blank line or precede a header; without one, everything else has to match.
 *
 * @see RFC 4155 appendix A (sender and date); unquoted "From …" lines in bodies are common practice
 */
export function isSeparator(line: string, behindBlankLine: boolean, following: string | undefined): boolean {
	const headerFollows = following !== undefined && (FIELD.test(following) || /^>?From /.test(following));
	if (envelopeDate(line) !== undefined) return behindBlankLine || headerFollows;
	if (DASH_ONLY.test(line) && following !== undefined && USUAL_FIRST.test(following)) return true;
	return behindBlankLine && headerFollows && ADDRESS_ONLY.test(line);
}

/**
 * Finds ASCII in bytes from an offset on; -1: not found. A platform may provide a faster one than {@link findAscii}.
 */
export type Find = (bytes: Uint8Array, ascii: string, from: number) => number;

function findAscii(bytes: Uint8Array, ascii: string, from: number): number {
	const first = ascii.charCodeAt(0);
	for (let at = bytes.indexOf(first, from); at !== -1; at = bytes.indexOf(first, at + 1))
		if (isAt(bytes, at, ascii)) return at;
	return -1;
}

function restoreQuoted(bytes: Uint8Array, atEveryLevel: boolean, eol: number): Uint8Array {
	const removed: number[] = [];
	for (let at = 0; at !== -1 && at < bytes.length;) {
		if (bytes[at] === GREATER) {
			let behind = at;
			while (bytes[behind] === GREATER) behind++;
			if (isAt(bytes, behind, 'From ') && (atEveryLevel || behind === at + 1)) removed.push(at);
		}
		const found = bytes.indexOf(eol, at);
		at = found === -1 ? -1 : found + 1;
	}
	if (removed.length === 0) return bytes;
	const restored = new Uint8Array(bytes.length - removed.length);
	let from = 0;
	let to = 0;
	for (const at of [...removed, bytes.length]) {
		restored.set(bytes.subarray(from, at), to);
		to += at - from;
		from = at + 1;
	}
	return restored;
}

/**
 * Splits an mbox file into messages, chunk by chunk; holds at most one message and one chunk.
 *
 * Quoting: one `>` is removed from `>From ` lines, and from `>>From ` lines as well (a writer that quotes only once
 * leaves no `>>From ` of its own). A Content-Length that ends exactly at the next `From ` line or the end of the file
 * is followed if the text has unquoted `From ` lines; then nothing in it was quoted.
 */
export class MboxSplitter {
	#pending: Uint8Array = new Uint8Array(0);
	/** The pending bytes: reused for every chunk, as large as the largest message needs. */
	#store: Uint8Array = new Uint8Array(0);
	/** Offset in the file of the first pending byte. */
	#offset: number;
	/** Where the search goes on in the pending bytes. */
	#searched = 0;
	#eol = LF;
	#eolKnown = false;
	#open = false;
	/** Below this number of pending bytes the search would find nothing new. */
	#needed = 0;
	/** Body end by a verified Content-Length; candidates before it are text. */
	#trustedUntil = 0;
	/** The open message has a `>From ` line, so something may be quoted. */
	#quoted = false;
	#find: Find;

	/**
	 * @param offset of the first chunk in the file: 0, or an {@link MboxMessage.end} to go on from
	 */
	constructor(offset = 0, find: Find = findAscii) {
		this.#offset = offset;
		this.#find = find;
	}

	/** Takes the next bytes of the file and returns the messages they complete. */
	push(chunk: Uint8Array): MboxMessage[] {
		this.#append(chunk);
		return this.#pending.length < this.#needed ? [] : this.#divide(false);
	}

	#append(chunk: Uint8Array): void {
		const pending = this.#pending;
		const length = pending.length + chunk.length;
		const isRoomy = this.#store.length >= length && (this.#store.length <= LARGEST_STORE || length > LARGEST_STORE / 2);
		const store = isRoomy ? this.#store : new Uint8Array(Math.max(2 * length, 2 * EOL_SAMPLE));
		// the pending bytes lie in the buffer already, perhaps at a later offset
		if (isRoomy) store.copyWithin(0, pending.byteOffset, pending.byteOffset + pending.length);
		else store.set(pending);
		store.set(chunk, pending.length);
		this.#store = store;
		this.#pending = store.subarray(0, length);
	}

	/** Marks the end of the file and returns the rest. */
	end(): MboxMessage[] {
		const messages = this.#divide(true);
		if (this.#pending.length > 0) messages.push(this.#take(this.#pending.length, this.#pending.length));
		return messages;
	}

	#divide(ended: boolean): MboxMessage[] {
		const messages: MboxMessage[] = [];
		if (!this.#eolKnown) {
			const sample = this.#pending;
			if (!ended && sample.length < EOL_SAMPLE && !sample.includes(LF)) return messages;
			this.#eol = sample.includes(LF) || !sample.includes(CR) ? LF : CR;
			this.#eolKnown = true;
		}
		for (;;) {
			const lineStart = this.#lineWithFrom();
			if (lineStart === -1) {
				const last = this.#pending.lastIndexOf(this.#eol);
				this.#searched = ended ? this.#pending.length : Math.max(this.#searched, last + 1);
				this.#needed = this.#afterLongLine();
				return messages;
			}
			this.#searched = lineStart;
			const lineEnd = this.#pending.indexOf(this.#eol, lineStart);
			if (lineEnd === -1 && !ended) {
				this.#needed = this.#afterLongLine();
				return messages;
			}
			const next = lineEnd === -1 ? this.#pending.length : lineEnd + 1;
			const verdict = lineStart >= this.#trustedUntil ? this.#judge(lineStart, next, ended) : 'text';
			if (verdict === 'wait') return messages;
			if (verdict === 'separator') {
				if (lineStart > 0) messages.push(this.#take(lineStart, lineStart));
				this.#open = true;
				this.#searched = next - lineStart;
				continue;
			}
			this.#searched = next;
		}
	}

	/* A line of many megabytes is searched again after it has grown by half, not with every chunk. */
	#afterLongLine(): number {
		const line = this.#pending.length - this.#searched;
		return line > LONG_LINE ? this.#pending.length + (line >> 1) : 0;
	}

	/** Offset of the next line that begins with `From `; -1 if there is none. */
	#lineWithFrom(): number {
		const bytes = this.#pending;
		for (let from = this.#searched; ;) {
			const at = this.#find(bytes, 'From ', from);
			if (at <= 0 || bytes[at - 1] === this.#eol) return at;
			if (bytes[at - 1] === GREATER) this.#quoted = true;
			from = at + 1;
		}
	}

	/** Whether the line before another is blank. */
	#isBehindBlank(lineStart: number): boolean {
		const before = lineStart - 1 - (this.#eol === LF && this.#pending[lineStart - 2] === CR ? 1 : 0);
		return before <= 0 || this.#pending[before - 1] === this.#eol;
	}

	#judge(lineStart: number, next: number, ended: boolean): 'separator' | 'text' | 'wait' {
		const followingEnd = this.#pending.indexOf(this.#eol, next);
		if (followingEnd === -1 && !ended) return 'wait';
		const following = latin1.decode(
			this.#pending.subarray(next, Math.min(followingEnd === -1 ? this.#pending.length : followingEnd, next + 1_000))
		);
		const line = latin1.decode(this.#pending.subarray(lineStart, Math.min(next, lineStart + 1_000)));
		if (!isSeparator(line, this.#isBehindBlank(lineStart), following)) return 'text';
		if (lineStart === 0 || !this.#open) return 'separator';
		const claimed = this.#claimedEnd();
		if (claimed === undefined || claimed <= lineStart) return 'separator';
		if (claimed + 3 > this.#pending.length && !ended) {
			this.#needed = claimed + 3;
			return 'wait';
		}
		if (!this.#endsAt(claimed)) return 'separator';
		this.#trustedUntil = claimed;
		return 'text';
	}

	/**
	 * Whether a header line of the open message begins like a Content-Length; most messages have none and need no
	 * parsing.
	 */
	#mayClaim(): boolean {
		const bytes = this.#pending;
		for (let at = 0; at < bytes.length; at = nextLine(bytes, at, bytes.length, this.#eol)) {
			if (bytes[at] === this.#eol || (bytes[at] === CR && bytes[at + 1] === this.#eol)) return false;
			if (
				((bytes[at] as number) | 32) === SMALL_C &&
				/^content-length/i.test(latin1.decode(bytes.subarray(at, at + 14)))
			)
				return true;
		}
		return false;
	}

	/** The end of the open message by its Content-Length. */
	#claimedEnd(): number | undefined {
		if (!this.#mayClaim()) return undefined;
		const header = readHeader(this.#pending, 0, this.#pending.length, this.#eol);
		const length = Number(fieldValue(header, 'content-length') ?? NaN);
		return Number.isSafeInteger(length) && length >= 0 && length <= LONGEST_CLAIM
			? header.bodyStart + length
			: undefined;
	}

	/** Whether a message can end at this offset: the file ends, or a blank line and a `From ` line follow. */
	#endsAt(at: number): boolean {
		let behind = at;
		while (
			behind < this.#pending.length &&
			behind < at + 2 &&
			(this.#pending[behind] === LF || this.#pending[behind] === CR)
		)
			behind++;
		return behind === this.#pending.length || (at <= this.#pending.length && isAt(this.#pending, behind, 'From '));
	}

	/** Takes the first `end` pending bytes as one message. */
	#take(end: number, keepFrom: number): MboxMessage {
		const whole = this.#pending.subarray(0, end);
		let start = 0;
		let date: Instant | undefined;
		if (this.#open) {
			const lineEnd = whole.indexOf(this.#eol);
			start = lineEnd === -1 ? whole.length : lineEnd + 1;
			date = envelopeDate(latin1.decode(whole.subarray(0, Math.min(start, 1_000))));
		}
		const body = whole.slice(start, this.#behindMessage(whole, start));
		const message: MboxMessage = {
			bytes: this.#trustedUntil > 0 || !this.#quoted ? body : restoreQuoted(body, true, this.#eol),
			start: this.#offset,
			end: this.#offset + keepFrom,
			envelopeDate: date,
			preamble: !this.#open
		};
		this.#pending = this.#pending.subarray(keepFrom);
		this.#offset += keepFrom;
		this.#searched = 0;
		this.#needed = 0;
		this.#trustedUntil = 0;
		this.#quoted = false;
		return message;
	}

	/** The end of the message, without the blank line before the next. */
	#behindMessage(whole: Uint8Array, start: number): number {
		const breakLength = (end: number) => {
			if (end <= start || whole[end - 1] !== this.#eol) return 0;
			return this.#eol === LF && end - 1 > start && whole[end - 2] === CR ? 2 : 1;
		};
		const last = breakLength(whole.length);
		return last > 0 && breakLength(whole.length - last) > 0 ? whole.length - last : whole.length;
	}
}
