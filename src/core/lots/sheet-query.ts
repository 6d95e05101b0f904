/** The filters of a sheet of lots. */
export interface LotsFilters {
	/** A search. */
	q: string;
	/** Received before this date. */
	older: string;
	/** Larger than this size, as in a search. */
	larger: string;
	/** These are set or empty. */
	unread: string;
	attached: string;
	unanswered: string;
}

/** The filters of a sheet of lots as one search. */
export function sheetQuery({ q, older, larger, unread, attached, unanswered }: LotsFilters): string {
	return [
		q && (/\bor\b/.test(q) ? `(${q})` : q),
		older && `before:${older}`,
		larger && `larger:${larger}`,
		unread && 'unread',
		attached && 'attachment:any',
		unanswered && 'not answered'
	]
		.filter(Boolean)
		.join(' ');
}
