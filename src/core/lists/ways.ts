import { fieldValue, fieldValues, type Header } from '../message/header.ts';
import type { Offer } from './offers.ts';
import { type MailtoMessage, readMailto } from './mailto.ts';

/** Ways to unsubscribe, the most trusted first; the order is that of the stored bits. */
const WAYS = ['one-click', 'mail', 'link', 'footer'] as const;
export type WayKind = (typeof WAYS)[number];

/** Each in words. */
export const WAY_NAMES: Record<WayKind, string> = {
	'one-click': 'one-click request',
	mail: 'mail',
	link: 'link, by hand',
	footer: 'footer, by hand'
};

/** A way to unsubscribe from a list. */
export type Way =
	| { kind: 'one-click'; url: string }
	| ({ kind: 'mail' } & MailtoMessage)
	| { kind: 'link'; url: string }
	| { kind: 'footer'; sentence: string; target: string };

/** The bit under which a way is stored. */
export function wayBit(kind: WayKind): number {
	return 1 << WAYS.indexOf(kind);
}

/** The ways behind stored bits, the most trusted first. */
export function waysOf(bits: number): WayKind[] {
	return WAYS.filter((kind) => (bits & wayBit(kind)) !== 0);
}

/** Whether Kovrel can use that way itself; the others need a person. */
export function isTakenByKovrel(kind: WayKind): boolean {
	return kind === 'one-click' || kind === 'mail';
}

/* A limit: the field comes from a hostile message. */
const LONGEST_FIELD = 8_000;
const MOST_TARGETS = 10;

/**
 * The addresses in a field of RFC 2369, in order: those in angle brackets, without blanks. Comments are skipped. A
 * field that begins with anything else has none; everything after an item that is no address is ignored.
 *
 * @see RFC 2369 section 2
 */
export function readListAddresses(field: string): string[] {
	const found: string[] = [];
	let rest = field.slice(0, LONGEST_FIELD);
	while (found.length < MOST_TARGETS) {
		const item = /^(?:\s|\([^()]*\))*<([^<>]*)>((?:\s|\([^()]*\))*,)?/.exec(rest);
		if (!item) break;
		found.push((item[1] ?? '').replace(/\s+/g, ''));
		if (item[2] === undefined) break;
		rest = rest.slice(item[0].length);
	}
	return found;
}

/** A web address in normal form; undefined if it is none, or carries a name and password. */
function webAddress(text: string): URL | undefined {
	if (text.length > 4_000 || !/^https?:\/\//i.test(text)) return undefined;
	try {
		const url = new URL(text);
		return url.username === '' && url.hostname !== '' ? url : undefined;
	} catch {
		return undefined;
	}
}

/* The tags of a DKIM signature (RFC 6376 section 3.2). */
function tags(signature: string): Map<string, string> {
	return new Map(
		signature.split(';').flatMap((tag): [string, string][] => {
			const [name = '', value = ''] = tag.split(/=([\s\S]*)/);
			return name.trim() === '' ? [] : [[name.trim(), value.replace(/\s+/g, '')]];
		})
	);
}

const COVERED = ['list-unsubscribe', 'list-unsubscribe-post'];

function coversBoth(signature: string): boolean {
	const found = tags(signature);
	const whole = ['a', 'b', 'bh', 'd', 'h', 's'].every((name) => (found.get(name) ?? '') !== '');
	const names = (found.get('h') ?? '').toLowerCase().split(':');
	return found.get('v') === '1' && whole && COVERED.every((name) => names.includes(name));
}

/* The result of the receiving server's signature check (RFC 8601): the topmost field is its own. */
function signatureFailed(header: Header): boolean {
	const results = fieldValue(header, 'authentication-results');
	if (results === undefined) return false;
	const said = [...results.matchAll(/\bdkim\s*=\s*([a-z]+)/gi)].map(([, word = '']) => word.toLowerCase());
	return said.length > 0 && !said.includes('pass');
}

/**
 * Whether one-click unsubscribing is allowed, or why not.
 *
 * The signature itself cannot be verified without the sender's key: the stored message shows whether there is one
 * that covers both fields, and what the receiving server found.
 *
 * @see RFC 8058 sections 3 and 4
 */
export function oneClick(header: Header): { url: string } | { why: string } {
	const posts = fieldValues(header, 'list-unsubscribe-post');
	if (posts.length === 0) return { why: 'the sender does not offer it' };
	if (posts.length > 1 || !/^list-unsubscribe=one-click$/i.test((posts[0] ?? '').trim()))
		return { why: 'its List-Unsubscribe-Post field is not as RFC 8058 asks' };
	const fields = fieldValues(header, 'list-unsubscribe');
	if (fields.length !== 1) return { why: 'there is not one List-Unsubscribe field' };
	const secure = readListAddresses(fields[0] ?? '')
		.map(webAddress)
		.find((url) => url?.protocol === 'https:');
	if (!secure) return { why: 'its address is not https' };
	if (!fieldValues(header, 'dkim-signature').some(coversBoth))
		return { why: 'no signature of the message covers both fields' };
	if (signatureFailed(header)) return { why: 'its signature did not hold when it was received' };
	return { url: secure.href };
}

/**
 * All ways to unsubscribe that a message names, the most trusted first.
 *
 * @param offer what its footer offers
 */
export function readWays(header: Header, offer: Offer | undefined): Way[] {
	const ways: Way[] = [];
	const click = oneClick(header);
	if ('url' in click) ways.push({ kind: 'one-click', url: click.url });
	const addresses = fieldValues(header, 'list-unsubscribe').flatMap(readListAddresses);
	const mail = addresses.map(readMailto).find((message) => message !== undefined);
	if (mail) ways.push({ kind: 'mail', ...mail });
	const link = addresses.map(webAddress).find((url) => url !== undefined);
	if (link) ways.push({ kind: 'link', url: link.href });
	if (offer) ways.push({ kind: 'footer', ...offer });
	return ways;
}
