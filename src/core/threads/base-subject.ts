/** A subject without its reply and forward marks. */
export interface BaseSubject {
	/** In upper case, as case does not count; empty if nothing is left. */
	base: string;
	/** Whether a reply or forward mark was removed. */
	isReply: boolean;
}

const TRAILER = /(?:\(fwd\)|\s)$/i;
const BLOB = String.raw`\[[^[\]]*\]\s*`;
const LEADER = new RegExp(String.raw`^(?:${BLOB})*(?:re|fwd?)\s*(?:${BLOB})?:`, 'i');
const LEADING_BLOB = new RegExp(`^${BLOB}`);
/* What programs write where there is no subject: common practice, from memory. It says as little as an empty one. */
const NO_SUBJECT =
	/^\(?(?:no subject|no topic|kein betreff|ohne betreff|sans objet|sin asunto|nessun oggetto|senza oggetto|geen onderwerp|sem assunto|inget ämne|uten emne|intet emne)\)?$/i;
const FORWARDED = /^\[fwd:(.*)\]$/is;

function withoutTrailers(text: string): { rest: string; marked: boolean } {
	let rest = text;
	let marked = false;
	for (let found = TRAILER.exec(rest); found; found = TRAILER.exec(rest)) {
		marked ||= found[0].length > 1;
		rest = rest.slice(0, found.index);
	}
	return { rest, marked };
}

function withoutLeaders(text: string): { rest: string; marked: boolean } {
	let rest = text.trimStart();
	let marked = false;
	for (;;) {
		const leader = LEADER.exec(rest);
		const blob = leader ? null : LEADING_BLOB.exec(rest);
		const found = leader ?? (blob && blob[0].length < rest.length ? blob : null);
		if (!found) return { rest, marked };
		marked ||= leader !== null;
		rest = rest.slice(found[0].length).trimStart();
	}
}

/* `Fares in winter (was: Timetable)`: what the thread was called before (common practice). */
const WAS = /[([]\s*was\s*(?::|\s)\s*([^()[\]]{1,500})[)\]]\s*$/i;

/** The base subject that a subject names as its former one; undefined: it names none. */
export function formerSubject(subject: string): string | undefined {
	const { base } = baseSubject(WAS.exec(subject)?.[1] ?? '');
	return base === '' ? undefined : base;
}

/**
 * The base subject, by which threads are joined.
 *
 * @param subject decoded and unfolded
 * @see RFC 5256 section 2.1
 */
export function baseSubject(subject: string): BaseSubject {
	let text = subject.replace(/\s+/g, ' ');
	let isReply = false;
	for (;;) {
		const ended = withoutTrailers(text);
		const begun = withoutLeaders(ended.rest);
		isReply ||= ended.marked || begun.marked;
		const forwarded = FORWARDED.exec(begun.rest);
		if (!forwarded) return { base: NO_SUBJECT.test(begun.rest) ? '' : begun.rest.toUpperCase(), isReply };
		isReply = true;
		text = forwarded[1] ?? '';
	}
}
