import { open, readdir, readFile, stat } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import yauzl from 'yauzl';
import { isMaildirTrashed, maildirFolderPath, readMaildirFlags } from '../../../core/formats/maildir.ts';
import type { Instant } from '../../../core/message/date.ts';
import type { Flags } from '../../../core/message/summary.ts';
import { showBytes } from '../../../core/weigh/units.ts';
import { Refusal } from '../refusal.ts';

/** The facts in the name and place of a Maildir file. */
interface MaildirNotes {
	flags: Flags;
	/** The time of the file, which is its delivery. */
	deliveredAt: Instant;
	/** Marked as deleted. */
	trashed: boolean;
}

/** A file, or a file in a zip, either perhaps compressed. */
export interface SourceFile {
	/** Path in the source; the name alone for a single file. */
	name: string;
	/** Folders between the source and the file, joined by `/`; empty at the top. */
	folderPath: string;
	/** Whether the source is a tree with this as one file. */
	inTree: boolean;
	/** Stored bytes, for progress. */
	bytes: number;
	/** Changes with the content: the time of the last change, or a zip's checksum. */
	version: number;
	maildir: MaildirNotes | undefined;
	/** The decompressed bytes. A chunk is valid until the next is requested. */
	read(): Promise<AsyncIterable<Buffer>>;
}

const GZIP = [0x1f, 0x8b];
const ZIP = [0x50, 0x4b, 0x03, 0x04];

function startsWith(head: Uint8Array, magic: number[]): boolean {
	return magic.every((byte, at) => head[at] === byte);
}

async function readHead(file: string): Promise<Uint8Array> {
	const handle = await open(file);
	try {
		const head = Buffer.alloc(4);
		const { bytesRead } = await handle.read(head, 0, 4, 0);
		return head.subarray(0, bytesRead);
	} finally {
		await handle.close();
	}
}

/* Content that grows by more than this factor, and beyond a gigabyte, was made to fill a disk. */
const LARGEST_RATIO = 200;
const HARMLESS_BYTES = 1_000_000_000;

/* Errors of zlib and the zip reader, in words that a person can act on. */
async function* unbroken(chunks: AsyncIterable<Buffer>, name: string): AsyncGenerator<Buffer> {
	try {
		yield* chunks;
	} catch (cause) {
		throw new Refusal(
			'bad-input',
			`${name} is damaged: it cannot be unpacked to its end (${(cause as Error).message}). What came before the damage was imported.`,
			{ cause }
		);
	}
}

/* Passes bytes on, up to a plausible size. */
async function* guarded(chunks: AsyncIterable<Buffer>, name: string, compressed: number): AsyncGenerator<Buffer> {
	let bytes = 0;
	for await (const chunk of unbroken(chunks, name)) {
		bytes += chunk.length;
		if (bytes > HARMLESS_BYTES && bytes > compressed * LARGEST_RATIO)
			throw new Refusal(
				'bad-input',
				`${name} unpacks to more than ${LARGEST_RATIO} times its ${showBytes(compressed)}: it was made to fill a disk. What came before it was imported.`
			);
		yield chunk;
	}
}

function gunzipped(compressed: Readable, name: string, bytes: number): AsyncIterable<Buffer> {
	const gunzip = createGunzip();
	compressed.on('error', (error) => gunzip.destroy(error));
	gunzip.on('close', () => compressed.destroy());
	return guarded(compressed.pipe(gunzip), name, bytes);
}

async function* copied(chunks: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
	for await (const chunk of chunks) yield Buffer.from(chunk);
}

/* Chunks whose first bytes tell whether they are compressed. */
async function maybeGunzipped(
	opened: AsyncIterable<Buffer>,
	name: string,
	bytes: number
): Promise<AsyncIterable<Buffer>> {
	const chunks = opened[Symbol.asyncIterator]();
	const first = await chunks.next();
	const whole = (async function* () {
		try {
			for (let next = first; !next.done; next = await chunks.next()) yield next.value;
		} finally {
			await chunks.return?.();
		}
	})();
	if (first.done || !startsWith(first.value, GZIP)) return whole;
	return gunzipped(Readable.from(copied(whole), { objectMode: false }), name, bytes);
}

const CHUNK_BYTES = 256 * 1024;
/* Files up to this size are read at once: most are single messages. */
const READ_AT_ONCE_BYTES = 8 * CHUNK_BYTES;

/* Reads into two buffers in turn: one is filled while the other is used. */
async function* chunksOf(file: string): AsyncGenerator<Buffer> {
	const handle = await open(file);
	const read = (store: Buffer) => handle.read(store, 0, CHUNK_BYTES, null);
	let [filling, other] = [Buffer.allocUnsafeSlow(CHUNK_BYTES), Buffer.allocUnsafeSlow(CHUNK_BYTES)];
	let reading = read(filling);
	try {
		for (;;) {
			const { bytesRead } = await reading;
			if (bytesRead === 0) return;
			const chunk = filling.subarray(0, bytesRead);
			[filling, other] = [other, filling];
			reading = read(filling);
			reading.catch(() => {}); // thrown when its turn comes
			yield chunk;
		}
	} finally {
		await reading.catch(() => {});
		await handle.close();
	}
}

async function* wholeOf(file: string): AsyncGenerator<Buffer> {
	yield await readFile(file);
}

