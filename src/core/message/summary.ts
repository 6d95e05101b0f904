import { foldWord, wordsOf } from '../search/words.ts';
import { type Address, readAddresses } from './addresses.ts';
import { isToMany, listIdentity } from '../lists/identity.ts';
import { findOffer } from '../lists/offers.ts';
import { readWays, wayBit } from '../lists/ways.ts';
import type { CalendarDate } from '../calendar.ts';
import { baseSubject } from '../threads/base-subject.ts';
import {
	attachedMessagesText,
	type AttachmentInfo,
	attachments,
	calendarText,
	type Body,
	readBody,
	textOfHtml
} from './body.ts';
import { type Instant, parseDate, parseReceived } from './date.ts';
import { decodeUnstructured, fieldValue, fieldValues, type Header } from './header.ts';
import { eventEnd, type MailKind, mailKind, readTraits } from './mail-kind.ts';
import { divideText } from './quoted.ts';
import { scanStructure } from './structure.ts';

/** The flags of a message in the mailbox it came from. */
export interface Flags {
	/** Undefined if the source does not say. */
	seen: boolean | undefined;
	answered: boolean;
	flagged: boolean;
	draft: boolean;
}

/**
 * The version of this reading, raised whenever the same bytes are read differently than before; mail read by an
 * earlier one is then read again (mail/reread-mail).
 */
export const READING = 5;

/** Everything stored about a message beside its bytes, from which all of it can be computed again. */
export interface MessageSummary {
	/** With its angle brackets, as in the message; empty if there is none. */
	messageId: string;
	/** Message-IDs by which it is threaded: of References, oldest first, else the first of In-Reply-To (RFC 5256 section 3). */
	references: string[];
	subject: string;
	/** Without reply and forward marks (RFC 5256 section 2.1). */
	baseSubject: string;
	/** Whether the subject has such marks. */
	isReply: boolean;
	from: Address;
	to: Address[];
	cc: Address[];
	/** The Date field. */
	sentAt: Instant | undefined;
	/** The topmost Received field. */
	receivedAt: Instant | undefined;
	/** Its list (core/lists/identity); empty if it is from none. */
	listId: string;
	/** The list's name; empty if unknown. */
	listName: string;
	/** The organisation that runs the list. */
	listOrganisation: string;
	/** The ways to unsubscribe: bits of core/lists/ways. */
	leaveWays: number;
	mailKind: MailKind;
	/** Bits of core/message/mail-kind. */
	traits: number;
	/** When the message expires, by its sender (RFC 4021 Expires, RFC 2156 Expiry-Date). */
	expiresAt: Instant | undefined;
	/** The last day of the event in its calendar. */
	eventEndsOn: CalendarDate | undefined;
	/** 1 important, 0 ordinary, -1 unimportant. */
	importance: number;
	attachments: AttachmentInfo[];
	ownText: string;
	quotedText: string;
	flags: Flags;
	/** Oddities of the message, as named in {@link ODDITIES}; empty for a sound one. */
	oddities: Oddity[];
}

/** Faults of a message that can be read all the same. */
export const ODDITIES = {
	'no-sender': 'has no sender',
	'no-date': 'has no date',
	'date-in-doubt': 'has a date that cannot be true'
} as const;
export type Oddity = keyof typeof ODDITIES;

const MESSAGE_ID = /<[^<>\s]{1,990}>/g;

function messageIds(value: string | undefined): string[] {
	return value?.slice(0, 64_000).match(MESSAGE_ID)?.slice(0, 500) ?? [];
}

/**
 * The flags in the Status and X-Status fields that programs write into mbox files (common practice: R read, O old,
 * A answered, F flagged, T draft).
 */
function readFlags(header: Header): Flags {
	const status = fieldValue(header, 'status');
	const more = fieldValue(header, 'x-status') ?? '';
	const known = status !== undefined && /^[ROUN]*$/i.test(status.trim());
	return {
		seen: known ? /R/i.test(status) : undefined,
		answered: /A/.test(more),
		flagged: /F/.test(more),
		draft: /T/.test(more)
	};
}

/**
 * The importance set by the sender: Importance and Priority (RFC 4021), X-Priority (common practice: 1 and 2 high).
 */
function readImportance(header: Header): number {
	const importance = (fieldValue(header, 'importance') ?? fieldValue(header, 'priority') ?? '').trim().toLowerCase();
	const number = Number.parseInt(fieldValue(header, 'x-priority') ?? '', 10);
	if (['high', 'urgent'].includes(importance) || number === 1 || number === 2) return 1;
	if (['low', 'non-urgent'].includes(importance) || number === 4 || number === 5) return -1;
	return 0;
}

/** Whether these bytes are a message: they need at least one header field of mail. */
export function isMessage(header: Header): boolean {
	const known =
		/^(from|to|cc|bcc|subject|date|message-id|received|return-path|sender|reply-to|mime-version|content-type|delivered-to|resent-.+|list-.+|references|in-reply-to|x-.+)$/i;
	return header.fields.some((field) => known.test(field.name));
}

