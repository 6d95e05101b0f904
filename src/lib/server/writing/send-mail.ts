import { mkdir, rm, writeFile } from 'node:fs/promises';
import path from 'node:path';
import Joi from 'joi';
import { readRecipients, wrongMail } from '../../../core/writing/outgoing.ts';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import { type Context, defineUseCase, id } from '../context/index.ts';
import { type Db, inTransaction } from '../database/index.ts';
import { carryOutAtOnce, type Decided } from '../docket/index.ts';
import { importMailbox } from '../intake/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { ensureFolder, findRole, getItem, readableContent, requireMailboxId } from '../mail/index.ts';
import { log } from '../log.ts';
import type { OutsideAnswer } from '../outside/index.ts';
import { Refusal } from '../refusal.ts';
import { composeMail } from './compose-mail.ts';
import {
	dueOutgoing,
	forgetDiscarded,
	getOutgoing,
	hasDiscarded,
	itemInFolder,
	notFiled,
	type Outgoing,
	putAnsweredMark,
	putFiled,
	putSent,
	takeToSend
} from './outgoing-store.ts';
import { mailFields, type MailGiven, requireOutgoing, storeMail } from './writing.ts';

/** What became of a mail. */
export interface SendOutcome {
	id: number;
	isSent: boolean;
	/** Whether it may have gone all the same; a person decides. */
	isUnknown: boolean;
	/** What the server said. */
	said: string;
	/** The copy among what was sent. */
	itemId: number | undefined;
}

/* The folder of what was sent, made if there is none. */
async function sentFolder(db: Db, mailboxId: number): Promise<string> {
	return ((await findRole(db, mailboxId, 'sent')) ?? (await ensureFolder(db, mailboxId, 'mailbox', 'Sent'))).path;
}

const bytesOf = async (context: Context, mail: Outgoing, at: Date) =>
	composeMail(mail, at, mail.attachesOriginal ? await originalBytes(context, mail) : undefined);

/* By its item: the number of a content that was destroyed may be another message's by now. */
async function originalBytes({ db }: Context, { originalId }: Outgoing): Promise<Buffer | undefined> {
	const item = originalId === null ? undefined : await getItem(db, originalId);
	return item && readableContent(db, item.contentId);
}

function filingLines({ tags = [], class: word, series }: Outgoing['filing'], itemId: number): Decided[] {
	const scope = { kind: 'items' as const, ids: [itemId] };
	const line = (decision: Decided['decision'], options: DecisionOptions): Decided => ({ decision, options, scope });
	return [
		...tags.map((tag) => line('tag', { tag })),
		...(word
			? [line('classify', { class: word as NonNullable<DecisionOptions['class']>, because: 'as it was written' })]
			: []),
		...(series ? [line('retain', { series })] : [])
	];
}

/*
 * Files the copy of a mail that went, by an import like any other: cut off before its end, it is done again, and the same
 * bytes add no second.
 */
async function fileSent(context: Context, mail: Outgoing): Promise<number | undefined> {
	const mailbox = await requireMailboxId(context, mail.mailboxId);
	const at = new Date(mail.sentAt ?? context.now());
	const folder = mail.filing.folder?.trim() || (await inTransaction(context.db, (db) => sentFolder(db, mailbox.id)));
	const place = path.join(context.dataFolder, 'outgoing');
	await mkdir(place, { recursive: true });
	const file = path.join(place, `${mail.id}.eml`);
	await writeFile(file, await bytesOf(context, mail, at));
	await importMailbox(context, { path: file, mailbox: mailbox.name, folder, source: 'sent from here' });
	await rm(file);
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { id: folderId } = await ensureFolder(db, mailbox.id, 'mailbox', folder);
		const itemId = await itemInFolder(db, folderId, mail.messageId);
		const lines = itemId === undefined ? [] : filingLines(mail.filing, itemId);
		if (lines.length > 0) await carryOutAtOnce(within, mailbox, lines);
		await putFiled(db, mail.id, itemId);
		return itemId;
	});
}

/* What went stays gone, whatever becomes of its copy: that is tried again with the next mail and every night. */
async function fileSafely(context: Context, outgoingId: number): Promise<number | undefined> {
	try {
		const mail = await getOutgoing(context.db, outgoingId);
		return mail && (await fileSent(context, mail));
	} catch (error) {
		log.error({ error, outgoing: outgoingId }, 'the copy of a mail that went could not be filed');
		return undefined;
	}
}

