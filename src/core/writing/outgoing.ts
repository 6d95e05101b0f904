import { readAddresses } from '../message/addresses.ts';

const MOST_RECIPIENTS = 100;
const LONGEST_SUBJECT = 500;
const LONGEST_TEXT = 1_000_000;

/* A mailbox name and a domain of letters, digits and hyphens (RFC 5321 section 4.1.2, the common part of it). */
const ADDRESS =
	/^[^\s@<>()[\]\\,;:"\p{Cc}]{1,64}@(?:[\p{L}\p{N}](?:[\p{L}\p{N}-]{0,61}[\p{L}\p{N}])?\.)+[\p{L}\p{N}-]{2,63}$/u;
const CONTROL = /\p{Cc}/u;

/** A recipient of a mail. */
export interface Recipient {
	name: string;
	address: string;
}

/** A list of recipients as typed, or what is wrong with it. */
export function readRecipients(typed: string): { recipients: Recipient[]; wrong: string | undefined } {
	const nothing = (wrong: string) => ({ recipients: [], wrong });
	if (CONTROL.test(typed)) return nothing('An address stands in one line');
	const found = readAddresses(typed.replaceAll(';', ','));
	const bad = found.find(({ address }) => !ADDRESS.test(address));
	if (bad) return nothing(`"${bad.address || bad.name}" is no address`);
	if (found.length > MOST_RECIPIENTS) return nothing(`A mail goes to ${MOST_RECIPIENTS} people at most`);
	return {
		recipients: found.filter(({ address }, at) => found.findIndex((one) => one.address === address) === at),
		wrong: undefined
	};
}

/** Recipients as they are typed. */
export function showRecipients(recipients: readonly Recipient[]): string {
	return recipients
		.map(({ name, address }) => {
			if (!name) return address;
			return `${/[^\p{L}\p{N} .'-]/u.test(name) ? `"${name.replace(/["\\]/g, '')}"` : name} <${address}>`;
		})
		.join(', ');
}

/** A mail as it is written. */
export interface Written {
	from: string;
	to: string;
	cc: string;
	subject: string;
	text: string;
}

/**
 * What is wrong with a mail before it goes, as a sentence without its full stop; undefined: nothing.
 *
 * @param own addresses from which the mailbox may send
 */
export function wrongMail({ from, to, cc, subject, text }: Written, own: readonly string[]): string | undefined {
	if (!own.includes(from)) return 'A mail goes from an address of its mailbox: set one on the page Weigh';
	const [toWhom, copies] = [readRecipients(to), readRecipients(cc)];
	if (toWhom.wrong ?? copies.wrong) return toWhom.wrong ?? copies.wrong;
	if (toWhom.recipients.length === 0) return 'Name a recipient';
	if (CONTROL.test(subject)) return 'A subject stands in one line';
	if (subject.length > LONGEST_SUBJECT) return `A subject has ${LONGEST_SUBJECT} letters at most`;
	if (text.length > LONGEST_TEXT) return 'The text is longer than a million letters';
	return undefined;
}

/** What became of a mail that is not known to have gone, without its full stop. */
export const unsentWords = ({ isUnknown, said }: { isUnknown: boolean; said: string }): string =>
	`${isUnknown ? 'It is not known whether it went' : 'It was not sent'}: ${said}`;