type ListRead = Pick<MessageSummary, 'listId' | 'listName' | 'listOrganisation' | 'leaveWays'>;
const NO_LIST: ListRead = { listId: '', listName: '', listOrganisation: '', leaveWays: 0 };

/*
 * The header marks bulk mail; if it is silent, an unsubscribe footer in a message of its own does. Answers and
 * forwards carry footers of others.
 */
function readList(
	header: Header,
	about: { from: Address; kind: MailKind; isAnswer: boolean; own: string; html: string | undefined }
): ListRead {
	const toMany = isToMany(header);
	if (!toMany && about.isAnswer) return NO_LIST;
	const ways = toMany ? readWays(header, undefined) : [];
	const offer = ways.length === 0 ? findOffer(about.own, about.html) : undefined;
	if (!toMany && !offer) return NO_LIST;
	const { identifier, name, organisation } = listIdentity(header, about.from, about.kind);
	const bits = ways.reduce((sum, { kind }) => sum | wayBit(kind), offer ? wayBit('footer') : 0);
	return { listId: identifier, listName: name, listOrganisation: organisation, leaveWays: bits };
}

/*
 * Words that the HTML of a message has and its plain text has not: the index finds them as well. Alternatives are meant
 * to say the same (RFC 2046 section 5.1.4), and often do not.
 */
function wordsBeside({ text, html, isOfHtml }: Body): string {
	if (html === undefined || isOfHtml) return '';
	// mostly the same words: only those written otherwise are folded
	const written = new Set(wordsOf(text));
	const others = [...new Set(wordsOf(textOfHtml(html)))].filter((word) => !written.has(word));
	if (others.length === 0) return '';
	const known = new Set([...written].map(foldWord));
	return others.filter((word) => !known.has(foldWord(word))).join(' ');
}

/** Fields that tell from whom a message is, and when it was sent and received. */
export const ORIGIN_FIELDS = ['from', 'sender', 'date', 'received'] as const;

/** From whom a message is, and when it was sent and taken in by the last server (RFC 5322 section 3.6). */
export function readOrigin(header: Header): Pick<MessageSummary, 'from' | 'sentAt' | 'receivedAt'> {
	const field = (name: (typeof ORIGIN_FIELDS)[number]) => fieldValue(header, name);
	return {
		from: readAddresses(field('from'))[0] ?? readAddresses(field('sender'))[0] ?? { name: '', address: '' },
		sentAt: parseDate(field('date') ?? ''),
		receivedAt: parseReceived(field('received'))
	};
}

/**
 * Reads a message.
 *
 * @param bytes the message as received
 * @param root its structure, where it was found before
 * @returns undefined if the bytes are not a message at all, see {@link isMessage}
 */
export function summarise(bytes: Uint8Array, root = scanStructure(bytes)): MessageSummary | undefined {
	const { header } = root;
	if (!isMessage(header)) return undefined;
	const field = (name: string) => fieldValue(header, name);
	const body = readBody(bytes, root);
	const { own, quoted } = divideText(body.text);
	const attached = attachedMessagesText(bytes, root);
	const { from, sentAt, receivedAt } = readOrigin(header);
	const references = messageIds(field('references'));
	const subject = decodeUnstructured(field('subject') ?? '').slice(0, 2_000);
	const { base, isReply } = baseSubject(subject);
	const kind = mailKind(root, from.address, subject);
	const list = readList(root.header, {
		from,
		kind,
		isAnswer: isReply || references.length > 0 || field('in-reply-to') !== undefined || attached !== '',
		own,
		html: body.html
	});
	return {
		// as written, blanks included: other messages refer to it so
		messageId: /<[^<>]{1,990}>/.exec(field('message-id') ?? '')?.[0] ?? '',
		references: references.length > 0 ? references : messageIds(field('in-reply-to')).slice(0, 1),
		subject,
		baseSubject: base,
		isReply,
		from,
		to: fieldValues(header, 'to').flatMap(readAddresses),
		cc: fieldValues(header, 'cc').flatMap(readAddresses),
		sentAt,
		receivedAt,
		...list,
		// a sender who offers an unsubscribe writes to many, regardless of the header
		mailKind: kind === 'person' && list.listId !== '' ? 'advertisement' : kind,
		traits: readTraits(root, own, from.name, () =>
			body.html === undefined ? undefined : divideText(textOfHtml(body.html)).own
		),
		expiresAt: parseDate(field('expires') ?? field('expiry-date') ?? ''),
		eventEndsOn: eventEnd(calendarText(bytes, root)),
		importance: readImportance(header),
		attachments: attachments(root),
		ownText: own,
		quotedText: [quoted, attached, wordsBeside(body)].filter((text) => text !== '').join('\n'),
		flags: readFlags(header),
		oddities: [...(from.address ? [] : ['no-sender' as const]), ...(sentAt === undefined ? ['no-date' as const] : [])]
	};
}