/* @returns undefined if somebody else has it, or has changed their mind */
async function send(context: Context, outgoingId: number, byItself: boolean): Promise<SendOutcome | undefined> {
	const at = context.now();
	// read as it is taken: what goes is what stands there now
	const mail = await inTransaction(context.db, async (db) =>
		(await takeToSend(db, outgoingId, at, byItself)) ? getOutgoing(db, outgoingId) : undefined
	);
	if (!mail) return undefined;
	let answer: OutsideAnswer;
	try {
		const recipients = [...readRecipients(mail.to).recipients, ...readRecipients(mail.cc).recipients];
		if (mail.attachesOriginal && !(await originalBytes(context, mail)))
			throw new Refusal('not-found', 'the original that it attaches is not there any more');
		const raw = await bytesOf(context, mail, at);
		answer = await context.outside.send({ from: mail.from, to: recipients.map(({ address }) => address), raw });
	} catch (error) {
		answer = { heard: false, said: error instanceof Refusal ? error.message : 'it could not be written as a mail' };
		if (!(error instanceof Refusal)) log.error({ error, outgoing: mail.id }, 'a mail could not be sent');
	}
	await inTransaction(context.db, async (db) => {
		await putSent(db, mail.id, { isSent: answer.heard, isUnknown: answer.isUnknown ?? false, said: answer.said, at });
		if (!answer.heard) return;
		if (mail.originalId !== null && mail.kind !== 'forward') await putAnsweredMark(db, [mail.originalId]);
		const mailbox = await requireMailboxId({ ...context, db }, mail.mailboxId);
		await appendLedger(db, {
			at,
			by: context.actor,
			action: 'mail-sent',
			details: { mailbox: mailbox.name, to: mail.to, messageId: mail.messageId, said: answer.said }
		});
	});
	return {
		id: mail.id,
		isSent: answer.heard,
		isUnknown: answer.isUnknown ?? false,
		said: answer.said,
		itemId: answer.heard ? await fileSafely(context, mail.id) : undefined
	};
}

/**
 * Sends a mail that is written here, now. A failure keeps it and says why; it is tried again when somebody says so.
 *
 * @throws Refusal if it is not finished, has gone, or is going
 */
export async function sendMail(context: Context, input: { id: number }): Promise<SendOutcome> {
	const mail = await requireOutgoing(context, input.id);
	const mailbox = await requireMailboxId(context, mail.mailboxId);
	const wrong = mail.state === 'sent' ? undefined : wrongMail(mail, mailbox.addresses);
	if (wrong) throw new Refusal('bad-input', `${wrong}. Nothing was sent.`);
	const outcome = await send(context, mail.id, false);
	if (!outcome) throw new Refusal('not-possible', 'This mail has gone, or is going now. It was not sent again.');
	return outcome;
}

/** Stores a mail as it is written and sends it now. Where it cannot go, it stays as a draft. @throws Refusal */
async function writeAndSend(context: Context, input: MailGiven): Promise<SendOutcome> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const wrong = wrongMail(input, mailbox.addresses);
	if (wrong) throw new Refusal('bad-input', `${wrong}. Nothing was sent.`);
	return sendMail(context, await storeMail(context, { ...input, sendAt: undefined }));
}

/** Sends the mail whose time has come, and files what went and has no copy yet. */
export async function sendDueMail(context: Context): Promise<{ sent: number; failed: number }> {
	const outcome = { sent: 0, failed: 0 };
	for (const outgoingId of await dueOutgoing(context.db, context.now())) {
		if (context.signal.aborted) break;
		const sent = await send(context, outgoingId, true);
		if (sent) outcome[sent.isSent ? 'sent' : 'failed']++;
	}
	for (const outgoingId of await notFiled(context.db)) await fileSafely(context, outgoingId);
	return outcome;
}

/** Notes that a mail went whose sending was cut off, as a person says, and files its copy. @throws Refusal */
async function noteSent(context: Context, input: { id: number }): Promise<SendOutcome> {
	const mail = await requireOutgoing(context, input.id);
	if (mail.state !== 'sending' || mail.triedAt === null)
		throw new Refusal('bad-input', 'It is known of this mail whether it went. Nothing was changed.');
	const said = `${context.actor.name} says that it went`;
	await putSent(context.db, mail.id, { isSent: true, said, at: new Date(mail.triedAt) });
	return { id: mail.id, isSent: true, isUnknown: false, said, itemId: await fileSafely(context, mail.id) };
}

/** Whether a mail's time has come. */
async function mailIsDue({ db, now }: Context): Promise<boolean> {
	return (await dueOutgoing(db, now())).length > 0;
}

/** Whether the night has something to do for written mail: to send, to file, or to forget what was discarded. */
export async function outgoingHasWork(context: Context): Promise<boolean> {
	return (await mailIsDue(context)) || (await notFiled(context.db)).length > 0 || (await hasDiscarded(context.db));
}

/** Sends and files what is due, and forgets what was discarded: until then that can be taken back. */
export async function clearOutgoing(context: Context): Promise<{ sent: number; failed: number }> {
	const outcome = await sendDueMail(context);
	await inTransaction(context.db, forgetDiscarded);
	return outcome;
}

/** The use cases of this file. */
export const sendMailUseCases = [
	defineUseCase({
		name: 'sendMail',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: sendMail
	}),
	defineUseCase({
		name: 'writeAndSend',
		input: () => Joi.object(mailFields).required(),
		thread: 'writer',
		right: 'administrator',
		run: writeAndSend
	}),
	defineUseCase({
		name: 'noteSent',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: noteSent
	}),
	defineUseCase({ name: 'sendDueMail', thread: 'writer', right: 'administrator', run: sendDueMail }),
	defineUseCase({ name: 'mailIsDue', thread: 'reader', right: 'administrator', run: mailIsDue })
] as const;
