import { randomUUID } from 'node:crypto';
import Joi from 'joi';
import { readAddresses } from '../../../core/message/addresses.ts';
import { fieldValue } from '../../../core/message/header.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { summarise } from '../../../core/message/summary.ts';
import { showDate } from '../../../core/calendar.ts';
import {
	type Beginning,
	beginWriting,
	type Original,
	WRITING_KINDS,
	type WritingKind
} from '../../../core/writing/answer.ts';
import { showRecipients, wrongMail } from '../../../core/writing/outgoing.ts';
import { requireReach } from '../access/index.ts';
import { type Context, defineUseCase, id, nowSeconds } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	getItem,
	type ItemDetails,
	type Mailbox,
	readableContent,
	readApart,
	requireMailboxId
} from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import {
	addOutgoing,
	discardOutgoing,
	type Filing,
	getOutgoing,
	inDoubtSince,
	keepDiscarded,
	listOutgoing,
	type Outgoing,
	putOutgoing,
	putSignature,
	signatureOf
} from './outgoing-store.ts';

/** A mail that was begun, for a page or the terminal. */
export interface BegunMail extends Omit<Beginning, 'to' | 'cc'> {
	/** Undefined: it is stored for the first time when a person says so. */
	id: number | undefined;
	mailbox: { id: number; name: string };
	kind: WritingKind;
	/** The addresses from which it may go. */
	own: string[];
	to: string;
	cc: string;
	/** The message that is answered or forwarded. */
	original: Pick<ItemDetails, 'id' | 'subject' | 'fromName' | 'fromAddress' | 'threadId'> | undefined;
	attachesOriginal: boolean;
	filing: Filing;
	sendAt: string | null;
	state: Outgoing['state'] | undefined;
	/** Why it did not go. */
	said: string;
}

async function openOriginal(context: Context, itemId: number): Promise<{ item: ItemDetails; original: Original }> {
	await requireReach(context, itemId, 'find');
	const item = await getItem(context.db, itemId);
	if (!item) throw new Refusal('not-found', 'The message is not there any more. Nothing was written.');
	const bytes = await readableContent(context.db, item.contentId);
	if (!bytes) throw new Refusal('damaged', 'The message is damaged: it cannot be quoted. Nothing was written.');
	const root = scanStructure(bytes);
	const field = (name: string) => fieldValue(root.header, name);
	const summary = summarise(bytes, root);
	if (!summary) throw new Refusal('damaged', 'The message has no header: it cannot be answered. Nothing was written.');
	const sentAt = summary.sentAt ?? item.receivedAt ?? undefined;
	return {
		item,
		original: {
			messageId: summary.messageId,
			references: summary.references,
			subject: summary.subject,
			from: [summary.from],
			replyTo: readAddresses(field('reply-to')),
			to: summary.to,
			cc: summary.cc,
			sent: sentAt === undefined ? '' : showDate(context.dateOf(sentAt)),
			text: (await readApart('body', bytes)).text
		}
	};
}

const originalOf = ({ id: itemId, subject, fromName, fromAddress, threadId }: ItemDetails) => ({
	id: itemId,
	subject,
	fromName,
	fromAddress,
	threadId
});

async function mayWrite(context: Context, mailboxId: number): Promise<Mailbox> {
	const mailbox = await requireMailboxId(context, mailboxId);
	if (mailbox.addresses.length === 0)
		throw new Refusal(
			'not-possible',
			`${mailbox.name} has no address yet: set one on its page Weigh, then mail can go from it. Nothing was written.`
		);
	return mailbox;
}

/** Begins a mail, or goes on with one. It is stored when a person says so. @throws Refusal */
async function beginMail(
	context: Context,
	input: { mailboxId: number; kind?: WritingKind; itemId?: number | undefined; id?: number | undefined }
): Promise<BegunMail> {
	const mailbox = await mayWrite(context, input.mailboxId);
	const about = { mailbox: { id: mailbox.id, name: mailbox.name }, own: mailbox.addresses };
	if (input.id !== undefined) {
		const mail = await requireOutgoing(context, input.id, mailbox.id);
		const item = mail.originalId === null ? undefined : await getItem(context.db, mail.originalId);
		return { ...about, ...mail, original: item && originalOf(item) };
	}
	const { kind = 'new' } = input;
	if (kind !== 'new' && input.itemId === undefined)
		throw new Refusal('bad-input', 'Name the message to answer or to forward. Nothing was written.');
	const opened = input.itemId === undefined ? undefined : await openOriginal(context, input.itemId);
	if (opened && opened.item.mailboxId !== mailbox.id)
		throw new Refusal('bad-input', `The message lies in ${opened.item.mailbox}. Nothing was written.`);
	const begun = beginWriting(kind, opened?.original, mailbox.addresses, await signatureOf(context.db, mailbox.id));
	return {
		...about,
		...begun,
		id: undefined,
		kind,
		to: showRecipients(begun.to),
		cc: showRecipients(begun.cc),
		original: opened && originalOf(opened.item),
		attachesOriginal: kind === 'forward',
		filing: {},
		sendAt: null,
		state: undefined,
		said: ''
	};
}

