import { createHash } from 'node:crypto';
import { appendFile, mkdir, readdir, utimes, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { finished } from 'node:stream/promises';
import { Readable } from 'node:stream';
import { stringify } from 'csv-stringify/sync';
import { ZipFile } from 'yazl';
import { CSV_FORMAT, harmlessCell } from '../../../core/formats/csv-cells.ts';
import { exportFileName, exportFolder, INDEX_COLUMNS } from '../../../core/formats/export-names.ts';
import { maildirDirectory, maildirInfo } from '../../../core/formats/maildir.ts';
import { mboxEntry } from '../../../core/formats/mbox-entry.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { type Db, inTransaction } from '../database/index.ts';
import { refusalIn } from '../machine-trouble.ts';
import { noteIfPossible } from '../note-if-possible.ts';
import { Refusal } from '../refusal.ts';
import {
	DamagedContentError,
	type ExportedItem,
	findFolder,
	folderWithBelow,
	itemIdsInOrder,
	itemsById,
	type Mailbox,
	recordCopies,
	readContent,
	requireMailbox
} from '../mail/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { type Context, defineJob, defineUseCase, foundState, id, text } from '../context/index.ts';
import { findAllIds, type FindInput } from './find.ts';
import { withinReach } from '../access/index.ts';
import Joi from 'joi';

/** The formats of an export. */
export const EXPORT_FORMATS = ['eml', 'mbox', 'maildir'] as const;
type ExportFormat = (typeof EXPORT_FORMATS)[number];

/** The messages to be exported, and the format. */
export interface ExportOptions {
	/** Name of a mailbox; undefined: all, then the query or the ids select messages. */
	mailbox?: string | undefined;
	/** Only this folder with its subfolders, in the mailbox and in its archive. */
	folder?: string | undefined;
	/** Only messages found by this search. */
	query?: string | undefined;
	/** Only in these states; undefined: in any. */
	states?: FindInput['states'];
	/** The query was not complete: its last word is a prefix. */
	typing?: boolean | undefined;
	/** Only these messages. */
	ids?: readonly number[] | undefined;
	format: ExportFormat;
}

/** The result of an export. */
export interface ExportResult {
	written: number;
	bytes: number;
	/** Places of messages with damaged bytes, which were not written. */
	damaged: string[];
	/** False if it was stopped. */
	finished: boolean;
	/** False where nothing could be written to the data folder: the ledger does not have it. */
	noted: boolean;
}

const STATES: NonNullable<FindInput['states']> = ['live', 'archived', 'binned'];

async function folderIds({ db }: Context, mailbox: Mailbox, folder: string): Promise<number[]> {
	const ids: number[] = [];
	for (const tree of ['mailbox', 'archive'] as const) {
		const found = await findFolder(db, mailbox.id, tree, folder);
		if (found) ids.push(...(await folderWithBelow(db, found.id)));
	}
	if (ids.length === 0)
		throw new Refusal('not-found', `${mailbox.name} has no folder "${folder}". Nothing was written.`);
	return ids;
}

/* By folder, so that each folder's file is written at once. Only the numbers of the messages are in memory. */
async function selectedIds(context: Context, wish: ExportOptions): Promise<number[]> {
	const ids = await wishedIds(context, wish);
	// in the order in which they are written
	const reached = context.actor.role === 'administrator' ? undefined : new Set(await withinReach(context, ids, 'find'));
	return reached ? ids.filter((id) => reached.has(id)) : ids;
}

async function wishedIds(context: Context, wish: ExportOptions): Promise<number[]> {
	const { db } = context;
	const mailbox = wish.mailbox === undefined ? undefined : await requireMailbox(context, wish.mailbox);
	const states = wish.states ?? STATES;
	if (wish.ids) return itemIdsInOrder(db, { ids: wish.ids, mailboxId: mailbox?.id });
	if (wish.query !== undefined) {
		const ids: number[] = [];
		for await (const found of findAllIds(context, { ...wish, query: wish.query, states })) ids.push(...found);
		return itemIdsInOrder(db, { ids, mailboxId: mailbox?.id });
	}
	if (!mailbox) throw new Refusal('bad-input', 'Say which mailbox, search or messages to export. Nothing was written.');
	return itemIdsInOrder(db, {
		mailboxId: mailbox.id,
		folderIds: wish.folder ? await folderIds(context, mailbox, wish.folder) : undefined
	});
}

const ITEMS_AT_ONCE = 200;

async function* itemsOf(context: Context, ids: readonly number[]): AsyncGenerator<ExportedItem> {
	for (let from = 0; from < ids.length; from += ITEMS_AT_ONCE)
		yield* await itemsById(context.db, ids.slice(from, from + ITEMS_AT_ONCE));
}

/* ---- forms ---- */

/** How a format lays out messages as files; places are paths in the export, with slashes. */
interface Form {
	place(item: ExportedItem, container: string): string;
	/** The directory or file of a folder; a number behind its name keeps two apart that would share one. */
	container(names: readonly string[], number: string): string;
	/** The bytes as the file contains them. */
	bytes(item: ExportedItem, bytes: Uint8Array): Uint8Array;
	/** Several messages share a file. */
	appends: boolean;
	/** Folders needed for a file at a place. */
	folders(place: string): string[];
}

function maildirFlags(item: ExportedItem): string {
	const info = maildirInfo({
		seen: item.seen === 1,
		answered: item.answered === 1,
		flagged: item.flagged === 1,
		draft: item.draft === 1
	});
	// some systems forbid a colon in file names
	return process.platform === 'win32' ? info.replace(':', ';') : info;
}

const FORMS: Record<ExportFormat, Form> = {
	eml: {
		container: (names, number) => `${names.join('/')}${number}`,
		place: (item, container) => `${container}/${exportFileName(item, 'eml')}`,
		bytes: (_item, bytes) => bytes,
		appends: false,
		folders: () => []
	},
	mbox: {
		// a folder called like the file of another one would be its directory
		container: (names, number) =>
			`${[...names.slice(0, -1).map((name) => name.replace(/\.mbox$/i, '$&_')), names.at(-1)].join('/')}${number}.mbox`,
		place: (_item, container) => container,
		bytes: (item, bytes) => mboxEntry(bytes, item.fromAddress, item.receivedAt ?? undefined),
		appends: true,
		folders: () => []
	},
	// the inbox is the Maildir itself, every other folder a Maildir++ folder in it
	maildir: {
		container: (names, number) =>
			names.join('/') === 'Inbox' && number === '' ? '' : `${maildirDirectory(names.join('/'))}${number}/`,
		place: (item, container) => `${container}cur/${item.receivedAt ?? 0}.${item.id}.kovrel${maildirFlags(item)}`,
		bytes: (_item, bytes) => bytes,
		appends: false,
		// the top has to be a Maildir too, or readers ignore its folders
		folders: (place) => {
			const directory = place.includes('/cur/') ? `${place.slice(0, place.indexOf('/cur/'))}/` : '';
			return ['', directory].flatMap((maildir) => ['cur', 'new', 'tmp'].map((part) => maildir + part));
		}
	}
};

/* ---- the index ---- */
const INDEX = 'index.csv';

function indexRow(item: ExportedItem, place: string): string[] {
	const from = item.fromName ? `${item.fromName} <${item.fromAddress}>` : item.fromAddress;
	const received = item.receivedAt === null ? null : new Date(item.receivedAt * 1000).toISOString();
	return [
		place,
		item.folder,
		item.state,
		received,
		from,
		item.recipients,
		item.subject,
		item.messageId,
		item.bytes,
		item.sha256
	].map(harmlessCell);
}

/* RFC 4180: lines end in CRLF. */
const csvLines = (rows: string[][]) => Buffer.from(stringify(rows, CSV_FORMAT));

/* ---- writing ---- */

/** A file of the export; a file shared by messages comes once, in pieces. */
interface ExportedFile {
	place: string;
	modified: Date | undefined;
	folders: string[];
	pieces: AsyncIterable<Uint8Array>;
}

/** Reads the selected messages, counts, and writes the result into the ledger. */
class Export {
	readonly result: ExportResult = { written: 0, bytes: 0, damaged: [], finished: false, noted: true };
	#context: Context;
	#wish: ExportOptions;
	#form: Form;
	#ids: number[];
	/** The directory or file of each folder, by its path. */
	#containers = new Map<string, string>();
	#taken = new Set<string>();
	#digest = createHash('sha256');
	#damaged = new Set<number>();
	#reached = 0;

	private constructor(context: Context, wish: ExportOptions, ids: number[]) {
		this.#context = context;
		this.#wish = wish;
		this.#ids = ids;
		this.#form = FORMS[wish.format];
	}

	/** @throws Refusal */
	static async of(context: Context, wish: ExportOptions): Promise<Export> {
		return new Export(context, wish, await selectedIds(context, wish));
	}

	/** Numbers of the messages to be written. */
	get ids(): readonly number[] {
		return this.#ids;
	}

	/*
	 * Each mailbox gets a folder of its own. Two folders whose names differ only in case, or are the same as names of files,
	 * stay apart: one would overwrite the other.
	 */
	#containerOf(item: ExportedItem): string {
		const path = this.#wish.mailbox === undefined ? `${item.mailbox.replaceAll('/', '_')}/${item.folder}` : item.folder;
		const known = this.#containers.get(path);
		if (known !== undefined) return known;
		const names = exportFolder(path);
		for (let n = 1; ; n++) {
			const container = this.#form.container(names, n === 1 ? '' : ` (${n})`);
			if (this.#taken.has(container.toLowerCase())) continue;
			this.#taken.add(container.toLowerCase());
			this.#containers.set(path, container);
			return container;
		}
	}

	#place(item: ExportedItem): string {
		return this.#form.place(item, this.#containerOf(item));
	}

	async *#indexPieces(): AsyncGenerator<Uint8Array> {
		yield csvLines([INDEX_COLUMNS]);
		let listed = 0;
		for await (const item of itemsOf(this.#context, this.#ids)) {
			// an export that was stopped lists what it has reached
			if (++listed > this.#reached) return;
			// what could not be read is listed without a file
			yield csvLines([indexRow(item, this.#damaged.has(item.id) ? '' : this.#place(item))]);
		}
	}

	async #read(item: ExportedItem, place: string): Promise<Uint8Array | undefined> {
		this.#reached++;
		try {
			const bytes = await readContent(this.#context.db, item.contentId);
			if (!bytes) throw new DamagedContentError(`The bytes of item ${item.id} are not there`);
			this.#digest.update(item.sha256);
			this.result.written++;
			this.result.bytes += bytes.length;
			if (this.result.written % 100 === 0)
				this.#context.report({
					done: this.result.written,
					total: this.#ids.length,
					note: `${showCount(this.result.written)} of ${showCount(this.#ids.length)} messages written`
				});
			return this.#form.bytes(item, bytes);
		} catch (error) {
			if (!(error instanceof DamagedContentError)) throw error;
			this.result.damaged.push(place);
			this.#damaged.add(item.id);
			return undefined;
		}
	}

	/** The files in order; each has to be read to its end before the next. */
	async *files(): AsyncGenerator<ExportedFile> {
		const items = itemsOf(this.#context, this.#ids);
		let next = await items.next();
		while (!next.done && !this.#context.signal.aborted) {
			const first: ExportedItem = next.value;
			const place = this.#place(first);
			const read = (item: ExportedItem) => this.#read(item, place);
			const { appends } = this.#form;
			const goOn = () => !next.done && !this.#context.signal.aborted && this.#place(next.value) === place;
			// a file begins with a message that could be read
			const begin = await read(first);
			if (!begin) {
				next = await items.next();
				continue;
			}
			const pieces = async function* () {
				do {
					const bytes = next.done || next.value === first ? begin : await read(next.value);
					if (bytes) yield bytes;
					next = await items.next();
				} while (appends && goOn());
			};
			yield {
				place,
				modified: !appends && first.receivedAt ? new Date(first.receivedAt * 1000) : undefined,
				folders: this.#form.folders(place),
				pieces: pieces()
			};
		}
		yield { place: INDEX, modified: undefined, folders: [], pieces: this.#indexPieces() };
		if (this.result.damaged.length > 0)
			yield {
				place: 'damaged and not written.txt',
				modified: undefined,
				folders: [],
				pieces: Readable.from([Buffer.from(`${this.result.damaged.join('\n')}\n`)])
			};
		this.result.finished = !this.#context.signal.aborted;
	}

	/** Writes the line of the ledger. */
	async end(): Promise<ExportResult> {
		const { written, bytes, finished, damaged } = this.result;
		const { mailbox, folder, query, ids, format } = this.#wish;
		const sha256 = this.#digest.digest('hex');
		const line = (db: Db) =>
			appendLedger(db, {
				at: this.#context.now(),
				by: this.#context.actor,
				action: 'exported',
				details: {
					mailbox,
					folder,
					query,
					chosen: ids?.length,
					format,
					written,
					bytes,
					damaged: damaged.length || undefined,
					finished,
					sha256
				}
			});
		this.result.noted = await noteIfPossible(() => inTransaction(this.#context.db, line));
		return this.result;
	}
}

async function emptyFolder(out: string): Promise<void> {
	await mkdir(out, { recursive: true }).catch((cause: unknown) => {
		throw new Refusal('not-possible', `The folder "${out}" cannot be made. Nothing was written.`, { cause });
	});
	if ((await readdir(out)).length > 0)
		throw new Refusal('not-possible', `The folder "${out}" is not empty. Nothing was written.`);
}

/**
 * Writes messages as files, byte for byte as received, in their folders, with `index.csv` beside them; one message in
 * memory at a time.
 *
 * @param input.out a folder that is new or empty
 * @throws Refusal
 */
export async function exportMail(context: Context, input: ExportOptions & { out: string }): Promise<ExportResult> {
	const { out, ...wish } = input;
	const exported = await Export.of(context, wish);
	await emptyFolder(out);
	try {
		for await (const { place, modified, folders, pieces } of exported.files()) {
			const file = path.join(out, place);
			for (const folder of [path.dirname(file), ...folders.map((name) => path.join(out, name))])
				await mkdir(folder, { recursive: true });
			await writeFile(file, '', { flag: 'wx' });
			for await (const bytes of pieces) await appendFile(file, bytes);
			if (modified) await utimes(file, modified, modified);
		}
	} catch (error) {
		const why = refusalIn(error);
		if (!why) throw error;
		// an incomplete export must not look like a complete one
		const whole = `What lies in ${out} is not whole: remove it, and export again.`;
		throw new Refusal(why.code, `${why.message} ${whole}`, { cause: error });
	}
	return exported.end();
}

/**
 * The same as one zip file, as a stream: nothing is written to the disk.
 *
 * @throws Refusal before the first bytes
 */
export async function* exportZip(context: Context, wish: ExportOptions): AsyncGenerator<Uint8Array> {
	const stop = new AbortController();
	const exported = await Export.of({ ...context, signal: stop.signal }, wish);
	await noteIfPossible(() => recordCopies(context, exported.ids));
	const zip = new ZipFile();
	const output = zip.outputStream as Readable;
	let content: Readable | undefined;
	const made = new Set<string>();
	const fill = async () => {
		for await (const { place, modified, folders, pieces } of exported.files()) {
			for (const folder of folders) if (!made.has(folder)) zip.addEmptyDirectory(folder);
			for (const folder of folders) made.add(folder);
			content = Readable.from(pieces, { objectMode: false });
			if (stop.signal.aborted) content.destroy();
			// a folder's file can be larger than 4 GB, which is not known when it begins
			zip.addReadStream(content, place, { ...(modified ? { mtime: modified } : {}), forceZip64Format: true });
			await finished(content);
		}
		zip.end();
	};
	const filled = fill().catch((error: unknown) => void output.destroy(error as Error));
	try {
		for await (const chunk of output) yield chunk as Uint8Array;
		await filled;
	} finally {
		// the reader may disconnect
		stop.abort();
		content?.destroy();
		output.destroy();
		await filled;
		await exported.end();
	}
}

/** The use cases of this file. */
export const exportMailUseCases = [
	defineJob(
		{
			name: 'exportMail',
			input: () =>
				Joi.object({
					mailbox: text,
					folder: text,
					query: text,
					states: Joi.array().items(foundState),
					typing: Joi.boolean(),
					ids: Joi.array().items(id),
					format: Joi.valid('eml', 'mbox', 'maildir').required(),
					out: text.required()
				}).required(),
			thread: 'checker',
			right: 'administrator',
			run: exportMail
		},
		{ lane: 'check', about: (_context, { mailbox }) => ({ kind: 'export', mailbox }) }
	),
	defineUseCase({
		name: 'exportZip',
		input: () =>
			Joi.object({
				mailbox: text,
				folder: text,
				query: text,
				states: Joi.array().items(foundState),
				typing: Joi.boolean(),
				ids: Joi.array().items(id),
				format: Joi.valid('eml', 'mbox', 'maildir').required()
			}).required(),
		thread: 'checker',
		right: 'finder',
		run: exportZip
	})
] as const;
