import type { WritingKind } from '../../../core/writing/answer.ts';
import type { Written } from '../../../core/writing/outgoing.ts';
import { change, type Db, idOf, inList, row, rows, setOfItem, sql } from '../database/index.ts';

/** Where the copy among what was sent goes, and its marks. */
export interface Filing {
	/** Undefined: the folder of what was sent. */
	folder?: string | undefined;
	tags?: string[] | undefined;
	/** A class by its word, a series by its code. */
	class?: string | undefined;
	series?: string | undefined;
}

type OutgoingState = 'draft' | 'waiting' | 'sending' | 'failed' | 'sent' | 'discarded';

/** A mail that is written here. */
export interface Outgoing extends Written {
	id: number;
	mailboxId: number;
	kind: WritingKind;
	/** The item that is answered, or forwarded with its bytes. */
	originalId: number | null;
	inReplyTo: string;
	references: string[];
	attachesOriginal: boolean;
	filing: Filing;
	messageId: string;
	state: OutgoingState;
	/** ISO 8601 instants. */
	sendAt: string | null;
	triedAt: string | null;
	sentAt: string | null;
	/** What the server said last. */
	said: string;
	/** The copy among what was sent, once it is there. */
	sentItemId: number | null;
	madeBy: string;
}

const COLUMNS = {
	id: 'id',
	mailboxId: 'mailbox_id',
	kind: 'kind',
	originalId: 'original_item_id',
	from: 'from_address',
	to: 'to_addresses',
	cc: 'cc_addresses',
	subject: 'subject',
	text: 'text',
	inReplyTo: 'in_reply_to',
	references: 'reference_ids',
	attachesOriginal: 'attaches_original',
	filing: 'filing',
	messageId: 'message_id',
	state: 'state',
	sendAt: 'send_at',
	triedAt: 'tried_at',
	sentAt: 'sent_at',
	said: 'said',
	sentItemId: 'sent_item_id',
	madeBy: 'made_by'
} as const;

interface StoredOutgoing extends Omit<Outgoing, 'references' | 'attachesOriginal' | 'filing'> {
	references: string;
	attachesOriginal: number;
	filing: string;
}

function toOutgoing({ references, attachesOriginal, filing, ...rest }: StoredOutgoing): Outgoing {
	return {
		...rest,
		references: JSON.parse(references) as string[],
		attachesOriginal: attachesOriginal === 1,
		filing: JSON.parse(filing) as Filing
	};
}

/** One mail that is written here. */
export async function getOutgoing(db: Db, id: number): Promise<Outgoing | undefined> {
	const found = await db('outgoing').where({ id }).first(COLUMNS);
	return found && toOutgoing(found);
}

/** The mail of a mailbox that has not gone yet, and the last that went, the newest first. */
export async function listOutgoing(db: Db, mailboxId: number, sentAtMost: number): Promise<Outgoing[]> {
	const found = await db('outgoing')
		.where({ mailbox_id: mailboxId })
		.whereNotIn('state', ['sent', 'discarded'])
		.orderBy('id', 'desc')
		.select(COLUMNS);
	const sent = await db('outgoing')
		.where({ mailbox_id: mailboxId, state: 'sent' })
		.orderBy('sent_at', 'desc')
		.limit(sentAtMost)
		.select(COLUMNS);
	const copies = new Map(
		(
			await rows<{ id: number; subject: string; to: string }>(
				db,
				sql`SELECT item.id, subject, recipients AS "to" FROM item JOIN message ON message.id = item.message_id
				 WHERE item.state <> 'destroyed' AND item.id IN ${inList(sent.map(({ sentItemId }) => sentItemId))}`
			)
		).map((copy) => [copy.id, copy])
	);
	return [...found, ...sent.map((mail) => ({ ...mail, ...copies.get(mail.sentItemId ?? 0), id: mail.id }))].map(
		toOutgoing
	);
}

/** A mail as it is written, with what it answers. */
export type OutgoingGiven = Pick<
	Outgoing,
	| 'mailboxId'
	| 'kind'
	| 'originalId'
	| 'from'
	| 'to'
	| 'cc'
	| 'subject'
	| 'text'
	| 'inReplyTo'
	| 'references'
	| 'attachesOriginal'
	| 'filing'
	| 'sendAt'
> & { state: 'draft' | 'waiting' };

const rowOf = (given: OutgoingGiven) => ({
	mailbox_id: given.mailboxId,
	kind: given.kind,
	original_item_id: given.originalId,
	from_address: given.from,
	to_addresses: given.to,
	cc_addresses: given.cc,
	subject: given.subject,
	text: given.text,
	in_reply_to: given.inReplyTo,
	reference_ids: JSON.stringify(given.references),
	attaches_original: Number(given.attachesOriginal),
	filing: JSON.stringify(given.filing),
	state: given.state,
	send_at: given.sendAt
});

/** Stores a new mail. @returns its number */
export async function addOutgoing(
	db: Db,
	given: OutgoingGiven,
	made: { messageId: string; at: Date; by: string; personId: number | null }
): Promise<number> {
	return idOf(
		db('outgoing').insert({
			...rowOf(given),
			message_id: made.messageId,
			made_at: made.at.toISOString(),
			made_by: made.by,
			person_id: made.personId
		})
	);
}

