import type { AttachmentInfo } from '../../../core/message/body.ts';
import type { MessageSummary } from '../../../core/message/summary.ts';
import { organisationOf } from '../../../core/message/addresses.ts';
import { indexText } from '../../../core/search/words.ts';
import type { Db } from '../database/open.ts';
import { change, insertRows, row, rows } from './rows.ts';

/** A message to be stored: where its bytes are and what was read of them. */
export interface NewMessage {
	contentId: number;
	summary: MessageSummary;
}

/** What is kept of an attachment beside the bytes. */
export type StoredAttachment = Pick<AttachmentInfo, 'name' | 'type' | 'encodedBytes' | 'inline'>;

function addressList(addresses: readonly { name: string; address: string }[]): string {
	return addresses.map(({ name, address }) => (name ? `${name} <${address}>` : address)).join(', ');
}

/* Recipients shown and indexed; a mailing to thousands is cut. */
const LONGEST_RECIPIENTS = 20_000;

function messageRow({ contentId, summary }: NewMessage): unknown[] {
	const attachments: StoredAttachment[] = summary.attachments.map(({ name, type, encodedBytes, inline }) => ({
		name,
		type,
		encodedBytes,
		inline
	}));
	return [
		contentId,
		summary.messageId,
		JSON.stringify(summary.references),
		summary.subject,
		summary.from.name,
		summary.from.address,
		addressList([...summary.to, ...summary.cc]).slice(0, LONGEST_RECIPIENTS),
		summary.sentAt ?? null,
		summary.listId,
		summary.importance,
		JSON.stringify(attachments)
	];
}

const fileNames = (summary: MessageSummary) => summary.attachments.map(({ name }) => name).join('\n');

function wordsRow(id: number, { summary }: NewMessage): unknown[] {
	return [
		id,
		summary.subject,
		addressList([summary.from]),
		addressList(summary.to).slice(0, LONGEST_RECIPIENTS),
		addressList(summary.cc).slice(0, LONGEST_RECIPIENTS),
		summary.ownText,
		summary.quotedText,
		fileNames(summary)
	].map((value) => (typeof value === 'string' ? indexText(value) : value));
}

/**
 * Stores messages, each content only once, and puts the words of the new ones into the index.
 *
 * @returns the id of each, in the order given
 */
export async function putMessages(db: Db, messages: readonly NewMessage[]): Promise<number[]> {
	const once = [...new Map(messages.map((message) => [message.contentId, message])).values()];
	if (once.length === 0) return [];
	const added = await insertRows<{ id: number; content_id: number }>(
		db,
		`INSERT INTO message (content_id, message_id, reference_ids, subject, from_name, from_address, recipients, sent_at,
			list_id, importance, attachments)`,
		once.map(messageRow),
		`ON CONFLICT (content_id) DO NOTHING RETURNING id, content_id`
	);
	const ids = new Map(added.map(({ id, content_id }) => [content_id, id]));
	const words = once.flatMap((message) => {
		const id = ids.get(message.contentId);
		return id === undefined ? [] : [wordsRow(id, message)];
	});
	await insertRows(db, `INSERT INTO words (rowid, subject, sender, recipients, copied, text, quoted, files)`, words);
	const names = once.flatMap(({ contentId, summary }) => {
		const id = ids.get(contentId);
		return id === undefined || summary.attachments.length === 0 ? [] : [[id, fileNames(summary)]];
	});
	await insertRows(db, `INSERT INTO file_names (rowid, names)`, names);
	if (ids.size < once.length) {
		const known = await rows<{ id: number; content_id: number }>(
			db,
			`SELECT id, content_id FROM message WHERE content_id IN (SELECT value FROM json_each(?))`,
			[JSON.stringify(once.map(({ contentId }) => contentId).filter((contentId) => !ids.has(contentId)))]
		);
		for (const { id, content_id } of known) ids.set(content_id, id);
	}
	return messages.map(({ contentId }) => ids.get(contentId) as number);
}

/** Who writes, and for which organisation. */
export interface Correspondent {
	id: number;
	organisationId: number;
}

/**
 * The correspondents behind addresses, made where they are new; the first name that an address is seen with is kept.
 *
 * @returns by address
 */
