import { detectFormat, type FileFormat } from '../../../core/formats/detect.ts';
import { type Find, type MboxMessage, MboxSplitter } from '../../../core/formats/mbox.ts';
import { markLength } from '../../../core/message/header.ts';
import type { Instant } from '../../../core/message/date.ts';
import type { Flags } from '../../../core/message/summary.ts';
import { showBytes } from '../../../core/weigh/units.ts';
import { Refusal } from '../refusal.ts';
import type { SourceFile } from './containers.ts';

/** Where reading can continue: after this many bytes of the file with that number. */
export interface SourcePosition {
	file: number;
	offset: number;
}

/** Bytes of a source: a message, or bytes kept raw because they are none. */
export interface Piece {
	bytes: Uint8Array;
	/** Its place for the report: the file, and the offset in a file with many. */
	place: string;
	/** Names of its folders, joined by `/`; empty at the top. */
	folderPath: string;
	/** The date of the mbox `From ` line, or of the Maildir file. */
	envelopeDate: Instant | undefined;
	/** Flags from its place, not from its header. */
	flags: Flags | undefined;
	/** Marked as deleted in its source. */
	trashed: boolean;
	/** Why it is no message; undefined if it may be one. */
	unreadable: string | undefined;
	/** Where reading continues after it. */
	next: SourcePosition;
	/** About how many bytes of the source are read, for progress. */
	behind: number;
}

const HEAD_BYTES = 64 * 1024;
/* A message is read in memory; SQLite's own limit for a blob is 1 GB. */
const LARGEST_MESSAGE = 512 * 1024 * 1024;

/** A file that is being split. */
interface Origin {
	source: SourceFile;
	/** Its number among the files of the source. */
	number: number;
	/** Bytes of the source before it. */
	before: number;
}

/* In a tree an mbox file is a folder, with its name. */
function folderOfMbox({ folderPath, name, inTree }: SourceFile): string {
	if (!inTree) return folderPath;
	const own = (name.split('/').at(-1) ?? '').replace(/\.gz$/i, '').replace(/\.(mbox|mbx)$/i, '');
	return folderPath ? `${folderPath}/${own}` : own;
}

/*
 * The one case in which the bytes do not tell: a file of a tree with a single `From ` line can be a mailbox with one
 * message, or a message saved with that line.
 */
function isNamedLikeMailbox(name: string): boolean {
	const base = (name.split('/').at(-1) ?? '').replace(/\.gz$/i, '');
	return /\.(mbox|mbx)$/i.test(base) || (!base.includes('.') && !/^\d+$/.test(base));
}

function messagePiece({ source, number, before }: Origin, message: MboxMessage): Piece {
	return {
		bytes: message.bytes,
		place: `${source.name} at byte ${message.start}`,
		folderPath: folderOfMbox(source),
		envelopeDate: message.envelopeDate,
		flags: undefined,
		trashed: false,
		unreadable: message.preamble ? 'stands before the first message of the file' : undefined,
		next: { file: number, offset: message.end },
		behind: before + Math.min(message.end, source.bytes)
	};
}

/* Why a file is kept raw. */
const NO_MAIL: Partial<Record<FileFormat, string>> = {
	index: 'is the list of an export',
	tar: 'is a tar file, which Kovrel does not unpack',
	system: 'is neither a message nor a mailbox file',
	unknown: 'is neither a message nor a mailbox file'
};

function wholePiece({ source, number, before }: Origin, bytes: Uint8Array, format: FileFormat): Piece {
	return {
		bytes,
		place: source.name,
		folderPath: source.folderPath,
		envelopeDate: source.maildir?.deliveredAt,
		flags: source.maildir?.flags,
		trashed: source.maildir?.trashed ?? false,
		unreadable: bytes.length === 0 ? 'is empty' : NO_MAIL[format],
		next: { file: number + 1, offset: 0 },
		behind: before + source.bytes
	};
}

/* Blank lines before the first message carry nothing. */
function isSomething({ bytes, preamble }: MboxMessage): boolean {
	return !preamble || !bytes.every((byte) => byte <= 32);
}

function tooLarge(source: SourceFile): Refusal {
	return new Refusal(
		'not-possible',
		`${source.name} has a message of more than ${showBytes(LARGEST_MESSAGE)}, or is no mailbox file, which Kovrel cannot hold. What stood before it was imported; nothing was lost from the file.`
	);
}

