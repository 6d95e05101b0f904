import { createHash } from 'node:crypto';
import { mkdir, rm, writeFile } from 'node:fs/promises';
import path from 'node:path';
import MimeNode from 'nodemailer/lib/mime-node/index.js';
import { type CalendarDate, daysAfter, showDate } from '../../../core/calendar.ts';
import { digestDay, type DigestRhythm, DIGEST_RHYTHMS, digestSubject, digestText } from '../../../core/lists/digest.ts';
import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import {
	getMailbox,
	type Mailbox,
	type MailboxRef,
	putDigesting,
	readableContent,
	requireMailbox
} from '../mail/index.ts';
import {
	addDigest,
	digestLists,
	digestsWithoutDocket,
	type Folded,
	lastDigest,
	oldestToFold,
	mailboxesWithDigest,
	putDigestDocket,
	toFold
} from '../lists/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { carryOutScheduled } from '../docket/index.ts';
import { type Context, defineJob, defineUseCase, mailboxRef, text, today } from '../context/index.ts';
import { doEach } from '../do-each.ts';
import { importMailbox } from '../intake/index.ts';
import Joi from 'joi';

/** A finished digest. */
export interface DigestMade {
	mailbox: string;
	day: CalendarDate;
	messages: number;
	/** The docket that archives the originals, and whether a person has to carry it out. */
	docket: number | undefined;
	asks: boolean;
}

/* The size that any reader opens; the rest goes into the next digest. */
const MOST_MESSAGES = 500;
const MOST_BYTES = 20_000_000;
/* Name of the dockets that archive the originals. */
const DIGEST = 'Originals of the digest';

/* Stands in for a message with damaged bytes, which does not hold up the others. */
const DAMAGED = Buffer.from(
	'Subject: (damaged)\n\nThe stored bytes of this message are damaged. Its original stays as it is.\n'
);
/* Converts bare line feeds to the line breaks of mail; the original is not changed. */
function asMail(bytes: Uint8Array): Buffer {
	const text = Buffer.from(bytes).toString('latin1');
	return Buffer.from(text.replace(/\r\n|\r|\n/g, '\r\n'), 'latin1');
}

/* The same boundary for the same messages, and absent from them: they may be hostile. */
function boundaryFor(what: string, contents: readonly Buffer[]): string {
	for (let attempt = 0; ; attempt++) {
		const boundary = createHash('sha256').update(`${what} ${attempt}`).digest('hex').slice(0, 32);
		if (!contents.some((bytes) => bytes.includes(boundary))) return boundary;
	}
}

/**
 * The digest as a message: a summary, then the messages as a multipart/digest (RFC 2046 section 5.1.5). The same
 * messages give the same bytes, so that repeating an interrupted one adds no second.
 */
async function composeDigest(
	context: Context,
	mailbox: Mailbox,
	day: CalendarDate,
	folded: readonly Folded[]
): Promise<{ bytes: Buffer; messageId: string }> {
	const entries = folded.map(({ list, isList, subject, fromName, fromAddress, receivedOn }) => ({
		list,
		isList: isList === 1,
		subject,
		from: fromName || fromAddress,
		receivedOn
	}));
	const contents: Buffer[] = [];
	for (const { contentId } of folded)
		contents.push(asMail(new Uint8Array((await readableContent(context.db, contentId)) ?? DAMAGED)));
	const seed = boundaryFor(JSON.stringify([mailbox.id, day, folded.map(({ itemId }) => itemId)]), contents);
	const address = mailbox.addresses[0] ?? 'digest@kovrel.invalid';
	const messageId = `<digest.${day}.${seed.slice(0, 24)}@${address.split('@')[1] ?? 'kovrel.invalid'}>`;
	const root = new MimeNode('multipart/mixed', {
		baseBoundary: seed,
		disableFileAccess: true,
		disableUrlAccess: true
	});
	root.setHeader({
		from: { name: `Digest for ${mailbox.name}`, address },
		to: { name: mailbox.name, address },
		subject: digestSubject(day, entries),
		// the midnight after the day, as RFC 5322 writes it
		date: new Date(`${daysAfter(day, 1)}T00:00:00Z`).toUTCString().replace('GMT', '+0000'),
		'message-id': messageId
	});
	root.createChild('text/plain; charset=utf-8').setContent(digestText(mailbox.name, day, entries));
	const digest = root.createChild('multipart/digest');
	for (const bytes of contents)
		digest
			.createChild('message/rfc822')
			.setRaw(Buffer.concat([Buffer.from('Content-Type: message/rfc822\r\n\r\n'), bytes]));
	return { bytes: await root.build(), messageId };
}

function withinBytes(folded: readonly Folded[]): Folded[] {
	let bytes = 0;
	return folded.filter((message, at) => {
		bytes += message.bytes;
		return at === 0 || bytes <= MOST_BYTES;
	});
}

