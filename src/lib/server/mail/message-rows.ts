import type { Address } from '../../../core/message/addresses.ts';
import type { AttachmentInfo } from '../../../core/message/body.ts';
import { kindBits } from '../../../core/message/kinds.ts';
import { readableFormat } from '../../../core/message/readable-files.ts';
import { MAIL_KINDS } from '../../../core/message/mail-kind.ts';
import { type Flags, type MessageSummary, type Oddity, READING } from '../../../core/message/summary.ts';
import { indexText } from '../../../core/search/words.ts';

/** The stored facts about an attachment. */
export type StoredAttachment = Pick<AttachmentInfo, 'name' | 'type' | 'encodedBytes' | 'inline'>;

/**
 * The values read of a message, for the tables. Made in the parse thread, and small: it is passed to the writing
 * thread, for which all others wait.
 */
export interface MessageRows {
	/** Values in the order of {@link READ_COLUMNS}. */
	columns: unknown[];
	/** Texts in the order of {@link WORD_COLUMNS}, as the index takes them, without names of files. */
	words: string[];
	/** Names of its files, a line each. */
	fileNames: string;
	/** Whether one of them has readable words. */
	readableFiles: boolean;
	from: Address;
	list: Pick<MessageSummary, 'listId' | 'listName' | 'listOrganisation'>;
	sentAt: number | undefined;
	receivedAt: number | undefined;
	/** Number of core/message/mail-kind. */
	mailKind: number;
	importance: number;
	/** How many files it has, without those shown in its text. */
	attachments: number;
	/** Bits of core/message/kinds, of the same files. */
	attachmentKinds: number;
	flags: Flags;
	oddities: Oddity[];
}

/** The columns of `message` read from its bytes. */
export const READ_COLUMNS = `message_id, reference_ids, subject, from_name, from_address, recipients, sent_at, list_id, importance,
	attachments, base_subject, is_reply, to_addresses, cc_addresses, traits, expires_at, event_ends_on, text_length, leave_ways, reading`;

/** The columns of the index of words, with the message's number first and its files last. */
export const WORD_COLUMNS = `rowid, subject, sender, recipients, copied, text, quoted, files`;

function addressList(addresses: readonly Address[]): string {
	return addresses.map(({ name, address }) => (name ? `${name} <${address}>` : address)).join(', ');
}

/* How many recipients are shown and indexed of a mailing to thousands. */
const LONGEST_RECIPIENTS = 20_000;
const recipientList = (addresses: readonly Address[]) => addressList(addresses).slice(0, LONGEST_RECIPIENTS);

/* Addresses between bars, so that a whole one can be matched. */
const barred = (addresses: readonly Address[]) =>
	addresses.length === 0 ? '' : `|${addresses.map(({ address }) => address).join('|')}|`.slice(0, LONGEST_RECIPIENTS);

function columnsOf(summary: MessageSummary): unknown[] {
	const attachments: StoredAttachment[] = summary.attachments.map(({ name, type, encodedBytes, inline }) => ({
		name,
		type,
		encodedBytes,
		inline
	}));
	return [
		summary.messageId,
		JSON.stringify(summary.references),
		summary.subject,
		summary.from.name,
		summary.from.address,
		recipientList([...summary.to, ...summary.cc]),
		summary.sentAt ?? null,
		summary.listId,
		summary.importance,
		JSON.stringify(attachments),
		summary.baseSubject,
		Number(summary.isReply),
		barred(summary.to),
		barred(summary.cc),
		summary.traits,
		summary.expiresAt ?? null,
		summary.eventEndsOn ?? null,
		summary.ownText.trim().length + summary.quotedText.trim().length,
		summary.leaveWays,
		READING
	];
}

/** The values stored for a message. */
export function messageRows(summary: MessageSummary): MessageRows {
	const { subject, from, to, cc, ownText, quotedText, listId, listName, listOrganisation } = summary;
	const files = summary.attachments.filter(({ inline }) => !inline);
	return {
		columns: columnsOf(summary),
		words: [subject, addressList([from]), recipientList(to), recipientList(cc), ownText, quotedText].map(indexText),
		fileNames: summary.attachments.map(({ name }) => name).join('\n'),
		readableFiles: files.some((file) => readableFormat(file) !== undefined),
		from,
		list: { listId, listName, listOrganisation },
		sentAt: summary.sentAt,
		receivedAt: summary.receivedAt,
		mailKind: MAIL_KINDS.indexOf(summary.mailKind),
		importance: summary.importance,
		attachments: files.length,
		attachmentKinds: kindBits(files),
		flags: summary.flags,
		oddities: summary.oddities
	};
}
