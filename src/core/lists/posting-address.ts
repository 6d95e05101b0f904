import { fieldValue, fieldValues, type Header } from '../message/header.ts';
import { readMailto } from './mailto.ts';
import { readListAddresses } from './ways.ts';

/*
 * Lists say in many ways to which address one writes. RFC 2369 has a field for it; the others are common practice of the
 * programs that run lists.
 */

const ADDRESS = /[^\s<>,;:"]+@[^\s<>,;:"]+/;
/* What stands behind the name of a list in the addresses of those who run it. */
const BEHIND = /-(request|help|owner|admin|bounces?|errors?|subscribe|unsubscribe|leave|join|on|off|faq|digest)$/i;
const BEFORE = /^(owner|request|bounces?|errors?)-/i;

const addressIn = (text: string | undefined) => ADDRESS.exec(text ?? '')?.[0] ?? '';

/* `crew-help@lists.example` and `owner-crew@lists.example` are of the list `crew@lists.example`. */
function listOf(address: string): string {
	const [local = '', domain = ''] = address.split('@');
	// an address for one recipient alone has theirs in it
	const plain = local.replace(/[+=].*$/, '');
	const name = plain.replace(BEHIND, '').replace(BEFORE, '');
	return name !== plain && name !== '' && domain !== '' ? `${name}@${domain}` : '';
}

const mailtoIn = (field: string | undefined) =>
	readListAddresses(field ?? '')
		.map((item) => readMailto(item)?.to ?? '')
		.find((to) => to !== '') ?? '';

/* `list crew@lists.example; contact crew-owner@lists.example`, or `contact crew-help@lists.example; run by ezmlm`. */
function ofMailingList(field: string | undefined): string {
	const list = /\blist\s+(\S+@[^\s;,]+)/i.exec(field ?? '')?.[1];
	return list ?? listOf(/\bcontact\s+(\S+@[^\s;,]+)/i.exec(field ?? '')?.[1] ?? '');
}

/** Whether a header says that nobody may write to the list (RFC 2369 section 3.4). */
export const isClosedToPosts = (header: Header): boolean => /^\s*no\b/i.test(fieldValue(header, 'list-post') ?? '');

/**
 * The address of a discussion, by a field that only discussions have; '': the header has none of them.
 *
 * @see RFC 2369 section 3.4; `X-Mailing-List`, `X-BeenThere`, `Mailing-List` and `Delivered-To: mailing list` are common practice
 */
export function postingAddress(header: Header): string {
	const field = (name: string) => fieldValue(header, name);
	return (
		mailtoIn(field('list-post')) ||
		addressIn(field('x-mailing-list')) ||
		ofMailingList(field('mailing-list')) ||
		addressIn(field('x-beenthere')) ||
		addressIn(fieldValues(header, 'delivered-to').find((value) => /^\s*mailing list\b/i.test(value)))
	).slice(0, 250);
}

/** The address of a list by the addresses of those who run it, where it has none of its own; '': they do not say. */
export function managedAddress(header: Header): string {
	const managed = ['list-help', 'list-owner', 'list-subscribe', 'list-unsubscribe']
		.map((name) => listOf(mailtoIn(fieldValue(header, name))))
		.find((address) => address !== '');
	if (managed !== undefined) return managed;
	return (
		['sender', 'errors-to', 'return-path']
			.map((name) => listOf(addressIn(fieldValue(header, name))))
			.find((address) => address !== '') ?? ''
	);
}