/** Begins a mail about a message, in the mailbox in which that lies. @throws Refusal */
export async function startMail(context: Context, input: { kind: WritingKind; itemId: number }): Promise<BegunMail> {
	const item = await getItem(context.db, input.itemId);
	if (!item) throw new Refusal('not-found', `There is no message ${input.itemId}. Nothing was written.`);
	return beginMail(context, { ...input, mailboxId: item.mailboxId });
}

/** A mail as a person gives it. */
export interface MailGiven {
	/** Undefined: a new one. */
	id?: number | undefined;
	mailboxId: number;
	kind: WritingKind;
	itemId?: number | undefined;
	from: string;
	to: string;
	cc: string;
	subject: string;
	text: string;
	attachesOriginal: boolean;
	filing: Filing;
	/** When it goes (ISO 8601); undefined: it is a draft until somebody sends it. */
	sendAt?: string | undefined;
}

const MOST_AHEAD_S = 370 * 86_400;

function requireTime(context: Context, sendAt: string | undefined): string | null {
	if (sendAt === undefined) return null;
	const at = Date.parse(sendAt) / 1000;
	if (!(at > nowSeconds(context) && at < nowSeconds(context) + MOST_AHEAD_S))
		throw new Refusal('bad-input', 'A mail can be sent at a time within the next year. Nothing was stored.');
	return new Date(at * 1000).toISOString();
}

/** Stores a mail as it is written: a draft, or one that goes at a time. @throws Refusal */
export async function storeMail(context: Context, input: MailGiven): Promise<{ id: number }> {
	const sendAt = requireTime(context, input.sendAt);
	const mailbox = await mayWrite(context, input.mailboxId);
	const wrong = wrongMail(input, mailbox.addresses);
	// a draft need not be finished, but it goes from one of these addresses
	if (wrong && (sendAt !== null || !mailbox.addresses.includes(input.from)))
		throw new Refusal('bad-input', `${wrong}. Nothing was stored.`);
	const opened = input.itemId === undefined ? undefined : await openOriginal(context, input.itemId);
	if (opened && opened.item.mailboxId !== mailbox.id)
		throw new Refusal('bad-input', `The message lies in ${opened.item.mailbox}. Nothing was stored.`);
	const begun = beginWriting(input.kind, opened?.original, mailbox.addresses, '');
	const given = {
		...input,
		mailboxId: mailbox.id,
		originalId: opened?.item.id ?? null,
		inReplyTo: begun.inReplyTo,
		references: begun.references,
		attachesOriginal: input.attachesOriginal && opened !== undefined,
		sendAt,
		state: sendAt === null ? ('draft' as const) : ('waiting' as const)
	};
	return inTransaction(context.db, async (db) => {
		if (input.id !== undefined) {
			await requireOutgoing({ ...context, db }, input.id, mailbox.id);
			if (!(await putOutgoing(db, input.id, given)))
				throw new Refusal('not-possible', 'This mail has gone, or is going now. Nothing was changed.');
			return { id: input.id };
		}
		const domain = input.from.split('@')[1] ?? 'kovrel.invalid';
		return {
			id: await addOutgoing(db, given, {
				messageId: `<${randomUUID()}@${domain}>`,
				at: context.now(),
				by: context.actor.name,
				personId: context.actor.personId
			})
		};
	});
}

/** The mail with that number. @throws Refusal */
export async function requireOutgoing(
	{ db }: Pick<Context, 'db'>,
	outgoingId: number,
	mailboxId?: number
): Promise<Outgoing> {
	const found = await getOutgoing(db, outgoingId);
	if (!found || (mailboxId !== undefined && found.mailboxId !== mailboxId) || found.state === 'discarded')
		throw new Refusal('not-found', `There is no mail ${outgoingId} that is written here. Nothing was done.`);
	return found;
}

