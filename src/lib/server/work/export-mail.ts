import { createHash } from 'node:crypto';
import { appendFile, mkdir, readdir, utimes, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { stringify } from 'csv-stringify/sync';
import { harmlessCell } from '../../../core/formats/csv-cells.ts';
import { exportFileName, exportFolder, safeName } from '../../../core/formats/export-names.ts';
import { maildirDirectory, maildirInfo } from '../../../core/formats/maildir.ts';
import { mboxEntry } from '../../../core/formats/mbox-entry.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/open.ts';
import { Refusal } from '../refusal.ts';
import { readContent } from '../stores/contents.ts';
import { type ExportedItem, itemsBehind, itemsById } from '../stores/items.ts';
import { appendLedger } from '../stores/ledger.ts';
import type { Mailbox } from '../stores/mailboxes.ts';
import { type Context } from './context.ts';
import { findAllIds } from './find.ts';
import { requireMailbox } from './mailboxes.ts';

/** The forms in which mail goes out. */
export const EXPORT_FORMATS = ['eml', 'mbox', 'maildir'] as const;
export type ExportFormat = (typeof EXPORT_FORMATS)[number];

/** What is to be written where. */
export interface ExportInput {
	mailbox: string;
	/** Only what this finds. */
	query?: string | undefined;
	format: ExportFormat;
	/** A folder that is new or empty. */
	out: string;
}

/** What was written. */
export interface ExportResult {
	written: number;
	bytes: number;
	/** False where it was stopped on the way. */
	finished: boolean;
}

/* In whatever state, as long as it is there. */
async function* chosenItems(
	context: Context,
	mailbox: Mailbox,
	query: string | undefined
): AsyncGenerator<ExportedItem[]> {
	if (query !== undefined) {
		const states: ('live' | 'archived' | 'binned')[] = ['live', 'archived', 'binned'];
		for await (const ids of findAllIds(context, { query, mailbox: mailbox.name, states }))
			yield itemsById(context.db, ids);
		return;
	}
	for (let after = 0; ;) {
		const items = await itemsBehind(context.db, mailbox.id, after, 1_000);
		if (items.length === 0) return;
		yield items;
		after = items.at(-1)?.id as number;
	}
}

async function emptyFolder(out: string): Promise<void> {
	await mkdir(out, { recursive: true }).catch((cause: unknown) => {
		throw new Refusal('not-possible', `The folder "${out}" cannot be made. Nothing was written.`, { cause });
	});
	if ((await readdir(out)).length > 0)
		throw new Refusal('not-possible', `The folder "${out}" is not empty. Nothing was written.`);
}

/* Makes each folder once. */
class Folders {
	#made = new Set<string>();

	async ensure(folder: string): Promise<string> {
		if (!this.#made.has(folder)) await mkdir(folder, { recursive: true });
		this.#made.add(folder);
		return folder;
	}
}

/** Writes one message and returns where, below the folder of the export. */
type Writer = (item: ExportedItem, bytes: Uint8Array) => Promise<string>;

function emlWriter(out: string, folders: Folders): Writer {
	return async (item, bytes) => {
		const place = path.join(...exportFolder(item.folder), exportFileName(item, 'eml'));
		await folders.ensure(path.dirname(path.join(out, place)));
		await writeFile(path.join(out, place), bytes, { flag: 'wx' });
		return place;
	};
}

function mboxWriter(out: string, folders: Folders): Writer {
	return async (item, bytes) => {
		const names = exportFolder(item.folder);
		const place = `${path.join(...names.slice(0, -1), safeName(names.at(-1) ?? 'mail'))}.mbox`;
		await folders.ensure(path.dirname(path.join(out, place)));
		await appendFile(path.join(out, place), mboxEntry(bytes, item.fromAddress, item.receivedAt ?? undefined));
		return place;
	};
}

/* The inbox is the Maildir itself; every other folder a Maildir++ folder in it. */
function maildirWriter(out: string, folders: Folders): Writer {
	return async (item, bytes) => {
		const directory = item.folder === 'Inbox' ? '' : maildirDirectory(exportFolder(item.folder).join('/'));
		// the outermost has to be a Maildir too, or no reader takes the others for its folders
		for (const maildir of ['', directory])
			for (const part of ['cur', 'new', 'tmp']) await folders.ensure(path.join(out, maildir, part));
		const flags = {
			seen: item.seen === 1,
			answered: item.answered === 1,
			flagged: item.flagged === 1,
			draft: item.draft === 1
		};
		// a colon cannot stand in a file name everywhere
		const info = process.platform === 'win32' ? maildirInfo(flags).replace(':', ';') : maildirInfo(flags);
		const place = path.join(directory, 'cur', `${item.receivedAt ?? 0}.${item.id}.kovrel${info}`);
		await writeFile(path.join(out, place), bytes, { flag: 'wx' });
		if (item.receivedAt !== null && item.receivedAt > 0)
			await utimes(path.join(out, place), item.receivedAt, item.receivedAt);
		return place;
	};
}

const WRITERS: Record<ExportFormat, (out: string, folders: Folders) => Writer> = {
	eml: emlWriter,
	mbox: mboxWriter,
	maildir: maildirWriter
};

const INDEX_COLUMNS = ['file', 'folder', 'state', 'received', 'from', 'to', 'subject', 'message-id', 'bytes', 'sha256'];

function indexRow(item: ExportedItem, place: string, bytes: number, sha256: string): string[] {
	const from = item.fromName ? `${item.fromName} <${item.fromAddress}>` : item.fromAddress;
	const received = item.receivedAt === null ? null : new Date(item.receivedAt * 1000).toISOString();
	return [
		place.split(path.sep).join('/'),
		item.folder,
		item.state,
		received,
		from,
		item.recipients,
		item.subject,
		item.messageId,
		bytes,
		sha256
	].map(harmlessCell);
}

/* RFC 4180: lines end in CRLF. */
function csvLines(rows: string[][]): string {
	return stringify(rows, { record_delimiter: 'windows' });
}

/**
 * Writes messages as files, byte for byte as they came in, in folders as they lie, with `index.csv` beside them; one message
 * in memory at a time.
 *
 * @throws Refusal
 */
export async function exportMail(context: Context, input: ExportInput): Promise<ExportResult> {
	const mailbox = await requireMailbox(context, input.mailbox);
	await emptyFolder(input.out);
	const result: ExportResult = { written: 0, bytes: 0, finished: true };
	const digest = createHash('sha256');
	const write = WRITERS[input.format](input.out, new Folders());
	const index = path.join(input.out, 'index.csv');
	await writeFile(index, csvLines([INDEX_COLUMNS]), { flag: 'wx' });
	for await (const items of chosenItems(context, mailbox, input.query)) {
		const lines: string[][] = [];
		for (const item of items) {
			if (context.signal.aborted) break;
			const bytes = await readContent(context.db, item.contentId);
			if (!bytes) continue;
			const place = await write(item, bytes);
			const sha256 = createHash('sha256').update(bytes).digest();
			digest.update(sha256);
			lines.push(indexRow(item, place, bytes.length, sha256.toString('hex')));
			result.written++;
			result.bytes += bytes.length;
		}
		await appendFile(index, csvLines(lines));
		context.report({ done: result.written, total: undefined, note: `${showCount(result.written)} messages written` });
		if (context.signal.aborted) break;
	}
	result.finished = !context.signal.aborted;
	const { written, bytes } = result;
	await inTransaction(context.db, (db) =>
		appendLedger(db, {
			at: context.now(),
			who: context.who,
			action: 'exported',
			details: {
				mailbox: mailbox.name,
				format: input.format,
				query: input.query,
				written,
				bytes,
				sha256: digest.digest('hex')
			}
		})
	);
	return result;
}
