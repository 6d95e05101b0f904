import { createHash } from 'node:crypto';
import { rm } from 'node:fs/promises';
import path from 'node:path';
import {
	addItems,
	closeParsePool,
	type Correspondent,
	ensureFolder,
	ensureMailbox,
	hasFilesToRead,
	type MessageRows,
	type NewItem,
	type ParsedMessage,
	parseInThread,
	putContents,
	putCorrespondents,
	putLists,
	putMessages,
	refreshStatistics,
	warmParsePool
} from '../mail/index.ts';
import { setTimeout } from 'node:timers/promises';
import { receivedDate, type ReceivedDate } from '../../../core/message/date.ts';
import { ODDITIES } from '../../../core/message/summary.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { type Db, inTransaction, withSmallCache } from '../database/index.ts';

import { listSource, type SourceFile } from './containers.ts';
import { type Piece, readSource, type SourcePosition } from './mail-files.ts';
import { requireAsSent } from './uploads.ts';
import {
	addImport,
	addImportCounts,
	addOddities,
	countOddities,
	endImport,
	getImportCounts,
	type ImportCounts,
	takeUnfinishedImport,
	type Oddity
} from './imports-store.ts';
import { appendLedger } from '../ledger/index.ts';
import { type Context, defineJob, ENDING, nowSeconds, text, today } from '../context/index.ts';
import { Refusal } from '../refusal.ts';
import { placeNewMail } from './place-mail.ts';
import Joi from 'joi';

/** What is to be brought in. */
export interface ImportInput {
	/** A file or folder on this machine. */
	path: string;
	/** Name of the mailbox; it is made where it is new. */
	mailbox: string;
	/** Folder to put the mail into, made where it is new; without it, the inbox. Folders of the source come below. */
	folder?: string | undefined;
	/** What the source is called in the report; without it, its path. */
	source?: string | undefined;
	/** A folder of an upload, removed when its mail is in. */
	upload?: string | undefined;
	/** Nobody else waits for this process: the terminal's. */
	alone?: boolean | undefined;
}

/** What came in: read = added + already + unreadable (invariant 14). */
export interface ImportResult extends ImportCounts {
	mailbox: string;
	import: number;
	/** Messages listed with a doubt, the unreadable ones among them. */
	odd: number;
	stopped: boolean;
}

const BUNDLE_MESSAGES = 32;
const BUNDLE_BYTES = 1_000_000;
/* A transaction each. Larger ones cost the index of words half as much for each message, and hold up others for longer. */
const BATCHES = {
	server: { messages: 250, bytes: 8_000_000, writingMs: 0 },
	terminal: { messages: 2_000, bytes: 10_000_000, writingMs: 1_500 }
};
/* After having written for so long others may write: who waits looks again every tenth of a second at the latest. */
const OTHERS_TURN_MS = 50;
/* Read and not yet stored: bounded, so that memory stays flat however large the file is. */
const AHEAD_BUNDLES = 80;
const AHEAD_BYTES = 4_000_000;

interface ParsedPiece {
	piece: Piece;
	parsed: ParsedMessage;
}

const HANDED_OVER = new Uint8Array();

interface Bundle {
	pieces: Piece[];
	messages: Uint8Array[];
	bytes: number;
}

/* Several small messages, or a large one, for one thread. */
async function* bundled(source: AsyncIterable<Piece[]>, signal: AbortSignal): AsyncGenerator<Bundle> {
	let bundle: Bundle = { pieces: [], messages: [], bytes: 0 };
	for await (const pieces of source) {
		if (signal.aborted) break;
		for (const piece of pieces) {
			const { bytes } = piece;
			// what is handed over is not held here
			piece.bytes = HANDED_OVER;
			bundle.pieces.push(piece);
			bundle.messages.push(bytes);
			bundle.bytes += bytes.length;
			if (bundle.messages.length < BUNDLE_MESSAGES && bundle.bytes < BUNDLE_BYTES) continue;
			yield bundle;
			bundle = { pieces: [], messages: [], bytes: 0 };
		}
	}
	if (bundle.messages.length > 0) yield bundle;
}

/* Where the source breaks off, what stood before that is brought in first. */
async function* asFarAsItGoes<T>(values: AsyncIterable<T>, breaksOff: (error: unknown) => void): AsyncGenerator<T> {
	try {
		yield* values;
	} catch (error) {
		breaksOff(error);
	}
}