/* The chunks of a local file. */
interface PlainFile {
	file: string;
	name: string;
	folderPath: string;
	inTree: boolean;
	bytes: number;
	version: number;
	maildir?: MaildirNotes;
}

function plainFile({ file, maildir, ...rest }: PlainFile): SourceFile {
	const chunks = rest.bytes <= READ_AT_ONCE_BYTES ? wholeOf : chunksOf;
	return { ...rest, maildir, read: () => maybeGunzipped(chunks(file), rest.name, rest.bytes) };
}

/* ---- zip ---- */

function openZip(file: string): Promise<yauzl.ZipFile> {
	return new Promise((resolve, reject) => {
		yauzl.open(file, { lazyEntries: true, autoClose: false, validateEntrySizes: true }, (error, zip) => {
			if (error)
				reject(
					new Refusal(
						'bad-input',
						`${path.basename(file)} looks like a zip file but cannot be read (${error.message}). Nothing of it was imported.`,
						{ cause: error }
					)
				);
			else resolve(zip);
		});
	});
}

async function listZip(file: string): Promise<SourceFile[]> {
	const zip = await openZip(file);
	const files: SourceFile[] = [];
	await new Promise<void>((resolve, reject) => {
		zip.on('error', (error: Error) =>
			reject(
				new Refusal(
					'bad-input',
					`${path.basename(file)} is a damaged zip file (${error.message}). Nothing of it was imported.`,
					{ cause: error }
				)
			)
		);
		zip.on('end', resolve);
		zip.on('entry', (entry: yauzl.Entry) => {
			if (!entry.fileName.endsWith('/')) {
				const slash = entry.fileName.lastIndexOf('/');
				const read = () =>
					new Promise<Readable>((opened, failed) => {
						zip.openReadStream(entry, (error, stream) => (error ? failed(error) : opened(stream)));
					}).then((stream) =>
						maybeGunzipped(guarded(stream, entry.fileName, entry.compressedSize), entry.fileName, entry.compressedSize)
					);
				files.push({
					name: entry.fileName,
					folderPath: slash < 0 ? '' : entry.fileName.slice(0, slash),
					inTree: true,
					bytes: entry.compressedSize,
					version: entry.crc32,
					maildir: undefined,
					read
				});
			}
			zip.readEntry();
		});
		zip.readEntry();
	});
	return files.sort((a, b) => (a.name < b.name ? -1 : 1));
}

/* ---- folders and Maildir ---- */

async function maildirFiles(directory: string, name: string, folderPath: string): Promise<SourceFile[]> {
	const files: SourceFile[] = [];
	for (const place of ['cur', 'new']) {
		const entries = await readdir(path.join(directory, place), { withFileTypes: true });
		for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
			if (!entry.isFile()) continue;
			const file = path.join(directory, place, entry.name);
			const { size, mtimeMs } = await stat(file);
			const notes: MaildirNotes = {
				flags: readMaildirFlags(entry.name, place === 'new'),
				deliveredAt: Math.floor(mtimeMs / 1000),
				trashed: isMaildirTrashed(entry.name)
			};
			files.push(
				plainFile({
					file,
					name: [name, place, entry.name].filter(Boolean).join('/'),
					folderPath,
					inTree: true,
					bytes: size,
					version: mtimeMs,
					maildir: notes
				})
			);
		}
	}
	return files;
}

const joined = (above: string, name: string) => (above ? `${above}/${name}` : name);

async function listFolder(directory: string, name = '', folderPath = ''): Promise<SourceFile[]> {
	const entries = (await readdir(directory, { withFileTypes: true })).sort((a, b) => (a.name < b.name ? -1 : 1));
	const directories = new Set(entries.filter((entry) => entry.isDirectory()).map((entry) => entry.name));
	const isMaildir = directories.has('cur') && directories.has('new');
	const files = isMaildir ? await maildirFiles(directory, name, folderPath) : [];
	for (const entry of entries) {
		const inner = path.join(directory, entry.name);
		// other files of a Maildir are lists of its program, and unfinished deliveries
		if (entry.isFile() && !isMaildir) {
			const { size, mtimeMs } = await stat(inner);
			files.push(
				plainFile({
					file: inner,
					name: joined(name, entry.name),
					folderPath,
					inTree: true,
					bytes: size,
					version: mtimeMs
				})
			);
		}
		if (!entry.isDirectory() || (isMaildir && ['cur', 'new', 'tmp'].includes(entry.name))) continue;
		const below = isMaildir && entry.name.startsWith('.') ? maildirFolderPath(entry.name) : entry.name;
		files.push(...(await listFolder(inner, joined(name, entry.name), joined(folderPath, below))));
	}
	return files;
}

/**
 * The files of a source: one file; all files of a zip; all files of a folder and its subfolders. Maildirs are
 * recognised by their `cur` and `new`, zip and gzip by their first bytes.
 *
 * @throws Refusal where there is nothing
 */
export async function listSource(source: string): Promise<SourceFile[]> {
	const found = await stat(source).catch((cause: unknown) => {
		throw new Refusal('not-found', `There is no file or folder "${source}". Nothing was imported.`, { cause });
	});
	if (found.isDirectory()) return listFolder(source);
	if (startsWith(await readHead(source), ZIP)) return listZip(source);
	return [
		plainFile({
			file: source,
			name: path.basename(source),
			folderPath: '',
			inTree: false,
			bytes: found.size,
			version: found.mtimeMs
		})
	];
}
