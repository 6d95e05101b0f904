import { quotedValue } from '../core/search/quoted-value.ts';
/**
 * The page that makes a standing decision of what one is about to decide: for the mail of a list, of a sender, or found
 * by a search.
 */
export function fromNowOnHref(
	mailboxId: number,
	of: { listId?: number | null | undefined; address?: string | undefined; query?: string | undefined }
): string {
	const asked = new URLSearchParams();
	if (of.query) asked.set('where', of.query);
	else if (of.listId) asked.set('list', String(of.listId));
	else if (of.address) asked.set('where', quotedValue(of.address, 'address'));
	return `/m/${mailboxId}/desk/rules/new?${asked.toString()}`;
}