/* Makes each ready while the one before is used. */
async function* oneAhead<T>(values: AsyncGenerator<T>): AsyncGenerator<T> {
	const begin = () => {
		const next = values.next();
		next.catch(() => {}); // thrown when its turn comes
		return next;
	};
	try {
		for (let next = begin(); ;) {
			const { done, value } = await next;
			if (done) return;
			next = begin();
			yield value;
		}
	} finally {
		void values.return(undefined);
	}
}

/* Reading runs ahead of the parse threads, which run ahead of the database; what comes out keeps its order. */
async function* parsed(pieces: AsyncIterable<Piece[]>, signal: AbortSignal): AsyncGenerator<ParsedPiece> {
	const ahead: { bundle: Bundle; parsing: Promise<ParsedMessage[]> }[] = [];
	let bytesAhead = 0;
	const next = async (): Promise<ParsedPiece[]> => {
		const { bundle, parsing } = ahead.shift() as (typeof ahead)[number];
		bytesAhead -= bundle.bytes;
		const done = await parsing;
		return bundle.pieces.map((piece, at) => ({ piece, parsed: done[at] as ParsedMessage }));
	};
	for await (const bundle of bundled(pieces, signal)) {
		const parsing = parseInThread(bundle.messages);
		parsing.catch(() => {}); // looked at in order, by next()
		bundle.messages = [];
		ahead.push({ bundle, parsing });
		bytesAhead += bundle.bytes;
		while (ahead.length > AHEAD_BUNDLES || (bytesAhead > AHEAD_BYTES && ahead.length > 1)) yield* await next();
	}
	// what was read and not stored when a person stops is read again when the import goes on
	while (ahead.length > 0 && !signal.aborted) yield* await next();
}

interface Batch {
	pieces: ParsedPiece[];
	/** Whether nothing comes behind it. */
	last: boolean;
}

async function* inBatches(
	parsedPieces: AsyncIterable<ParsedPiece>,
	largest: { messages: number; bytes: number }
): AsyncGenerator<Batch> {
	let pieces: ParsedPiece[] = [];
	let bytes = 0;
	// the first is small, so that storing begins soon
	let enough = largest.bytes / 5;
	for await (const piece of parsedPieces) {
		if (pieces.length >= largest.messages || bytes >= enough) {
			yield { pieces, last: false };
			enough = largest.bytes;
			pieces = [];
			bytes = 0;
		}
		pieces.push(piece);
		bytes += piece.parsed.packed.rawBytes;
	}
	if (pieces.length > 0) yield { pieces, last: true };
}

interface Place {
	/** Where the items of a path in the source go. */
	folderId: number;
	/** Whether that is the bin (invariant 1). */
	isBin: boolean;
}

/* The folders of a batch, by their path in the source. */
async function places(db: Db, target: Target, paths: Iterable<string>): Promise<Map<string, Place>> {
	const found = new Map<string, Place>();
	for (const inSource of new Set(paths)) {
		const path = [target.folder, inSource].filter(Boolean).join('/') || 'Inbox';
		const folder = await ensureFolder(db, target.mailboxId, 'mailbox', path);
		const [topName = path] = folder.path.split('/');
		const top = folder.parentId === null ? folder : await ensureFolder(db, target.mailboxId, 'mailbox', topName);
		found.set(inSource, { folderId: folder.id, isBin: top.role === 'trash' });
	}
	return found;
}

type Lies = Pick<NewItem, 'state' | 'folderId' | 'originFolderId' | 'importedFolderId'>;

/* An item in the bin goes back to the inbox, or to the folder in which it was marked as deleted. */
async function binned(db: Db, mailboxId: number, { folderId, isBin }: Place): Promise<Lies> {
	const other = (await ensureFolder(db, mailboxId, 'mailbox', isBin ? 'Inbox' : 'Trash')).id;
	const [lies, from] = isBin ? [folderId, other] : [other, folderId];
	return { state: 'binned', folderId: lies, originFolderId: from, importedFolderId: folderId };
}

interface Target {
	importId: number;
	mailboxId: number;
	mailbox: string;
	folder: string | undefined;
	source: string;
}

function receivedOf(context: Context, piece: Piece, read: MessageRows): ReceivedDate {
	return receivedDate(
		{ received: read.receivedAt, envelope: piece.envelopeDate, date: read.sentAt },
		nowSeconds(context)
	);
}

