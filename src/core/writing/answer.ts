import type { Address } from '../message/addresses.ts';
import { quoteText } from './flowed.ts';

/** How a mail begins. */
export const WRITING_KINDS = ['new', 'reply', 'reply-all', 'forward'] as const;
export type WritingKind = (typeof WRITING_KINDS)[number];

/** A message that is answered or forwarded. */
export interface Original {
	/** Message-ID with its angle brackets; empty: it has none. */
	messageId: string;
	/** The identifiers of its References field, or of its In-Reply-To, with their brackets. */
	references: readonly string[];
	subject: string;
	from: readonly Address[];
	replyTo: readonly Address[];
	to: readonly Address[];
	cc: readonly Address[];
	/** When it was sent, in words. */
	sent: string;
	text: string;
}

/** The beginnings of a mail, for a person to go on with. */
export interface Beginning {
	from: string;
	to: Address[];
	cc: Address[];
	subject: string;
	text: string;
	inReplyTo: string;
	references: string[];
}

/* A header of references stays of a size that every server takes: the first and the last ones (RFC 5537 section 3.4.4). */
const MOST_REFERENCES = 21;

/* A hostile message writes anything into its identifier: only what fits into one line of a header goes out again. */
const isMessageId = (id: string) => /^<[^\s<>\p{Cc}]{1,900}>$/u.test(id);

/**
 * The identifiers of the References field of an answer.
 *
 * @see RFC 5322 section 3.6.4
 */
function answerReferences({ messageId, references }: Pick<Original, 'messageId' | 'references'>): string[] {
	const all = [...references.filter((id) => id !== messageId), messageId].filter(isMessageId);
	return all.length <= MOST_REFERENCES ? all : [all[0] as string, ...all.slice(1 - MOST_REFERENCES)];
}

const MARKED_AS_REPLY = /^\s*re\s*:/i;
const MARKED_AS_FORWARD = /^\s*fwd?\s*:/i;

/** The subject of an answer: one "Re: ", whatever stood there before (RFC 5322 section 3.6.5). */
function answerSubject(subject: string): string {
	return MARKED_AS_REPLY.test(subject) ? subject.trim() : `Re: ${subject.trim()}`.trim();
}

const forwardSubject = (subject: string) =>
	MARKED_AS_FORWARD.test(subject) ? subject.trim() : `Fwd: ${subject.trim()}`.trim();

function withoutDoubles(addresses: readonly Address[], without: ReadonlySet<string>): Address[] {
	const seen = new Set(without);
	return addresses.filter(({ address }) => address !== '' && !seen.has(address) && seen.add(address));
}

const nameOf = ({ name, address }: Address) => (name ? `${name} <${address}>` : address);

function signed(text: string, signature: string): string {
	return signature.trim() === '' ? text : `${text}\n\n-- \n${signature.trimEnd()}`;
}

/* The head of a forwarded message, as its reader sees who wrote it to whom. */
function forwardedHead({ from, to, cc, subject, sent }: Original): string {
	return [
		`From: ${from.map(nameOf).join(', ')}`,
		`To: ${to.map(nameOf).join(', ')}`,
		...(cc.length > 0 ? [`Cc: ${cc.map(nameOf).join(', ')}`] : []),
		`Date: ${sent}`,
		`Subject: ${subject}`
	].join('\n');
}

/**
 * How a mail begins: an answer goes to whom the original names for answers (RFC 5322 section 3.6.2), from the address to
 * which it was sent, and never to the mailbox itself.
 *
 * @param own addresses of the mailbox, the first of which is its usual one
 */
export function beginWriting(
	kind: WritingKind,
	original: Original | undefined,
	own: readonly string[],
	signature: string
): Beginning {
	const from = original?.to.concat(original.cc).find(({ address }) => own.includes(address))?.address ?? own[0] ?? '';
	const fresh: Beginning = {
		from,
		to: [],
		cc: [],
		subject: '',
		text: signed('', signature),
		inReplyTo: '',
		references: []
	};
	if (!original || kind === 'new') return fresh;
	const wrote = original.from.map(({ name, address }) => name || address).join(', ') || 'somebody';
	if (kind === 'forward')
		return {
			...fresh,
			subject: forwardSubject(original.subject),
			text: `${signed('', signature)}\n\nForwarded message\n${quoteText(`${forwardedHead(original)}\n\n${original.text}`)}\n`,
			// a forwarded message stands in its thread, and answers nothing
			references: answerReferences(original)
		};
	const mine = new Set(own);
	const wanted = original.replyTo.length > 0 ? original.replyTo : original.from;
	// an answer to one's own mail goes to whom that went
	const isOwn = wanted.length > 0 && wanted.every(({ address }) => mine.has(address));
	const to = withoutDoubles(isOwn ? original.to : wanted, mine);
	const others =
		kind === 'reply-all' ? withoutDoubles(original.to, new Set([...mine, ...to.map((a) => a.address)])) : [];
	const everybody = [...to, ...others];
	const cc =
		kind === 'reply-all'
			? withoutDoubles(original.cc, new Set([...mine, ...everybody.map(({ address }) => address)]))
			: [];
	return {
		...fresh,
		to: everybody,
		cc,
		subject: answerSubject(original.subject),
		text: signed(
			`\n\n${original.sent ? `On ${original.sent} ` : ''}${wrote} wrote:\n${quoteText(original.text)}`,
			signature
		),
		inReplyTo: isMessageId(original.messageId) ? original.messageId : '',
		references: answerReferences(original)
	};
}
