import { organisationOf } from '../message/addresses.ts';
import type { MailtoMessage } from './mailto.ts';

/** A mail that asks a list to stop, as Kovrel sends it. */
export interface MailRequest {
	to: string;
	subject: string;
	text: string;
}

/** What a line of a mail is recommended to be at most, in characters (RFC 5322 section 2.1.1). */
const LONGEST_LINE = 78;
/** The word that every list manager knows (common practice). */
const PLAIN_WORD = 'unsubscribe';

/* A dot-string of RFC 5321 section 4.1.2 without the characters by which mail was once routed on or quoted. */
const LOCAL_PART = /^[a-z0-9_=+-]+(?:\.[a-z0-9_=+-]+)*$/i;
const LONGEST_LOCAL_PART = 64;
/* A name of the public network: several labels, the last one no number (RFC 1123 section 2.1). */
const DOMAIN = /^(?=.{4,253}$)(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z](?:[a-z0-9-]{0,61}[a-z0-9])?$/i;
/* Names of networks of one's own, and those that lead nowhere (RFC 6761, RFC 6762; the others by common practice). */
const OWN_NETWORKS = [
	'localhost',
	'local',
	'localdomain',
	'internal',
	'intranet',
	'lan',
	'home',
	'corp',
	'arpa',
	'invalid',
	'test',
	'onion'
];

const isShortLine = (text: string) => text.length <= LONGEST_LINE && !/[\p{C}\u2028\u2029]/u.test(text);

/** Who is asked, and who asks. */
export interface Asking {
	/** Address of the sender of the message that says so. */
	sender: string;
	/** The organisation behind the list. */
	organisation: string;
	/** The office's own domains: nobody there is written to because a stranger's message says so. */
	office: ReadonlySet<string>;
}

/**
 * The mail that a list asks for, if it is one that Kovrel sends: to one plain address of the public network outside the office,
 * with one short line or none. What the list wants to be written goes to the list alone; to anybody else, the plain word does.
 *
 * @returns or why it is left to a person (invariant 19)
 */
export function mailRequest(
	message: MailtoMessage,
	{ sender, organisation, office }: Asking
): MailRequest | { why: string } {
	const { to, subject, body } = message;
	const at = to.lastIndexOf('@');
	const [local, domain] = [to.slice(0, at), to.slice(at + 1).toLowerCase()];
	if (!LOCAL_PART.test(local) || local.length > LONGEST_LOCAL_PART || !DOMAIN.test(domain))
		return { why: 'its address is not a plain one of the public network' };
	if (OWN_NETWORKS.includes(domain.split('.').at(-1) ?? '')) return { why: 'its address is one of a private network' };
	const theirs = organisationOf(to);
	if (office.has(theirs) || [...office].some((own) => domain === own || domain.endsWith(`.${own}`)))
		return { why: 'its address is one of the office' };
	if (!isShortLine(subject) || !isShortLine(body)) return { why: 'it wants more written than one short line' };
	const isOwn = theirs === organisationOf(sender) || theirs === organisation;
	if (!isOwn || (subject === '' && body === '')) return { to, subject: PLAIN_WORD, text: PLAIN_WORD };
	return { to, subject, text: body };
}
