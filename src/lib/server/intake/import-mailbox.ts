import { createHash } from 'node:crypto';
import { rm } from 'node:fs/promises';
import path from 'node:path';
import { setTimeout } from 'node:timers/promises';
import Joi from 'joi';
import { showCount } from '../../../core/weigh/units.ts';
import { type Context, defineJob, ENDING, text } from '../context/index.ts';
import { type Db, inTransaction, refreshStatistics, withSmallCache } from '../database/index.ts';
import { closeParsePool, ensureMailbox, hasFilesToRead, warmParsePool } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { asFarAsItGoes, inBatches, oneAhead } from './batches.ts';
import { listSource, type SourceFile } from './containers.ts';
import {
	addImport,
	awaitsAnswers,
	countOddities,
	endImport,
	getImportCounts,
	type ImportCounts,
	takeUnfinishedImport
} from './imports-store.ts';
import { readSource, type SourcePosition } from './mail-files.ts';
import { parsePieces } from './parse-pieces.ts';
import { placeNewMail } from './place-mail.ts';
import { storeBatch, type Target } from './store-pieces.ts';
import { requireAsSent } from './uploads.ts';

/** The options of an import. */
export interface ImportInput {
	/** A local file or folder. */
	path: string;
	/** Name of the mailbox, which is created if it is new. */
	mailbox: string;
	/** Folder for the mail, created if it is new; undefined: the inbox. Folders of the source become its subfolders. */
	folder?: string | undefined;
	/** The name of the source in the report; undefined: its path. */
	source?: string | undefined;
	/** A folder of an upload, removed after a complete import. */
	upload?: string | undefined;
	/** Whether nobody else uses this process, as at a terminal. */
	alone?: boolean | undefined;
}

/** The counts of an import: read = added + already + unreadable (invariant 14). */
export interface ImportResult extends ImportCounts {
	mailbox: string;
	import: number;
	/** Messages listed as odd, including the unreadable ones. */
	odd: number;
	stopped: boolean;
}

/* Bytes a transaction. Larger ones halve the cost of the index of words a message, and delay others for longer. */
const BATCHES = {
	server: { messages: 250, bytes: 8_000_000, writingMs: 0 },
	terminal: { messages: 2_000, bytes: 10_000_000, writingMs: 1_500 }
};
/* After writing for this long others get their turn: waiting writers retry every tenth of a second or sooner. */
const OTHERS_TURN_MS = 50;
/* Continues the same import if it was interrupted, else begins a new one. */
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

/*
 * The way of a message in, a stage a file, in one direction: the source (containers) is split (mail-files), parsed in
 * threads (parse-pieces), grouped (batches), stored (store-pieces), and placed among existing mail (place-mail).
 *
 * @returns whether a person stopped it
 */
async function bringIn(context: Context, { alone }: ImportInput, { files, target, position }: Begun): Promise<boolean> {
	const total = files.reduce((sum, { bytes }) => sum + bytes, 0);
	const readBefore = (await getImportCounts(context.db, target.importId)).read;
	const began = performance.now();
	let read = readBefore;
	const batches = BATCHES[alone ? 'terminal' : 'server'];
	let broken: { error: unknown } | undefined;
	const source = asFarAsItGoes(readSource(files, position), (error) => (broken = { error }));
	const pieces = parsePieces(source, context.signal);
	const stopped = await withSmallCache(context.db, async () => {
		let lastTurn: number | undefined;
		for await (const batch of oneAhead(inBatches(pieces, batches))) {
			if (lastTurn === undefined) lastTurn = performance.now();
			else if (performance.now() - lastTurn > batches.writingMs) {
				await setTimeout(OTHERS_TURN_MS);
				lastTurn = performance.now();
			}
			read += (await storeBatch(context, target, batch)).read;
			const done = batch.pieces.at(-1)?.piece.behind ?? 0;
			const aSecond = Math.round((read - readBefore) / Math.max(1, (performance.now() - began) / 1_000));
			context.report({ done, total, note: `${showCount(read)} messages read, ${showCount(aSecond)} a second` });
		}
		const cutShort = context.signal.aborted;
		// parsing is done: the threads' memory is freed before the next work
		if (alone) await closeParsePool();
		await placeNewMail(context, target.mailboxId);
		return cutShort;
	});
	if (broken) throw broken.error;
	return stopped;
}

/** What comes after new mail: words inside attachments, and threads that were awaited. */
export async function followNewMail(context: Context, mailboxId: number): Promise<void> {
	await refreshStatistics(context.db);
	await followWithFiles(context);
	await followWithAnswers(context, mailboxId);
}

/* Words inside attachments are read in the background, after the import. */
async function followWithFiles(context: Context): Promise<void> {
	if (await hasFilesToRead(context.db))
		await context.follow(context.db, { useCase: 'readFiles', input: undefined, about: { kind: 'files' }, once: true });
}

/* What is awaited comes back with its answer. */
async function followWithAnswers(context: Context, mailboxId: number): Promise<void> {
	if (await awaitsAnswers(context.db, mailboxId))
		await context.follow(context.db, {
			useCase: 'returnAwaited',
			input: undefined,
			about: { kind: 'awaited' },
			once: true
		});
}

/**
 * Imports mail: reads a source as a stream, stores the bytes of each message once, and adds an item for each to a
 * folder. Messages imported into the same folder before are not added again; what is no message is kept raw and
 * listed.
 *
 * @throws Refusal if the source cannot be read; what was stored stays, and the same import continues from there
 */
export async function importMailbox(context: Context, input: ImportInput): Promise<ImportResult> {
	try {
		if (input.upload) await requireAsSent(input.upload);
		const files = await listSource(input.path);
		if (files.length === 0)
			throw new Refusal('bad-input', `There are no files in "${input.path}". Nothing was imported.`);
		warmParsePool(input.alone);
		const { target, position } = await begin(context, input, input.source ?? input.path, files);
		const end = (db: Db, state: 'done' | 'stopped') => endImport(db, target.importId, state, context.now());
		const stopped = await bringIn(context, input, { files, target, position }).catch(async (error: unknown) => {
			// if not even this can be written, its dead process shows that it ended
			await end(context.db, 'stopped').catch(() => {});
			throw error;
		});
		return await inTransaction(context.db, async (db) => {
			await end(db, stopped ? 'stopped' : 'done');
			await followNewMail({ ...context, db }, target.mailboxId);
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
		// the server is ending: the rest of the upload is imported after its next start
		if (input.upload && context.signal.reason !== ENDING) await rm(input.upload, { recursive: true, force: true });
	}
}

/** The use cases of this file. */
export const importMailboxUseCases = [
	defineJob(
		{
			name: 'importMailbox',
			input: () =>
				Joi.object({
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
