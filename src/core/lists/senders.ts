import { organisationOf } from '../message/addresses.ts';

/** What identifies a sender, the narrowest first: of two marks, the narrower one decides. */
export const MARK_KINDS = ['address', 'list', 'domain', 'tld'] as const;
export type MarkKind = (typeof MARK_KINDS)[number];

export const VERDICTS = ['trust', 'block'] as const;
export type Verdict = (typeof VERDICTS)[number];

/** A trusted or blocked sender, or group of senders. */
export interface SenderMark {
	verdict: Verdict;
	kind: MarkKind;
	/** An address, an identifier of a list, a domain (with those below it), or a top-level domain; in small letters. */
	value: string;
}

/** What judging a message's sender needs. */
export interface JudgedMessage {
	from: string;
	/** Empty if it is from no list. */
	list: string;
}

/** The judgement on a message's sender. */
export interface Judgement {
	verdict: Verdict | 'none';
	/** The mark that decides. */
	by: SenderMark | undefined;
	/** In words, with the marks it outranks. */
	sentence: string;
}

const domainOf = (address: string) => address.slice(address.lastIndexOf('@') + 1).toLowerCase();

function applies({ kind, value }: SenderMark, { from, list }: JudgedMessage): boolean {
	const domain = domainOf(from);
	switch (kind) {
		case 'address':
			return from.toLowerCase() === value;
		case 'list':
			return list !== '' && list.toLowerCase() === value;
		case 'domain':
			return domain === value || domain.endsWith(`.${value}`);
		case 'tld':
			return domain.endsWith(`.${value}`);
	}
}

/* The narrower first; of domains, the longer; of two equal ones, trust wins, as it keeps more. */
function order(a: SenderMark, b: SenderMark): number {
	return (
		MARK_KINDS.indexOf(a.kind) - MARK_KINDS.indexOf(b.kind) ||
		b.value.length - a.value.length ||
		VERDICTS.indexOf(a.verdict) - VERDICTS.indexOf(b.verdict)
	);
}

const KIND_WORDS: Record<MarkKind, (value: string) => string> = {
	address: (value) => `the address ${value}`,
	list: (value) => `the list ${value}`,
	domain: (value) => `the domain ${value} with its subdomains`,
	tld: (value) => `all addresses under .${value}`
};
const DONE: Record<Verdict, string> = { trust: 'trusted', block: 'blocked' };

/** A mark in words: "the domain harbourtimes.example with its subdomains". */
export function markWords({ kind, value }: SenderMark): string {
	return KIND_WORDS[kind](value);
}

/** The deciding mark for a message: the narrowest that matches its sender. */
export function judge(message: JudgedMessage, marks: readonly SenderMark[]): Judgement {
	const [by, ...others] = marks.filter((mark) => applies(mark, message)).sort(order);
	if (!by) return { verdict: 'none', by: undefined, sentence: 'Nobody has trusted or blocked this sender.' };
	const outranked = others.find(({ verdict }) => verdict !== by.verdict);
	const sentence = `This sender is ${DONE[by.verdict]}, by ${markWords(by)}${
		outranked ? `; that is narrower than ${markWords(outranked)}, which is ${DONE[outranked.verdict]}` : ''
	}.`;
	return { verdict: by.verdict, by, sentence };
}

/** Whether a mark is true of addresses under one of some domains. */
export function coversDomain({ kind, value }: Pick<SenderMark, 'kind' | 'value'>, domains: Iterable<string>): boolean {
	if (kind === 'list') return false;
	const marked = kind === 'address' ? domainOf(value) : value;
	const isWithin = (inner: string, outer: string) => inner === outer || inner.endsWith(`.${outer}`);
	return [...domains].some((domain) => isWithin(domain, marked) || (kind !== 'tld' && isWithin(marked, domain)));
}

/**
 * Reads a sender as a person types it: `a@b.example` is an address, `b.example` a domain, `.example` a top-level
 * domain; a list has to be named as one.
 *
 * @returns undefined where it is none of these
 */
export function readMark(text: string): Pick<SenderMark, 'kind' | 'value'> | undefined {
	const value = text.trim().toLowerCase();
	if (/^[^\s@<>]+@[^\s@<>]+$/.test(value)) return { kind: 'address', value };
	if (/^\.[\p{L}\d-]+$/u.test(value)) return { kind: 'tld', value: value.slice(1) };
	const domain = value.replace(/^@/, '');
	if (/^[\p{L}\d-]+(\.[\p{L}\d-]+)+$/u.test(domain) && organisationOf(`x@${domain}`) !== '')
		return { kind: 'domain', value: domain };
	return undefined;
}