/** A mail that is written here, in a list. */
export interface OutgoingView extends Pick<
	Outgoing,
	'id' | 'kind' | 'to' | 'cc' | 'subject' | 'state' | 'sendAt' | 'sentAt' | 'said' | 'sentItemId' | 'madeBy'
> {
	/** It was being sent when its process ended: whether it went is not known. */
	isInDoubt: boolean;
}

const SENT_SHOWN = 20;

/** The mail that a mailbox has written: what has not gone, and the last that went. @throws Refusal */
async function showOutgoing(
	context: Context,
	input: { mailboxId: number }
): Promise<{
	mailbox: { id: number; name: string; hasAddress: boolean };
	signature: string;
	canSend: boolean;
	mail: OutgoingView[];
}> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const before = inDoubtSince(context.now());
	return {
		mailbox: { id: mailbox.id, name: mailbox.name, hasAddress: mailbox.addresses.length > 0 },
		signature: await signatureOf(context.db, mailbox.id),
		canSend: context.outside.canSend,
		mail: (await listOutgoing(context.db, mailbox.id, SENT_SHOWN)).map(
			({ id: outgoingId, kind, to, cc, subject, state, sendAt, triedAt, sentAt, said, sentItemId, madeBy }) => ({
				id: outgoingId,
				kind,
				to,
				cc,
				subject,
				state,
				sendAt,
				sentAt,
				said,
				sentItemId,
				madeBy,
				isInDoubt: state === 'sending' && (said !== '' || (triedAt ?? '') < before)
			})
		)
	};
}

/** Discards a mail that has not gone. @throws Refusal */
async function discardMail(context: Context, input: { id: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const mail = await requireOutgoing({ ...context, db }, input.id);
		if (!(await discardOutgoing(db, mail.id)))
			throw new Refusal('not-possible', 'This mail has gone. Nothing was discarded.');
	});
}

/** Takes back that a mail was discarded: it is a draft again. @throws Refusal */
async function keepMail(context: Context, input: { id: number }): Promise<void> {
	const isKept = await inTransaction(context.db, (db) => keepDiscarded(db, input.id));
	if (!isKept) throw new Refusal('not-found', 'This mail was not discarded. Nothing was changed.');
}

const LONGEST_SIGNATURE = 2_000;

/** Sets what a mailbox puts below its mail. @throws Refusal */
export async function setSignature(context: Context, input: { mailboxId: number; signature: string }): Promise<void> {
	const signature = input.signature.replace(/\r\n?/g, '\n').trimEnd();
	if (signature.length > LONGEST_SIGNATURE)
		throw new Refusal('bad-input', `A signature has ${LONGEST_SIGNATURE} letters at most. Nothing was changed.`);
	await inTransaction(context.db, async (db) => {
		const mailbox = await requireMailboxId({ ...context, db }, input.mailboxId);
		await putSignature(db, mailbox.id, signature);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'signature-set',
			details: { mailbox: mailbox.name }
		});
	});
}

const filing = Joi.object({
	folder: Joi.string().trim().max(2_000),
	tags: Joi.array().items(Joi.string().max(200)).max(20),
	class: Joi.string().max(100),
	series: Joi.string().max(100)
});
const line = Joi.string().allow('').max(10_000);

/** The input that describes a mail. */
export const mailFields = {
	id,
	mailboxId: id.required(),
	kind: Joi.valid(...WRITING_KINDS).required(),
	itemId: id,
	from: line.required(),
	to: line.required(),
	cc: line.default(''),
	subject: line.default(''),
	text: Joi.string().allow('').max(1_000_000).default(''),
	attachesOriginal: Joi.boolean().default(false),
	filing: filing.default({}),
	sendAt: Joi.string().isoDate()
};

/** The use cases of this file. */
export const writingUseCases = [
	defineUseCase({
		name: 'beginMail',
		input: () => Joi.object({ mailboxId: id.required(), kind: Joi.valid(...WRITING_KINDS), itemId: id, id }).required(),
		thread: 'opener',
		right: 'administrator',
		run: beginMail
	}),
	defineUseCase({
		name: 'storeMail',
		input: () => Joi.object(mailFields).required(),
		thread: 'writer',
		right: 'administrator',
		run: storeMail
	}),
	defineUseCase({
		name: 'showOutgoing',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: showOutgoing
	}),
	defineUseCase({
		name: 'discardMail',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: discardMail
	}),
	defineUseCase({
		name: 'keepMail',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: keepMail
	}),
	defineUseCase({
		name: 'setSignature',
		input: () =>
			Joi.object({ mailboxId: id.required(), signature: Joi.string().allow('').max(10_000).required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setSignature
	})
] as const;