export async function putCorrespondents(
	db: Db,
	people: readonly { name: string; address: string }[]
): Promise<Map<string, Correspondent>> {
	const byAddress = new Map<string, string>();
	for (const { name, address } of people) if (!byAddress.get(address)) byAddress.set(address, name);
	const entries = [...byAddress].map(([address, name]) => ({ address, name, domain: organisationOf(address) }));
	const json = JSON.stringify(entries);
	await change(
		db,
		`INSERT INTO organisation (domain) SELECT DISTINCT value ->> 'domain' FROM json_each(?) WHERE true ON CONFLICT (domain) DO NOTHING`,
		[json]
	);
	await change(
		db,
		`INSERT INTO correspondent (address, name, organisation_id)
		 SELECT value ->> 'address', value ->> 'name', organisation.id
		 FROM json_each(?) JOIN organisation ON organisation.domain = value ->> 'domain'
		 WHERE true ON CONFLICT (address) DO UPDATE SET name = excluded.name WHERE name = '' AND excluded.name <> ''`,
		[json]
	);
	const found = await rows<{ id: number; address: string; organisationId: number }>(
		db,
		`SELECT id, address, organisation_id AS organisationId FROM correspondent
		 WHERE address IN (SELECT value ->> 'address' FROM json_each(?))`,
		[json]
	);
	return new Map(found.map(({ id, address, organisationId }) => [address, { id, organisationId }]));
}

/**
 * The lists behind their identifiers, made where they are new; the last name that a list calls itself is kept.
 *
 * @returns ids by identifier
 */
export async function putLists(
	db: Db,
	lists: readonly Pick<MessageSummary, 'listId' | 'listName'>[]
): Promise<Map<string, number>> {
	const byIdentifier = new Map<string, string>();
	for (const { listId, listName } of lists)
		if (listId) byIdentifier.set(listId, listName || (byIdentifier.get(listId) ?? ''));
	if (byIdentifier.size === 0) return new Map();
	const json = JSON.stringify([...byIdentifier].map(([identifier, name]) => ({ identifier, name })));
	await change(
		db,
		`INSERT INTO list (identifier, name) SELECT value ->> 'identifier', value ->> 'name' FROM json_each(?) WHERE true
		 ON CONFLICT (identifier) DO UPDATE SET name = excluded.name WHERE excluded.name NOT IN ('', name)`,
		[json]
	);
	const found = await rows<{ id: number; identifier: string }>(
		db,
		`SELECT id, identifier FROM list WHERE identifier IN (SELECT value ->> 'identifier' FROM json_each(?))`,
		[json]
	);
	return new Map(found.map(({ id, identifier }) => [identifier, id]));
}

/** One item with what is known of its message. */
export interface ItemDetails {
	id: number;
	mailboxId: number;
	mailbox: string;
	state: string;
	folder: string;
	origin: string | null;
	receivedAt: number | null;
	receivedOn: string | null;
	dateInDoubt: number;
	bytes: number;
	seen: number | null;
	answered: number;
	flagged: number;
	contentId: number;
	messageId: string;
	subject: string;
	fromName: string;
	fromAddress: string;
	recipients: string;
	/** How many other items have the same message (invariant 4). */
	elsewhere: number;
}

/** One item; undefined where there is none, or only its ledger line. */
export async function getItem(db: Db, id: number): Promise<ItemDetails | undefined> {
	return row<ItemDetails>(
		db,
		`SELECT item.id, item.mailbox_id AS mailboxId, mailbox.name AS mailbox, item.state, folder.path AS folder,
			origin.path AS origin, received_at AS receivedAt, received_on AS receivedOn, date_in_doubt AS dateInDoubt,
			bytes, seen, answered, flagged, content_id AS contentId, message.message_id AS messageId, subject,
			from_name AS fromName, from_address AS fromAddress, recipients,
			(SELECT count(*) FROM item other WHERE other.message_id = item.message_id AND other.id <> item.id
				AND other.state <> 'destroyed') AS elsewhere
		 FROM item JOIN message ON message.id = item.message_id JOIN mailbox ON mailbox.id = item.mailbox_id
			JOIN folder ON folder.id = item.folder_id LEFT JOIN folder origin ON origin.id = item.origin_folder_id
		 WHERE item.id = ? AND item.state <> 'destroyed'`,
		[id]
	);
}
