import { organisationOf } from '../../../core/message/addresses.ts';
import type { Db } from '../database/index.ts';
import { listMailboxes } from '../mail/index.ts';
import { addressesOfPeople } from '../access/index.ts';

/** The office's own domains: those of the addresses of its mailboxes and of its people. */
export async function officeDomains(db: Db): Promise<Set<string>> {
	const addresses = [
		...(await listMailboxes(db)).flatMap((mailbox) => mailbox.addresses),
		...(await addressesOfPeople(db))
	];
	return new Set(addresses.map(organisationOf).filter((domain) => domain !== ''));
}
