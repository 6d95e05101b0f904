import { open, readdir, readFile, stat } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import yauzl, { getFileNameLowLevel } from 'yauzl';
import {
	hasMaildirInfo,
	isMaildirTrashed,
	maildirFolderPath,
	readMaildirFlags
} from '../../../core/formats/maildir.ts';
import type { Instant } from '../../../core/message/date.ts';
import type { Flags } from '../../../core/message/summary.ts';
import { shallow } from '../../../core/weigh/tree.ts';
import { showBytes } from '../../../core/weigh/units.ts';
import { Refusal } from '../refusal.ts';

/** The facts in the name and place of a Maildir file. */
interface MaildirNotes {
	flags: Flags;
	/** The time of the file, which is its delivery; undefined: a zip did not say it. */
	deliveredAt: Instant | undefined;
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
function readPlain(file: string, name: string, bytes: number): Promise<AsyncIterable<Buffer>> {
	return maybeGunzipped(bytes <= READ_AT_ONCE_BYTES ? wholeOf(file) : chunksOf(file), name, bytes);
}

/* ---- zip and folder ---- */

/* A zip is imported whole or not at all, as far as its list of files tells. */
const refusedZip = (file: string, why: string, cause?: Error) =>
	new Refusal('bad-input', `${path.basename(file)} ${why}. Nothing of it was imported.`, { cause });

function openZip(file: string): Promise<yauzl.ZipFile> {
	// names are made safe here: one that leads elsewhere does not keep the other files out
	const options = { lazyEntries: true, autoClose: false, validateEntrySizes: true, decodeStrings: false };
	return new Promise((resolve, reject) => {
		yauzl.open(file, options, (error, zip) => {
			if (error) reject(refusedZip(file, `looks like a zip file but cannot be read (${error.message})`, error));
			else resolve(zip);
		});
	});
}

/* A file of a folder or a zip, whatever it is. */
interface TreeFile extends Omit<SourceFile, 'folderPath' | 'inTree' | 'maildir'> {
	/** When it was last changed, if that is known. */
	modifiedAt: Instant | undefined;
}

/* The time of an entry; without its extended field, it is one of an unknown zone. */
const modifiedOf = (entry: yauzl.Entry): Instant | undefined =>
	entry.extraFields.some(({ id }) => id === EXTENDED_TIMESTAMP)
		? Math.floor(entry.getLastModDate().getTime() / 1000)
		: undefined;
const EXTENDED_TIMESTAMP = 0x5455;

/* The path of an entry, whose names may be those of another system or of somebody hostile: it leads nowhere else. */
function entryPath(entry: yauzl.Entry): string {
	const name = getFileNameLowLevel(entry.generalPurposeBitFlag, entry.fileNameRaw, entry.extraFields, false);
	const isDirectory = name.endsWith('/');
	const names = name.replace(/^[a-z]:/i, '').split('/');
	const own = names.filter((one) => one !== '' && one !== '.' && one !== '..').join('/');
	return isDirectory ? `${own}/` : own;
}

/* By the ZIP specification (APPNOTE 4.4.5): stored, deflated. */
const METHODS = [0, 8];

const PROTECTED = 'is protected by a password, which Kovrel does not know. Unpack it and import the folder';

/* Why an entry cannot be read; undefined: it can. */
function troubleOf(entry: yauzl.Entry): string | undefined {
	if (entry.isEncrypted()) return PROTECTED;
	if (METHODS.includes(entry.compressionMethod)) return undefined;
	return `is packed by a method that Kovrel cannot read (number ${entry.compressionMethod}). Unpack it and import the folder`;
}

/* What the reader of zips says of a list of files that it cannot read, as of one with strong encryption. */
const listTrouble = ({ message }: Error) =>
	message.includes('encryption') ? PROTECTED : `is a damaged zip file (${message})`;

async function listZip(file: string): Promise<SourceFile[]> {
	const zip = await openZip(file);
	const files: TreeFile[] = [];
	const directories = new Set<string>();
	await new Promise<void>((resolve, reject) => {
		zip.on('error', (error: Error) => reject(refusedZip(file, listTrouble(error), error)));
		zip.on('end', resolve);
		zip.on('entry', (entry: yauzl.Entry) => {
			const trouble = troubleOf(entry);
			if (trouble !== undefined) {
				reject(refusedZip(file, trouble));
				return;
			}
			const name = entryPath(entry);
			if (name.endsWith('/')) directories.add(name.slice(0, -1));
			else if (name !== '') {
				const read = () =>
					new Promise<Readable>((opened, failed) => {
						zip.openReadStream(entry, (error, stream) => (error ? failed(error) : opened(stream)));
					}).then((stream) => maybeGunzipped(guarded(stream, name, entry.compressedSize), name, entry.compressedSize));
				files.push({
					name,
					bytes: entry.compressedSize,
					version: entry.crc32,
					modifiedAt: modifiedOf(entry),
					read
				});
			}
			zip.readEntry();
		});
		zip.readEntry();
	});
	return inFolders(files, directories);
}

async function listFolder(directory: string): Promise<SourceFile[]> {
	const files: TreeFile[] = [];
	const directories = new Set<string>();
	const walk = async (at: string, above: string): Promise<void> => {
		for (const entry of await readdir(at, { withFileTypes: true })) {
			const inner = path.join(at, entry.name);
			const name = joined(above, entry.name);
			if (entry.isDirectory()) {
				directories.add(name);
				await walk(inner, name);
			}
			if (!entry.isFile()) continue;
			const { size, mtimeMs } = await stat(inner);
			const read = () => readPlain(inner, name, size);
			files.push({ name, bytes: size, version: mtimeMs, modifiedAt: Math.floor(mtimeMs / 1000), read });
		}
	};
	await walk(directory, '');
	return inFolders(files, directories);
}

/* ---- folders and Maildir ---- */

const joined = (above: string, name: string) => (above ? `${above}/${name}` : name);
/* The path of the folder around, empty at the top, and the name in it. */
function split(name: string): { above: string; own: string } {
	const slash = name.lastIndexOf('/');
	return { above: name.slice(0, Math.max(0, slash)), own: name.slice(slash + 1) };
}

const PARTS = ['cur', 'new', 'tmp'];
const MAIL_FILE = /\.(mbox|mbx|eml)(\.gz)?$/i;

/** A tree's directories, and which of them are Maildirs. */
class Directories {
	readonly #all = new Set<string>();
	/* Those with files that have the flags of a Maildir. */
	readonly #flagged = new Set<string>();
	readonly #folders = new Map<string, string>([['', '']]);

