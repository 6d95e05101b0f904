import { type Address as ParsedAddress, addressParser } from 'postal-mime';
import { getDomain } from 'tldts';
import { oneLine } from './header.ts';
import { withoutObsolete } from './obsolete-addresses.ts';

/** A person or function in an address field. */
export interface Address {
	/** Display name; empty where there is none. */
	name: string;
	/** In lower case; empty if the field has only a name. */
	address: string;
}

/* The limit for a field with ten thousand recipients. */
const MOST_ADDRESSES = 1_000;

/**
 * The addresses of a From, To, Cc or Reply-To field; groups are expanded.
 *
 * @param value the unfolded field value
 * @see RFC 5322 section 3.4
 */
export function readAddresses(value: string | undefined): Address[] {
	if (!value) return [];
	const found: Address[] = [];
	const take = (parsed: ParsedAddress) => {
		if (parsed.group) parsed.group.forEach(take);
		else if (found.length < MOST_ADDRESSES) {
			const address = oneLine(parsed.address ?? '').toLowerCase();
			const name = oneLine(parsed.name ?? '');
			if (address || name) found.push({ name: name === address ? '' : name, address });
		}
	};
	addressParser(withoutObsolete(value.slice(0, 100_000))).forEach(take);
	return found;
}

/**
 * The organisation behind an address: its registrable domain by the Public Suffix List, else the whole domain (an
 * intranet's name, an address literal), else the empty string.
 */
export function organisationOf(address: string): string {
	const domain = address.slice(address.lastIndexOf('@') + 1);
	if (!domain || domain === address) return '';
	return getDomain(domain, { allowPrivateDomains: false }) ?? domain;
}
