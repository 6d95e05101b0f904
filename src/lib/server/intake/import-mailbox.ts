import { createHash } from 'node:crypto';
import { rm } from 'node:fs/promises';
import path from 'node:path';
import { setTimeout } from 'node:timers/promises';
import Joi from 'joi';
import { showCount } from '../../../core/weigh/units.ts';
import { type Context, defineJob, ENDING, text } from '../context/index.ts';
import { type Db, inTransaction, withSmallCache } from '../database/index.ts';
import { closeParsePool, ensureMailbox, hasFilesToRead, refreshStatistics, warmParsePool } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { asFarAsItGoes, inBatches, oneAhead } from './batches.ts';
import { listSource, type SourceFile } from './containers.ts';
import {
	addImport,
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

/* A transaction each. Larger ones cost the index of words half as much for each message, and hold up others for longer. */
const BATCHES = {
	server: { messages: 250, bytes: 8_000_000, writingMs: 0 },
	terminal: { messages: 2_000, bytes: 10_000_000, writingMs: 1_500 }
};
/* After having written for so long others may write: who waits looks again every tenth of a second at the latest. */
const OTHERS_TURN_MS = 50;
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

/*
 * The way of a message in, a stage a file, and never back: the source (containers) is split (mail-files), parsed in threads
 * (parse-pieces), put into batches (batches), stored (store-pieces), and placed among what is there (place-mail).
 *
 * @returns whether a person stopped it
 */
async function bringIn(context: Context, { alone }: ImportInput, { files, target, position }: Begun): Promise<boolean> {
	const total = files.reduce((sum, { bytes }) => sum + bytes, 0);
	let read = (await getImportCounts(context.db, target.importId)).read;
	const batches = BATCHES[alone ? 'terminal' : 'server'];
	let broken: { error: unknown } | undefined;
	const source = asFarAsItGoes(readSource(files, position), (error) => (broken = { error }));
	const pieces = parsePieces(source, context.signal);
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