	constructor(given: Iterable<string>, files: readonly TreeFile[]) {
		for (const { name } of files) if (hasMaildirInfo(name)) this.#flagged.add(shallow(split(name).above));
		for (let name of [...given].map(shallow))
			for (; name !== '' && !this.#all.has(name); name = split(name).above) this.#all.add(name);
		// a Maildir that is all of the tree gives it no folder of its own name
		const [only, ...others] = [...this.#all].filter((name) => !name.includes('/'));
		if (only !== undefined && others.length === 0 && this.isMaildir(only)) this.#folders.set(only, '');
	}

	/** By its parts; a browser and many a zip leave out those that are empty. */
	isMaildir(name: string): boolean {
		const has = (part: string) => this.#all.has(joined(name, part));
		if (has('cur') && (has('new') || has('tmp') || this.#flagged.has(joined(name, 'cur')))) return true;
		const { above, own } = split(name);
		return own.startsWith('.') && (has('cur') || has('new')) && this.isMaildir(above);
	}

	/** The Maildir whose message a file in a directory is; undefined: of none. */
	maildirOf(directory: string): string | undefined {
		const { above, own } = split(directory);
		return (own === 'cur' || own === 'new') && this.isMaildir(above) ? above : undefined;
	}

	/**
	 * Whether a file that is no message of a Maildir is of its program: a list beside its parts, or an unfinished delivery
	 * in them.
	 */
	isOfProgram(directory: string, own: string): boolean {
		if (this.isMaildir(directory) && !MAIL_FILE.test(own)) return true;
		for (let at = directory; at !== ''; at = split(at).above) {
			const { above, own: part } = split(at);
			if (PARTS.includes(part) && this.isMaildir(above)) return true;
		}
		return false;
	}

	/** The path of the folder that a directory is. */
	folderPath(directory: string): string {
		const known = this.#folders.get(directory);
		if (known !== undefined) return known;
		const { above, own } = split(directory);
		const below = own.startsWith('.') && this.isMaildir(above) ? maildirFolderPath(own) : own;
		const made = shallow(joined(this.folderPath(above), below));
		this.#folders.set(directory, made);
		return made;
	}
}

/* The mail among the files of a tree, with its folders. */
function inFolders(files: TreeFile[], given: ReadonlySet<string>): SourceFile[] {
	const directories = new Directories([...given, ...files.map(({ name }) => split(name).above)], files);
	const mail: SourceFile[] = [];
	for (const { modifiedAt, ...file } of files.sort((a, b) => (a.name < b.name ? -1 : 1))) {
		const { above: directory, own } = split(file.name);
		const above = shallow(directory);
		const maildir = directories.maildirOf(above);
		if (maildir !== undefined)
			mail.push({
				...file,
				folderPath: directories.folderPath(maildir),
				inTree: true,
				maildir: {
					flags: readMaildirFlags(own, above.endsWith('new')),
					deliveredAt: modifiedAt,
					trashed: isMaildirTrashed(own)
				}
			});
		else if (!directories.isOfProgram(above, own))
			mail.push({ ...file, folderPath: directories.folderPath(above), inTree: true, maildir: undefined });
	}
	return mail;
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
	const name = path.basename(source);
	return [
		{
			...{ name, folderPath: '', inTree: false, maildir: undefined, bytes: found.size, version: found.mtimeMs },
			read: () => readPlain(source, name, found.size)
		}
	];
}
