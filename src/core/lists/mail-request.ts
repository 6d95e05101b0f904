import { organisationOf } from '../message/addresses.ts';
import type { MailtoMessage } from './mailto.ts';

/** An unsubscribe message, as Kovrel sends it. */
export interface MailRequest {
	to: string;
	subject: string;
	text: string;
}

/** The recommended length of a line in characters (RFC 5322 section 2.1.1). */
const LONGEST_LINE = 78;
/** The word that every list manager understands (common practice). */
const PLAIN_WORD = 'unsubscribe';

/* A dot-string of RFC 5321 section 4.1.2 without the characters once used for routing and quoting. */
const LOCAL_PART = /^[a-z0-9_=+-]+(?:\.[a-z0-9_=+-]+)*$/i;
const LONGEST_LOCAL_PART = 64;
/* A public host name: several labels, the last one not numeric (RFC 1123 section 2.1). */
const DOMAIN = /^(?=.{4,253}$)(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z](?:[a-z0-9-]{0,61}[a-z0-9])?$/i;
/* Names of private networks and reserved names (RFC 6761, RFC 6762; the others by common practice). */
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

/** The recipient and the requester. */
export interface Asking {
	/** Address of the sender of the message that names the way. */
	sender: string;
	/** The organisation that runs the list. */
	organisation: string;
	/** The office's own domains: nobody there is written to at a stranger's word. */
	office: ReadonlySet<string>;
}

/**
 * The message a list asks for, if Kovrel may send it: to one plain public address outside the office, with one short
 * line or none. Only the list's own organisation gets the wording it asked for; everybody else gets the plain word.
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
