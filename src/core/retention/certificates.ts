import { type CalendarDate, showDate } from '../calendar.ts';
import { termsWords } from './sentences.ts';
import { readTerms } from './terms.ts';

/** The head of a certificate: the destruction as a whole. */
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
	/** What it reached beside this archive, in words; empty: there was nothing else. */
	reach: string;
}

/** The line of a certificate for one message. */
export interface CertificateLine {
	itemId: number;
	/** In hexadecimal digits. */
	sha256: string;
	bytes: number;
	receivedOn: string | null;
	/** The day on which its period ended; null if it was deleted. */
	dueOn: string | null;
	/** The day on which it was deleted; null if it was due, or the day was not stored yet. */
	binnedOn: string | null;
	/** Code, version and authority of the series; empty without one. */
	series: string;
	version: number | null;
	authority: string;
	/** The terms it was due under (core/retention/terms); empty if it was deleted. */
	terms: string;
	/** The same in words, and what happened to it. */
	because: string;
	/** Empty if the policy keeps only the hash. */
	from: string;
	subject: string;
	/** Whether another place still needed the same bytes. */
	isElsewhere: boolean;
}

/** Text of the head of a certificate, the first that is hashed. */
export function certificateHeadText(head: CertificateHead): string {
	const { id, docketId, mailbox, madeAt, decidedBy, madeBy, messages, bytes, reach } = head;
	// sealed text never changes: older certificates say nothing of it
	const also = reach === '' ? [] : [reach];
	return `${JSON.stringify([id, docketId, mailbox, madeAt, decidedBy, madeBy, messages, bytes, ...also])}\n`;
}

/**
 * Why a message was destroyed, and its history: "deleted on 4 Mar 2026, destroyed from the bin on 25 Nov 2026".
 *
 * @param destroyedOn the day of the certificate
 */
export function reasonWords(
	{ terms, binnedOn }: Pick<CertificateLine, 'terms' | 'binnedOn'>,
	destroyedOn: CalendarDate
): string {
	if (terms !== '') return termsWords(readTerms(terms));
	return binnedOn === null
		? `deleted, destroyed from the bin on ${showDate(destroyedOn)}`
		: `deleted on ${showDate(binnedOn)}, destroyed from the bin on ${showDate(destroyedOn)}`;
}

/* Sealed text never changes: these are the words of the first certificates. */
const sealedWords = (terms: string) =>
	terms === ''
		? 'deleted, and had its days in the bin'
		: termsWords(readTerms(terms)).replace('reviewed by a person', 'looked at by a person');

/**
 * One line of a certificate as it is sealed. Lines are hashed in the order of their items. The wording is fixed,
 * whatever words the page uses, or certificates already issued would no longer verify.
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