/* Why a piece is listed in the report; the first entry of an unreadable one says why it has no item. */
function reasons(context: Context, { piece, parsed: { read, failure } }: ParsedPiece): string[] {
	if (piece.unreadable) return [piece.unreadable];
	if (!read) return [failure ?? 'has no header that mail has'];
	const received = receivedOf(context, piece, read);
	const odd = read.oddities.map((oddity) => ODDITIES[oddity]);
	return received.inDoubt && read.sentAt !== undefined ? [...odd, ODDITIES['date-in-doubt']] : odd;
}

async function storeBatch(context: Context, target: Target, { pieces: batch, last }: Batch): Promise<ImportCounts> {
	return inTransaction(context.db, async (db) => {
		const contentIds = await putContents(
			db,
			batch.map(({ parsed }) => parsed.packed)
		);
		const readable = batch.flatMap(({ piece, parsed: { packed, read } }, at) =>
			read && !piece.unreadable ? [{ piece, read, bytes: packed.rawBytes, contentId: contentIds[at] as number }] : []
		);
		const messageIds = await putMessages(db, readable);
		const people = await putCorrespondents(
			db,
			readable.map(({ read }) => read.from)
		);
		const lists = await putLists(
			db,
			readable.map(({ read }) => read.list)
		);
		const folders = await places(
			db,
			target,
			readable.map(({ piece }) => piece.folderPath)
		);
		const items: NewItem[] = [];
		for (const [at, { piece, read, bytes }] of readable.entries()) {
			const received = receivedOf(context, piece, read);
			const person = people.get(read.from.address) as Correspondent;
			const place = folders.get(piece.folderPath) as Place;
			const { folderId } = place;
			const lies: Lies =
				place.isBin || piece.trashed
					? await binned(db, target.mailboxId, place)
					: { state: 'live', folderId, originFolderId: undefined, importedFolderId: folderId };
			const flags = piece.flags ?? read.flags;
			// field by field: fifty thousand times a copy of another object would be felt
			items.push({
				state: lies.state,
				folderId: lies.folderId,
				originFolderId: lies.originFolderId,
				importedFolderId: lies.importedFolderId,
				mailboxId: target.mailboxId,
				messageId: messageIds[at] as number,
				receivedAt: received.at,
				receivedOn: received.at === undefined ? undefined : context.dateOf(received.at),
				dateInDoubt: received.inDoubt,
				bytes,
				seen: flags.seen,
				answered: flags.answered,
				flagged: flags.flagged,
				draft: flags.draft,
				attachments: read.attachments,
				attachmentKinds: read.attachmentKinds,
				correspondentId: person.id,
				organisationId: person.organisationId,
				listId: lists.get(read.list.listId),
				mailKind: read.mailKind,
				binnedOn: lies.state === 'binned' ? today(context) : undefined
			});
		}
		const added = await addItems(db, items);
		const oddities = batch.flatMap((entry, at): Oddity[] =>
			reasons(context, entry).map((reason) => ({
				contentId: contentIds[at] as number,
				place: entry.piece.place,
				reason
			}))
		);
		await addOddities(db, target.importId, oddities);
		const counts: ImportCounts = {
			read: batch.length,
			added,
			already: readable.length - added,
			unreadable: batch.length - readable.length,
			bytes: batch.reduce((sum, { parsed }) => sum + parsed.packed.rawBytes, 0)
		};
		await addImportCounts(db, target.importId, counts, batch.at(-1)?.piece.next as SourcePosition);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'imported',
			details: {
				mailbox: target.mailbox,
				source: target.source,
				import: target.importId,
				...counts,
				...(last ? {} : { continues: true })
			}
		});
		return counts;
	});
}

/* Goes on with the same import where it was cut off, else begins a new one. */
async function begin(
	context: Context,
	input: ImportInput,
	source: string,
	files: readonly SourceFile[]
): Promise<{ target: Target; position: SourcePosition }> {
	const fingerprint = createHash('sha256')
		.update(JSON.stringify(files.map(({ name, bytes, version }) => [name, bytes, version])))
		.digest('hex');
	return inTransaction(context.db, async (db) => {
		const mailbox = await ensureMailbox(context, db, input.mailbox);
		const folder = input.folder || undefined;
		const key = { mailboxId: mailbox.id, path: path.resolve(input.path), folder: folder ?? '', fingerprint };
		const cutOff = await takeUnfinishedImport(db, key);
		const importId = cutOff?.id ?? (await addImport(db, key, source, context.now()));
		return {
			target: { importId, mailboxId: mailbox.id, mailbox: mailbox.name, folder, source },
			position: cutOff?.position ?? { file: 0, offset: 0 }
		};
	});
}