/* Collects chunks up to a number of bytes. Chunks are copied, as each is valid only until the next is requested. */
async function gather(chunks: AsyncIterator<Buffer>, wanted: number): Promise<{ bytes: Buffer; ended: boolean }> {
	const gathered: Buffer[] = [];
	let length = 0;
	while (length < wanted) {
		const next = await chunks.next();
		if (next.done) return { bytes: Buffer.concat(gathered), ended: true };
		gathered.push(Buffer.from(next.value));
		length += next.value.length;
	}
	return { bytes: Buffer.concat(gathered), ended: false };
}

const find: Find = (bytes, ascii, from) =>
	Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).indexOf(ascii, from, 'latin1');

/* Those of one chunk at a time: passing them on one by one would be slow. */
async function* mboxMessages(
	first: Buffer,
	ended: boolean,
	chunks: AsyncIterator<Buffer>,
	source: SourceFile
): AsyncGenerator<MboxMessage[]> {
	const mark = markLength(first);
	const splitter = new MboxSplitter(mark, find);
	yield splitter.push(first.subarray(mark)).filter(isSomething);
	let unread = 0;
	while (!ended) {
		const next = await chunks.next();
		if (next.done) break;
		const messages = splitter.push(next.value);
		unread = messages.length > 0 ? 0 : unread + next.value.length;
		yield messages.filter(isSomething);
		if (unread > LARGEST_MESSAGE) throw tooLarge(source);
	}
	yield splitter.end().filter(isSomething);
}

async function* filePieces(origin: Origin): AsyncGenerator<Piece[]> {
	const chunks = (await origin.source.read())[Symbol.asyncIterator]();
	try {
		yield* piecesOf(chunks, origin);
	} finally {
		// stopping early closes the file
		await chunks.return?.();
	}
}

async function* piecesOf(chunks: AsyncIterator<Buffer>, origin: Origin): AsyncGenerator<Piece[]> {
	const { source } = origin;
	const { bytes: head, ended } = await gather(chunks, HEAD_BYTES);
	const own = source.name.split('/').at(-1) ?? '';
	const format = head.length === 0 ? 'unknown' : detectFormat(head, own);
	if (head.length === 0 && source.inTree && !source.maildir && isNamedLikeMailbox(source.name)) return; // a mailbox without mail
	// a list of an export says of each message beside it what its folder and its bytes say
	if ((format === 'index' || format === 'system') && source.inTree) return;
	if (format === 'tar' && !source.inTree)
		throw new Refusal(
			'bad-input',
			`${source.name} ${NO_MAIL.tar}. Unpack it and import the folder. Nothing of it was imported.`
		);
	if (format === 'mbox' && !source.maildir) {
		let isMailbox = !source.inTree || isNamedLikeMailbox(source.name);
		let messages: MboxMessage[] = [];
		for await (const more of mboxMessages(head, ended, chunks, source)) {
			messages.push(...more);
			isMailbox ||= messages.length > 1;
			if (!isMailbox) continue;
			yield messages.map((message) => messagePiece(origin, message));
			messages = [];
		}
		if (messages.length === 0) return;
		// a message saved with its `From ` line stays as it is, byte by byte
		const again = ended ? undefined : (await source.read())[Symbol.asyncIterator]();
		yield [wholePiece(origin, again ? (await gather(again, Infinity)).bytes : head, format)];
		return;
	}
	const rest = ended ? undefined : await gather(chunks, LARGEST_MESSAGE);
	if (rest && !rest.ended) throw tooLarge(source);
	yield [wholePiece(origin, rest ? Buffer.concat([head, rest.bytes]) : head, format)];
}

/**
 * Everything in the files of a source, some pieces at a time; holds the pieces of one chunk.
 *
 * @param from where an earlier reading of the same files ended
 */
export async function* readSource(
	files: readonly SourceFile[],
	from: SourcePosition = { file: 0, offset: 0 }
): AsyncGenerator<Piece[]> {
	let before = 0;
	for (const [number, source] of files.entries()) {
		if (number >= from.file)
			for await (const pieces of filePieces({ source, number, before })) {
				const isKnown = ({ next }: Piece) => number === from.file && next.file === number && next.offset <= from.offset;
				yield pieces.filter((piece) => !isKnown(piece));
			}
		before += source.bytes;
	}
}
