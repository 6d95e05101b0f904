import { organisationOf } from '../message/addresses.ts';
import { decodeUnstructured, fieldValue, type Header } from '../message/header.ts';
import type { MailKind } from '../message/mail-kind.ts';
import { readListAddresses } from './ways.ts';
import { readMailto } from './mailto.ts';

/** Which list a message is from. */
export interface ListIdentity {
	/** What one list has and no other: see {@link listIdentity}. */
	identifier: string;
	/** How people call it. */
	name: string;
	/** The organisation behind it. */
	organisation: string;
}

/* Fields that only mail to many has. Feedback-ID and X-Mailing-List by common practice. */
const BULK_FIELDS =
	/^(list-(id|unsubscribe|post|help|subscribe|owner|archive)|mailing-list|x-mailing-list|feedback-id)$/i;

/**
 * Whether a header says that its message went to many (RFC 2369, RFC 2919; Precedence by common practice, save where a machine
 * answers one person: it says "bulk" only so that no other machine answers it, RFC 3834 section 3.1.8).
 */
export function isToMany(header: Header): boolean {
	if (header.fields.some(({ name }) => BULK_FIELDS.test(name))) return true;
	const answers = /^\s*auto-replied\b/i.test(fieldValue(header, 'auto-submitted') ?? '');
	return !answers && /^\s*(bulk|list|junk)\s*$/i.test(fieldValue(header, 'precedence') ?? '');
}

/* An address as an identifier: the same as many lists have for a List-Id. */
const dotted = (address: string) => address.replace('@', '.').toLowerCase();

/* Issues are counted, dated and sent from numbered addresses; the list stays the same. */
const withoutNumbers = (text: string) =>
	text
		.toLowerCase()
		.replace(/[\d#_.+-]+/g, ' ')
		.replace(/\s+/g, ' ')
		.trim();

/**
 * Which list a message is from: by its List-Id (RFC 2919); without one, by the address that it is posted to; else by the
 * name of its sender within one organisation, so that a list that writes from several addresses is one list.
 *
 * @param from the sender
 * @param kind what sort of mail it is: a discussion belongs to whom its list belongs, what is only sent to its sender
 */
export function listIdentity(header: Header, from: { name: string; address: string }, kind: MailKind): ListIdentity {
	const field = fieldValue(header, 'list-id') ?? '';
	const listId = /<([^<>]{1,255})>/.exec(field)?.[1]?.trim().toLowerCase() ?? '';
	const name = decodeUnstructured(field.split('<')[0] ?? '')
		.replace(/^[\s"]+|[\s"]+$/g, '')
		.slice(0, 200);
	const posted =
		readMailto(readListAddresses(fieldValue(header, 'list-post') ?? '')[0] ?? '')?.to ??
		/[^\s<>]+@[^\s<>]+/.exec(fieldValue(header, 'x-mailing-list') ?? '')?.[0] ??
		'';
	const sender = organisationOf(from.address);
	if (listId !== '') {
		const own = organisationOf(`@${listId}`);
		// `localhost` is nobody's (RFC 2919 section 3)
		const isManaged = own.includes('.') && !listId.endsWith('.localhost');
		return { identifier: listId, name, organisation: kind === 'list' && isManaged ? own : sender || own };
	}
	if (posted !== '' && posted.length < 250)
		return { identifier: dotted(posted), name: '', organisation: organisationOf(posted) || sender };
	const local = from.address.split('@')[0] ?? '';
	const called = withoutNumbers(from.name) || withoutNumbers(local) || 'unnamed';
	// blanks and brackets: no List-Id looks like this
	return { identifier: `${called.slice(0, 150)} <${sender}>`, name: from.name || from.address, organisation: sender };
}