/* Archives the digest's messages: the first time, a person is asked. */
async function archiveOriginals(
	context: Context,
	mailbox: Mailbox
): Promise<{ docket: number | undefined; asks: boolean }> {
	const archived: { docket: number | undefined; asks: boolean } = { docket: undefined, asks: false };
	if (!mailbox.archives) return archived;
	for (const { id, itemIds, day } of await digestsWithoutDocket(context.db, mailbox.id)) {
		const done = await carryOutScheduled(context, mailbox, {
			name: DIGEST,
			lines: [
				{
					decision: 'archive',
					options: {},
					scope: { kind: 'items', ids: itemIds, label: `in the digest of ${showDate(day)}` }
				}
			],
			adds: true,
			note: ({ db }, docket) => putDigestDocket(db, id, docket.id)
		});
		archived.docket = done?.docket.id;
		archived.asks = done?.asks ?? false;
	}
	return archived;
}

async function makeOne(context: Context, mailbox: Mailbox): Promise<DigestMade | undefined> {
	const { db } = context;
	const folds = await digestLists(db, mailbox.id);
	const [first] = [...folds.values(), (await oldestToFold(db, mailbox.id)) ?? []].flat().sort();
	if (first === undefined) return undefined;
	const last = (await lastDigest(db, mailbox.id))?.day;
	const before = daysAfter(first, -1);
	const day = digestDay(mailbox.digestEvery, last !== undefined && last > before ? last : before, today(context));
	const folded = day === undefined ? [] : withinBytes(await toFold(db, mailbox.id, day, MOST_MESSAGES));
	if (day === undefined || folded.length === 0) {
		// continues one that was interrupted before its originals were archived
		await archiveOriginals(context, mailbox);
		return undefined;
	}
	const { bytes, messageId } = await composeDigest(context, mailbox, day, folded);
	const folder = path.join(context.dataFolder, 'digests');
	await mkdir(folder, { recursive: true });
	const file = path.join(folder, `${mailbox.id}-${day}.eml`);
	await writeFile(file, bytes);
	await importMailbox(context, { path: file, mailbox: mailbox.name, folder: mailbox.digestFolder, source: 'digest' });
	await inTransaction(db, async (trx) => {
		await addDigest(
			trx,
			{ mailboxId: mailbox.id, day, messageId },
			folded.map(({ itemId }) => itemId),
			context.now()
		);
		await appendLedger(trx, {
			at: context.now(),
			by: context.actor,
			action: 'digest-made',
			details: { mailbox: mailbox.name, day, messages: folded.length, messageId }
		});
	});
	await rm(file);
	return { mailbox: mailbox.name, day, messages: folded.length, ...(await archiveOriginals(context, mailbox)) };
}

/** Makes the due digests, of complete days. */
export async function makeDigests(context: Context): Promise<DigestMade[]> {
	const made: DigestMade[] = [];
	const make = async (mailbox: Mailbox) => {
		const one = await makeOne(context, mailbox);
		if (one) made.push(one);
	};
	const mailboxes = await Promise.all((await mailboxesWithDigest(context.db)).map((id) => getMailbox(context.db, id)));
	await doEach(
		context,
		mailboxes
			.filter((mailbox) => mailbox !== undefined)
			.map((mailbox) => ({ name: mailbox.name, work: () => make(mailbox) }))
	);
	return made;
}

/** Sets how often a mailbox gets its digest, and into which folder. @throws Refusal */
export async function setDigest(
	context: Context,
	input: { mailbox: MailboxRef; every?: DigestRhythm | undefined; folder?: string | undefined }
): Promise<Mailbox> {
	const folder = input.folder?.trim();
	if (input.every !== undefined && !DIGEST_RHYTHMS.includes(input.every))
		throw new Refusal('bad-input', 'A digest is made every day or every week. Nothing was changed.');
	if (folder === '') throw new Refusal('bad-input', 'Name the folder for the digests. Nothing was changed.');
	return inTransaction(context.db, async (db) => {
		const mailbox = await requireMailbox({ ...context, db }, input.mailbox);
		const next = {
			...mailbox,
			digestEvery: input.every ?? mailbox.digestEvery,
			digestFolder: folder ?? mailbox.digestFolder
		};
		await putDigesting(db, mailbox.id, next);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'digest-set',
			details: { mailbox: mailbox.name, every: next.digestEvery, folder: next.digestFolder }
		});
		return next;
	});
}

/** The use cases of this file. */
export const makeDigestsUseCases = [
	defineUseCase({
		name: 'setDigest',
		input: () =>
			Joi.object({ mailbox: mailboxRef.required(), every: Joi.valid('day', 'week'), folder: text }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setDigest
	}),
	defineJob(
		{
			name: 'makeDigests',
			thread: 'writer',
			right: 'administrator',
			run: makeDigests
		},
		{ lane: 'docket', about: () => ({ kind: 'digests' }) }
	)
] as const;
