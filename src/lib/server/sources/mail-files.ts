import { createReadStream } from 'node:fs';
import { open, readdir, readFile, stat } from 'node:fs/promises';
import path from 'node:path';
import { detectFormat, type FileFormat } from '../../../core/formats/detect.ts';
import { type MboxMessage, MboxSplitter } from '../../../core/formats/mbox.ts';
import type { Instant } from '../../../core/message/date.ts';
import { showBytes } from '../../../core/weigh/units.ts';
import { Refusal } from '../refusal.ts';

/** Bytes that come in: a message, or something that is kept raw because it is none. */
export interface Piece {
	bytes: Uint8Array;
	/** Where it was, for the report: the file, and the offset where a file has many. */
	place: string;
	/** Names of the folders between the source and the file, joined by `/`; empty at the top. */
	folderPath: string;
	/** The date in the mbox `From ` line. */
	envelopeDate: Instant | undefined;
	/** Why it is no message; undefined where it may be one. */
	unreadable: string | undefined;
	/** Bytes of the source that are behind this piece and all before it. */
	behind: number;
}

/** Bytes to read, where the source is. */
export interface SourceFile {
	file: string;
	/** Path relative to the source as it was given; empty for a single file. */
	relative: string;
	bytes: number;
}

const HEAD_BYTES = 64 * 1024;
const CHUNK_BYTES = 1024 * 1024;
/* A file up to this size is read in one go; a larger one as a stream. */
const READ_AT_ONCE_BYTES = 8 * 1024 * 1024;
/* A message is held in memory while it is read; SQLite's own limit for a blob is 1 GB. */
const LARGEST_MESSAGE = 512 * 1024 * 1024;

/**
 * The files of a source: the one file, or all files of a folder and of the folders in it, in the order of their names.
 *
 * @throws Refusal where there is nothing
 */
export async function listSource(source: string): Promise<SourceFile[]> {
	const found = await stat(source).catch((cause: unknown) => {
		throw new Refusal('not-found', `There is no file or folder "${source}". Nothing was brought in.`, { cause });
	});
	if (!found.isDirectory()) return [{ file: source, relative: '', bytes: found.size }];
	const files: SourceFile[] = [];
	const visit = async (folder: string, relative: string) => {
		const entries = await readdir(folder, { withFileTypes: true });
		entries.sort((a, b) => (a.name < b.name ? -1 : 1));
		for (const entry of entries) {
			const file = path.join(folder, entry.name);
			const inner = relative ? `${relative}/${entry.name}` : entry.name;
			if (entry.isDirectory()) await visit(file, inner);
			else if (entry.isFile()) files.push({ file, relative: inner, bytes: (await stat(file)).size });
		}
	};
	await visit(source, '');
	return files;
}

async function readHead(file: string): Promise<Buffer> {
	const handle = await open(file);
	try {
		const head = Buffer.alloc(HEAD_BYTES);
		const { bytesRead } = await handle.read(head, 0, HEAD_BYTES, 0);
		return head.subarray(0, bytesRead);
	} finally {
		await handle.close();
	}
}

async function* largeMbox(file: string): AsyncGenerator<MboxMessage> {
	const splitter = new MboxSplitter();
	let unread = 0;
	for await (const chunk of createReadStream(file, { highWaterMark: CHUNK_BYTES })) {
		unread += (chunk as Buffer).length;
		for (const message of splitter.push(chunk as Buffer)) {
			unread = 0;
			yield message;
		}
		if (unread > LARGEST_MESSAGE)
			throw new Refusal(
				'not-possible',
				`${file} has a message of more than ${showBytes(LARGEST_MESSAGE)}, which Kovrel cannot hold. What stood before it was brought in; nothing was lost from the file.`
			);
	}
	yield* splitter.end();
}

function mboxMessages(bytes: Uint8Array): MboxMessage[] {
	const splitter = new MboxSplitter();
	return [...splitter.push(bytes), ...splitter.end()];
}

/** What all pieces of a file have in common. */
interface Origin {
	name: string;
	folderPath: string;
	/** Bytes of the source in front of the file. */
	before: number;
	bytes: number;
}

function messagePiece({ name, folderPath, before }: Origin, message: MboxMessage): Piece {
	return {
		bytes: message.bytes,
		place: `${name} at byte ${message.start}`,
		folderPath,
		envelopeDate: message.envelopeDate,
		unreadable: message.preamble ? 'stands before the first message of the file' : undefined,
		behind: before + message.end
	};
}

function wholePiece({ name, folderPath, before }: Origin, bytes: Uint8Array, format: FileFormat): Piece {
	const unreadable = bytes.length === 0 ? 'is empty' : 'is neither a message nor a mailbox file';
	return {
		bytes,
		place: name,
		folderPath,
		envelopeDate: undefined,
		unreadable: format === 'unknown' ? unreadable : undefined,
		behind: before + bytes.length
	};
}

/* Nearly all single messages: the file is read once, in one go. */
function* smallFilePieces(origin: Origin, bytes: Uint8Array, inFolder: boolean): Generator<Piece> {
	const format = detectFormat(bytes.subarray(0, HEAD_BYTES));
	const messages = format === 'mbox' ? mboxMessages(bytes).filter(isSomething) : [];
	// In a folder, a file with one `From ` line is one message that was saved with it, and stays as it is byte by byte;
	// with two or more it is an mbox file.
	if (messages.length > (inFolder ? 1 : 0)) for (const message of messages) yield messagePiece(origin, message);
	else yield wholePiece(origin, bytes, format);
}

async function* filePieces({ file, relative, bytes }: SourceFile, before: number): AsyncGenerator<Piece> {
	const slash = relative.lastIndexOf('/');
	const name = relative || path.basename(file);
	const origin: Origin = { name, folderPath: slash < 0 ? '' : relative.slice(0, slash), before, bytes };
	if (bytes <= READ_AT_ONCE_BYTES) {
		yield* smallFilePieces(origin, await readFile(file), relative !== '');
		return;
	}
	const format = detectFormat(await readHead(file));
	if (format === 'mbox') {
		for await (const message of largeMbox(file)) if (isSomething(message)) yield messagePiece(origin, message);
		return;
	}
	if (bytes > LARGEST_MESSAGE)
		throw new Refusal(
			'not-possible',
			`${file} (${showBytes(bytes)}) is no mailbox file, and too large for a single message. What came before it was brought in.`
		);
	yield wholePiece(origin, await readFile(file), format);
}

/* Blank lines in front of the first message are nothing that could be lost. */
function isSomething({ bytes, preamble }: MboxMessage): boolean {
	return !preamble || !bytes.every((byte) => byte <= 32);
}

/** All that is in the files of a source, one piece after the other; holds one piece at a time. */
export async function* readSource(files: readonly SourceFile[]): AsyncGenerator<Piece> {
	let before = 0;
	for (const file of files) {
		yield* filePieces(file, before);
		before += file.bytes;
	}
}
