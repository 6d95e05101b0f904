/* The parameter of an address that names a selection of mailboxes: their numbers, separated by commas. */
const SELECTION = 'in';

const MOST = 10_000;

/**
 * The mailboxes that a page's address selects; what is no number is left out.
 *
 * @returns undefined: all
 */
export function selectedMailboxes(address: URLSearchParams): number[] | undefined {
	const given = (address.get(SELECTION) ?? '').split(',').map(Number);
	const ids = [...new Set(given.filter((id) => Number.isSafeInteger(id) && id > 0))].slice(0, MOST);
	return ids.length > 0 ? ids : undefined;
}
