import { type CalendarDate, showDate } from '../calendar.ts';
import { termsWords } from './sentences.ts';
import { readTerms } from './terms.ts';

/** What a certificate says of the destruction as a whole. */
export interface CertificateHead {
	id: number;
	docketId: number;
	mailbox: string;
	/** ISO 8601 instant in UTC. */
	madeAt: string;
	/** Who decided it, and who carried it out. */
	decidedBy: string;
	madeBy: string;
	messages: number;
	bytes: number;
}

/** What a certificate says of one message. */
export interface CertificateLine {
	itemId: number;
	/** In hexadecimal digits. */
	sha256: string;
	bytes: number;
	receivedOn: string | null;
	/** On which day its period had ended; null where it was deleted. */
	dueOn: string | null;
	/** On which day it was deleted; null where it was due, or that was not noted yet. */
	binnedOn: string | null;
	/** Code, version and authority of the series; empty where there was none. */
	series: string;
	version: number | null;
	authority: string;
	/** What it was due under (core/retention/terms); empty where it was deleted. */
	terms: string;
	/** The same in words, and what happened to it. */
	because: string;
	/** Empty where the policy says that only the hash is kept. */
	from: string;
	subject: string;
	/** Whether the same bytes were still needed somewhere else. */
	isElsewhere: boolean;
}

/** Text of the head of a certificate, the first that is hashed. */
export function certificateHeadText(head: CertificateHead): string {
	const { id, docketId, mailbox, madeAt, decidedBy, madeBy, messages, bytes } = head;
	return `${JSON.stringify([id, docketId, mailbox, madeAt, decidedBy, madeBy, messages, bytes])}\n`;
}

/**
 * Why a message was destroyed, and what had happened to it: "deleted on 4 Mar 2026, destroyed from the bin on 25 Nov 2026".
 *
 * @param destroyedOn the day of the certificate
 */
export function becauseWords(
	{ terms, binnedOn }: Pick<CertificateLine, 'terms' | 'binnedOn'>,
	destroyedOn: CalendarDate
): string {
	if (terms !== '') return termsWords(readTerms(terms));
	return binnedOn === null
		? `deleted, destroyed from the bin on ${showDate(destroyedOn)}`
		: `deleted on ${showDate(binnedOn)}, destroyed from the bin on ${showDate(destroyedOn)}`;
}

/* What is sealed never changes with how things are said: these are the words of the first certificates. */
const sealedWords = (terms: string) =>
	terms === ''
		? 'deleted, and had its days in the bin'
		: termsWords(readTerms(terms)).replace('reviewed by a person', 'looked at by a person');

/**
 * Text of one line of a certificate as it is sealed. They are hashed in the order of their items. It stays as it is, whatever the
 * page says in other words: certificates that were given out would not be genuine any more.
 */
export function certificateLineText(line: CertificateLine): string {
	const { itemId, sha256, bytes, receivedOn, dueOn, series, version, authority, terms, from, subject, binnedOn } = line;
	const sealed = [
		itemId,
		sha256,
		bytes,
		receivedOn,
		dueOn,
		series,
		version,
		authority,
		sealedWords(terms),
		from,
		subject
	];
	return `${JSON.stringify([...sealed, line.isElsewhere, ...(binnedOn === null ? [] : [binnedOn])])}\n`;
}
