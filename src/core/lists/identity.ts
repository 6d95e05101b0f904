import { organisationOf } from '../message/addresses.ts';
import { decodeUnstructured, fieldValue, type Header } from '../message/header.ts';
import type { MailKind } from '../message/mail-kind.ts';
import { managedAddress, postingAddress } from './posting-address.ts';

/** The list of a message. */
export interface ListIdentity {
	/** The identifier, unique to one list: see {@link listIdentity}. */
	identifier: string;
	/** Its usual name. */
	name: string;
	/** The organisation that runs the list. */
	organisation: string;
}

/* Fields that only bulk mail has. Those beside RFC 2369 and RFC 2919 are common practice. */
const BULK_FIELDS =
	/^(list-(id|unsubscribe|post|help|subscribe|owner|archive)|mailing-list|x-mailing-list|x-beenthere|feedback-id)$/i;

/**
 * Whether a header marks bulk mail (RFC 2369, RFC 2919; Precedence by common practice, except in an automatic answer
 * to one person, which says "bulk" only to silence other machines, RFC 3834 section 3.1.8).
 */
export function isToMany(header: Header): boolean {
	if (header.fields.some(({ name }) => BULK_FIELDS.test(name))) return true;
	const answers = /^\s*auto-replied\b/i.test(fieldValue(header, 'auto-submitted') ?? '');
	return !answers && /^\s*(bulk|list|junk)\s*$/i.test(fieldValue(header, 'precedence') ?? '');
}

/* An address as an identifier, in the form that many lists use for a List-Id. */
const dotted = (address: string) => address.replace('@', '.').toLowerCase();

/* Issues carry counters, dates and numbered addresses; the list stays the same. */
const withoutNumbers = (text: string) =>
	text
		.toLowerCase()
		.replace(/[\d#_.+-]+/g, ' ')
		.replace(/\s+/g, ' ')
		.trim();

/**
 * The list of a message: by its List-Id (RFC 2919), else by the address one writes to, else by the name of its
 * sender within one organisation, so that a list with several sender addresses is one list.
 *
 * @param from the sender
 * @param kind the kind of mail: a discussion belongs to its list's organisation, one-way mail to its sender's
 */
export function listIdentity(header: Header, from: { name: string; address: string }, kind: MailKind): ListIdentity {
	const field = fieldValue(header, 'list-id') ?? '';
	const listId = /<([^<>]{1,255})>/.exec(field)?.[1]?.trim().toLowerCase() ?? '';
	const name = decodeUnstructured(field.split('<')[0] ?? '')
		.replace(/^[\s"]+|[\s"]+$/g, '')
		// lists that take their name from a web page send it so (common practice)
		.replaceAll('&amp;', '&')
		.slice(0, 200);
	// whoever writes in a discussion, it is one list
	const posted = postingAddress(header) || (kind === 'list' ? managedAddress(header) : '');
	const sender = organisationOf(from.address);
	if (listId !== '') {
		const own = organisationOf(`@${listId}`);
		// `localhost` belongs to nobody (RFC 2919 section 3)
		const isManaged = own.includes('.') && !listId.endsWith('.localhost');
		return { identifier: listId, name, organisation: kind === 'list' && isManaged ? own : sender || own };
	}
	if (posted !== '') return { identifier: dotted(posted), name: '', organisation: organisationOf(posted) || sender };
	const local = from.address.split('@')[0] ?? '';
	const called = withoutNumbers(from.name) || withoutNumbers(local) || 'unnamed';
	// blanks and brackets: no List-Id looks like this
	return { identifier: `${called.slice(0, 150)} <${sender}>`, name: from.name || from.address, organisation: sender };
}
