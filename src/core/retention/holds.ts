import { type CalendarDate, showDate } from '../calendar.ts';

/** The scope of a hold: mail that matches all of these. An empty scope covers everything. */
export interface HoldScope {
	/** Undefined: all mailboxes. */
	mailboxId?: number | undefined;
	/** A folder of that mailbox with its subfolders: mail that lies there or came from there. Its path at that time. */
	folder?: string | undefined;
	folderId?: number | undefined;
	/** An address, or a domain with its subdomains, as sender or recipient. */
	correspondent?: string | undefined;
	tag?: string | undefined;
	since?: CalendarDate | undefined;
	before?: CalendarDate | undefined;
	/** A search. */
	query?: string | undefined;
	/** Only messages put under it one by one, wherever they lie. */
	isNamed?: boolean | undefined;
}

/** A legal hold: nothing it covers is deleted or destroyed, whatever else says so. */
export interface Hold {
	id: number;
	name: string;
	because: string;
	/** Who requested it. */
	from: string;
	scope: HoldScope;
	placedOn: CalendarDate;
	placedBy: string;
}

/**
 * The scope of a hold, as a sentence: "Everything in Harbour office, in the folder Complaints and below, with
 * anna@x.example, received from 1 Jan 2024 on, that matches “slipway”."
 *
 * @param mailbox name of its mailbox, where it is of one
 */
export function holdSentence(scope: HoldScope, mailbox: string | undefined): string {
	const { folder, correspondent, tag, since, before, query, isNamed } = scope;
	if (isNamed) return 'The messages that were put under it one by one, wherever they lie.';
	const parts = [
		mailbox === undefined ? 'Everything in all mailboxes' : `Everything in ${mailbox}`,
		folder ? `in the folder ${folder} and below` : '',
		correspondent ? `with ${correspondent}` : '',
		tag ? `tagged “${tag}”` : '',
		since ? `received from ${showDate(since)} on` : '',
		before ? `received before ${showDate(before)}` : '',
		query ? `that matches “${query}”` : ''
	];
	return `${parts.filter(Boolean).join(', ')}; also what is still to come.`;
}