interface Begun {
	files: readonly SourceFile[];
	target: Target;
	position: SourcePosition;
}

/* Brings in what comes behind a place in the source. @returns whether a person stopped it */
async function bringIn(context: Context, { alone }: ImportInput, { files, target, position }: Begun): Promise<boolean> {
	const total = files.reduce((sum, { bytes }) => sum + bytes, 0);
	let read = (await getImportCounts(context.db, target.importId)).read;
	const batches = BATCHES[alone ? 'terminal' : 'server'];
	let broken: { error: unknown } | undefined;
	const source = asFarAsItGoes(readSource(files, position), (error) => (broken = { error }));
	const pieces = parsed(source, context.signal);
	const stopped = await withSmallCache(context.db, async () => {
		let lastTurn = performance.now();
		for await (const batch of oneAhead(inBatches(pieces, batches))) {
			read += (await storeBatch(context, target, batch)).read;
			const done = batch.pieces.at(-1)?.piece.behind ?? 0;
			context.report({ done, total, note: `${showCount(read)} messages read` });
			if (performance.now() - lastTurn > batches.writingMs) {
				await setTimeout(OTHERS_TURN_MS);
				lastTurn = performance.now();
			}
		}
		const cutShort = context.signal.aborted;
		// nothing is left to parse: what the threads take is given back before the next work begins
		if (alone) await closeParsePool();
		await placeNewMail(context, target.mailboxId);
		return cutShort;
	});
	if (broken) throw broken.error;
	return stopped;
}

/* Words inside attachments are read in the background: nobody waits for them. */
async function followWithFiles(context: Context): Promise<void> {
	if (await hasFilesToRead(context.db))
		await context.follow(context.db, { useCase: 'readFiles', input: undefined, about: { kind: 'files' }, once: true });
}

/**
 * Brings mail in: reads a source as a stream, keeps the bytes of each message once, and puts an item for each into a
 * folder. What was imported into the same folder before is not added again; what is no message is kept raw and listed.
 *
 * @throws Refusal where the source cannot be read; what was stored by then stays, and the same import goes on from there
 */
export async function importMailbox(context: Context, input: ImportInput): Promise<ImportResult> {
	try {
		if (input.upload) await requireAsSent(input.upload);
		const files = await listSource(input.path);
		if (files.length === 0)
			throw new Refusal('bad-input', `There are no files in "${input.path}". Nothing was brought in.`);
		warmParsePool(input.alone);
		const { target, position } = await begin(context, input, input.source ?? input.path, files);
		const end = (db: Db, state: 'done' | 'stopped') => endImport(db, target.importId, state, context.now());
		const stopped = await bringIn(context, input, { files, target, position }).catch(async (error: unknown) => {
			// where not even this can be written, it is known by its process
			await end(context.db, 'stopped').catch(() => {});
			throw error;
		});
		return await inTransaction(context.db, async (db) => {
			await end(db, stopped ? 'stopped' : 'done');
			await refreshStatistics(db);
			await followWithFiles({ ...context, db });
			const counts = await getImportCounts(db, target.importId);
			return {
				mailbox: target.mailbox,
				import: target.importId,
				...counts,
				odd: await countOddities(db, target.importId),
				stopped
			};
		});
	} finally {
		// nobody asked for the end of the server: the rest of the upload comes in after its next start
		if (input.upload && context.signal.reason !== ENDING) await rm(input.upload, { recursive: true, force: true });
	}
}

/** The use cases of this file. */
export const importMailboxUseCases = [
	defineJob(
		{
			name: 'importMailbox',
			input: Joi.object({
				path: text.required(),
				mailbox: text.required(),
				folder: text,
				source: text,
				upload: text,
				alone: Joi.boolean()
			}).required(),
			thread: 'writer',
			right: 'administrator',
			run: importMailbox
		},
		{
			lane: 'import',
			about: (_context, { path: file, source, mailbox }) => ({
				kind: 'import',
				source: source ?? path.basename(file),
				mailbox
			})
		}
	)
] as const;