/** Stores a mail that has not gone as it is now. @returns whether it could still be changed */
export async function putOutgoing(db: Db, id: number, given: OutgoingGiven): Promise<boolean> {
	const changed = await db('outgoing')
		.where({ id })
		.whereIn('state', ['draft', 'waiting', 'failed'])
		.update({ ...rowOf(given), said: '' });
	return changed > 0;
}

/**
 * Takes a mail to be sent: of two who try at once, one gets it.
 *
 * @param byItself whether its time has come: what a person has made a draft again meanwhile does not go
 * @returns whether it was this one
 */
export async function takeToSend(db: Db, id: number, at: Date, byItself = false): Promise<boolean> {
	const taken = await db('outgoing')
		.where({ id })
		.whereIn('state', byItself ? ['waiting'] : ['draft', 'waiting', 'failed', 'sending'])
		.where(byItself ? 'send_at' : 'made_at', '<=', at.toISOString())
		.where((which) =>
			which.whereNot({ state: 'sending' }).orWhereNot({ said: '' }).orWhere('tried_at', '<', inDoubtSince(at))
		)
		.update({ state: 'sending', tried_at: at.toISOString(), said: '' });
	return taken > 0;
}

const IN_DOUBT_AFTER_MS = 10 * 60_000;

/** What was taken to be sent before that, and is not known to have gone, was cut off by the end of its process. */
export function inDoubtSince(now: Date): string {
	return new Date(now.getTime() - IN_DOUBT_AFTER_MS).toISOString();
}

/** Notes that a mail went, or why it did not, or that nobody knows: it is then still being sent, with what was said. */
export async function putSent(
	db: Db,
	id: number,
	{ isSent, isUnknown = false, said, at }: { isSent: boolean; isUnknown?: boolean; said: string; at: Date }
): Promise<void> {
	await db('outgoing')
		.where({ id })
		.update({
			state: isSent ? 'sent' : isUnknown ? 'sending' : 'failed',
			said,
			...(isSent ? { sent_at: at.toISOString(), send_at: null } : {})
		});
}

/** Discards a mail that has not gone. @returns whether it was still here */
export async function discardOutgoing(db: Db, id: number): Promise<boolean> {
	const discarded = await db('outgoing')
		.where({ id })
		.whereIn('state', ['draft', 'waiting', 'failed', 'sending'])
		.update({ state: 'discarded' });
	return discarded > 0;
}

/** Takes back that a mail was discarded: it is a draft again. @returns whether it was discarded */
export async function keepDiscarded(db: Db, id: number): Promise<boolean> {
	return (await db('outgoing').where({ id, state: 'discarded' }).update({ state: 'draft', send_at: null })) > 0;
}

/** Whether mail was discarded whose text is still here. */
export async function hasDiscarded(db: Db): Promise<boolean> {
	return (await db('outgoing').where({ state: 'discarded' }).first('id')) !== undefined;
}

/** Removes mail that was discarded. */
export async function forgetDiscarded(db: Db): Promise<void> {
	await db('outgoing').where({ state: 'discarded' }).delete();
}

/** The mail whose time has come, the earliest first. */
export async function dueOutgoing(db: Db, at: Date): Promise<number[]> {
	const found = await db('outgoing')
		.where({ state: 'waiting' })
		.where('send_at', '<=', at.toISOString())
		.orderBy('send_at')
		.select('id');
	return found.map(({ id }) => id);
}

/** Mail of a restored backup may have gone since: none of it goes by itself, and a person decides. */
export async function stopOutgoing(db: Db): Promise<void> {
	await db('outgoing')
		.whereIn('state', ['waiting', 'sending'])
		.update({ state: 'failed', said: 'a backup was restored, so that it is not known whether it went since' });
}

/** The mail that went and has no copy among what was sent yet. */
export async function notFiled(db: Db): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM outgoing WHERE state = 'sent' AND is_filed = 0 ORDER BY id`
	);
	return found.map(({ id }) => id);
}

/** Notes the copy of a mail among what was sent: what it says is kept there alone, so that it can be destroyed. */
export async function putFiled(db: Db, id: number, itemId: number | undefined): Promise<void> {
	await db('outgoing')
		.where({ id })
		.update({
			is_filed: 1,
			sent_item_id: itemId ?? null,
			text: '',
			...(itemId === undefined ? {} : { subject: '', to_addresses: '', cc_addresses: '' })
		});
}

/** The item of a message in a folder, by its Message-ID. */
export async function itemInFolder(db: Db, folderId: number, messageId: string): Promise<number | undefined> {
	const found = await row<{ id: number }>(
		db,
		sql`SELECT item.id FROM item JOIN message ON message.id = item.message_id
		 WHERE folder_id = ${folderId} AND item.state = 'live' AND message.message_id = ${messageId} ORDER BY item.id DESC LIMIT 1`
	);
	return found?.id;
}

/** Marks a message as answered. */
export async function putAnsweredMark(db: Db, itemIds: readonly number[]): Promise<void> {
	await change(db, sql`UPDATE item SET ${setOfItem({ answered: sql`1` })} WHERE id IN ${inList(itemIds)}`);
}

/** What a mailbox adds to its mail. */
export async function signatureOf(db: Db, mailboxId: number): Promise<string> {
	return (await db('mailbox').where({ id: mailboxId }).first('signature'))?.signature ?? '';
}

/** Sets the signature of a mailbox. */
export async function putSignature(db: Db, mailboxId: number, signature: string): Promise<void> {
	await db('mailbox').where({ id: mailboxId }).update({ signature });
}
