import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream, existsSync } from 'node:fs';
import { mkdir, open, readdir, readFile, rm, stat, truncate, utimes, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { MOST_NAME_BYTES, safeName } from '../../../core/formats/export-names.ts';
import { BLOCK_BYTES, joinedHashes } from '../../../core/formats/tree-hash.ts';
import { Refusal } from '../refusal.ts';

/*
 * An upload arrives in pieces, each at the offset at which the file here ends, so that it continues after a broken
 * connection. Names from outside are names in its folder, never paths.
 */

/** The plan of an upload. */
export interface UploadPlan {
	mailbox: string;
	folder: string;
	/** Name of the file or folder, for the person. */
	source: string;
	/** Each with the time of its last change, in milliseconds since 1970: a Maildir keeps there when a message came. */
	files: { path: string; bytes: number; modified?: number | undefined }[];
}

interface Manifest extends UploadPlan {
	/** Path of each file below the upload's own folder. */
	places: string[];
}

const ID = /^[0-9a-f-]{36}$/;

function uploadFolder(dataFolder: string, id: string): string {
	if (!ID.test(id)) throw new Refusal('not-found', 'There is no such upload.');
	return path.join(dataFolder, 'uploads', id);
}

/* The last manifests: each piece asks for that of its upload, which names every file of a folder. */
const KEPT_MANIFESTS = 4;
const manifests = new Map<string, Manifest>();

async function readManifest(folder: string): Promise<Manifest> {
	const file = path.join(folder, 'manifest.json');
	try {
		// it is never written again, but removed with its upload
		await stat(file);
		const manifest = manifests.get(file) ?? (JSON.parse(await readFile(file, 'utf8')) as Manifest);
		manifests.delete(file);
		manifests.set(file, manifest);
		const [oldest] = manifests.keys();
		if (manifests.size > KEPT_MANIFESTS && oldest !== undefined) manifests.delete(oldest);
		return manifest;
	} catch (cause) {
		throw new Refusal('not-found', 'There is no such upload.', { cause });
	}
}

/*
 * A name for this system's disk that still says what it said: a Maildir has dots in front and colons within. Of a long one
 * the end says more.
 */
function nameOnDisk(name: string): string {
	if (process.platform === 'win32') return safeName(name.replace(/:(?=2,)/, ';'), 120);
	// eslint-disable-next-line no-control-regex
	const characters = [...name.normalize('NFC').replace(/[\u0000-\u001f\u007f]/g, '_')];
	while (Buffer.byteLength(characters.join('')) > MOST_NAME_BYTES) characters.shift();
	return characters.join('');
}

/* The same tree with names of this disk; a number keeps apart two that would become one. */
function placesFor(files: UploadPlan['files']): string[] {
	const taken = new Set<string>();
	return files.map(({ path: given }, at) => {
		const names = given
			.split('/')
			.filter((name) => name !== '' && name !== '.' && name !== '..')
			.map(nameOnDisk);
		const place = path.join('files', ...(names.length > 0 ? names : [String(at)]));
		const free = taken.has(place.toLowerCase())
			? path.join('files', ...names.slice(0, -1), `${at} ${names.at(-1) ?? ''}`)
			: place;
		taken.add(free.toLowerCase());
		return free;
	});
}

/** Begins an upload. @returns its id */
export async function beginUpload(dataFolder: string, plan: UploadPlan): Promise<string> {
	const id = randomUUID();
	const folder = uploadFolder(dataFolder, id);
	await mkdir(folder, { recursive: true });
	const manifest: Manifest = { ...plan, places: placesFor(plan.files) };
	await writeFile(path.join(folder, 'manifest.json'), JSON.stringify(manifest));
	return id;
}

async function sizeOf(file: string): Promise<number> {
	return (await stat(file).catch(() => undefined))?.size ?? 0;
}

async function fileOf(dataFolder: string, id: string, index: number): Promise<{ file: string; bytes: number }> {
	const folder = uploadFolder(dataFolder, id);
	const { places, files } = await readManifest(folder);
	const place = places[index];
	const planned = files[index];
	if (place === undefined || planned === undefined)
		throw new Refusal('not-found', 'There is no such file in this upload.');
	return { file: path.join(folder, place), bytes: planned.bytes };
}

/** How many bytes of a file have arrived, where to continue. */
export async function arrivedBytes(dataFolder: string, id: string, index: number): Promise<number> {
	return sizeOf((await fileOf(dataFolder, id, index)).file);
}

/* The writer of each file: two pieces of one file at a time would mix. */
const writing = new Map<string, { stop: AbortController; ended: Promise<unknown> }>();

/*
 * Makes one request the only writer of a file. An earlier piece still arriving is cut off: its connection may be
 * broken unnoticed, and the later request is the live one.
 */
async function asOnlyWriter<T>(file: string, write: (signal: AbortSignal) => Promise<T>): Promise<T> {
	for (let other = writing.get(file); other; other = writing.get(file)) {
		other.stop.abort();
		await other.ended;
	}
	const stop = new AbortController();
	const written = write(stop.signal);
	const mine = { stop, ended: written.catch(() => {}) };
	writing.set(file, mine);
	try {
		return await written;
	} finally {
		writing.delete(file);
	}
}

/* Limits the bytes of a body. */
async function* upTo(bytes: number, source: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
	let came = 0;
	for await (const chunk of source) {
		came += chunk.length;
		if (came > bytes) throw new Refusal('bad-input', 'More bytes came than the file was said to have.');
		yield chunk;
	}
}

/**
 * Appends bytes to a file: a whole piece, or none of it.
 *
 * @returns how many have arrived now
 * @throws Refusal if the file does not end at that offset, or another piece arrived meanwhile
 */
export async function takePiece(
	dataFolder: string,
	id: string,
	index: number,
	offset: number,
	body: ReadableStream<Uint8Array> | null
): Promise<number> {
	const { file, bytes } = await fileOf(dataFolder, id, index);
	return asOnlyWriter(file, async (signal) => {
		const arrived = await sizeOf(file);
		if (offset !== arrived) throw new Refusal('changed', `The next byte of this file is ${arrived}, not ${offset}.`);
		await mkdir(path.dirname(file), { recursive: true });
		const source: AsyncIterable<Uint8Array> = body ? Readable.fromWeb(body as never) : Readable.from([]);
		try {
			await pipeline(upTo(bytes - offset, source), createWriteStream(file, { flags: 'a' }), { signal });
		} catch (error) {
			if (await stat(file).catch(() => undefined)) await truncate(file, offset);
			if (!signal.aborted) throw error;
			throw new Refusal('changed', 'Another piece of this file came meanwhile: ask how much of it has arrived.', {
				cause: error
			});
		}
		return sizeOf(file);
	});
}

/** A complete upload, ready to be imported. */
export interface FinishedUpload {
	plan: UploadPlan;
	/** The single file, or the folder of files. */
	path: string;
	folder: string;
}

const HASHES = 'hashes.json';

/**
 * Checks that everything has arrived, and stores each file's expected hash, which is compared before the import.
 *
 * @param hashes of each file as it was sent (core/formats/tree-hash), in the order of the plan
 * @throws Refusal where something is missing
 */
export async function finishUpload(dataFolder: string, id: string, hashes: readonly string[]): Promise<FinishedUpload> {
	const folder = uploadFolder(dataFolder, id);
	const { places, ...plan } = await readManifest(folder);
	if (hashes.length !== places.length)
		throw new Refusal('bad-input', 'The hashes of the files did not come along. Nothing was imported yet.');
	for (const [index, place] of places.entries()) {
		const missing = (plan.files[index]?.bytes ?? 0) - (await sizeOf(path.join(folder, place)));
		if (missing !== 0)
			throw new Refusal(
				'changed',
				`${plan.files[index]?.path} has not arrived whole: ${missing} bytes are missing. Nothing was imported yet.`
			);
	}
	await writeFile(path.join(folder, HASHES), JSON.stringify(hashes));
	for (const [index, place] of places.entries()) {
		const modified = plan.files[index]?.modified;
		if (modified !== undefined) await utimes(path.join(folder, place), new Date(), new Date(modified));
	}
	const single = plan.files.length === 1 && !plan.files[0]?.path.includes('/');
	return { plan, path: single ? path.join(folder, places[0] as string) : path.join(folder, 'files'), folder };
}

async function treeHashOf(file: string): Promise<string> {
	const handle = await open(file);
	try {
		const hashes: Buffer[] = [];
		for (let at = 0; ; at += BLOCK_BYTES) {
			const { bytesRead, buffer } = await handle.read(Buffer.allocUnsafe(BLOCK_BYTES), 0, BLOCK_BYTES, at);
			if (bytesRead > 0) hashes.push(createHash('sha256').update(buffer.subarray(0, bytesRead)).digest());
			if (bytesRead < BLOCK_BYTES) break;
		}
		return createHash('sha256').update(joinedHashes(hashes)).digest('hex');
	} finally {
		await handle.close();
	}
}

/**
 * Compares the files of an upload with what was sent, by the hash of each whole file; uploads not from a browser have
 * no hashes.
 *
 * @throws Refusal where a file is another one than was sent
 */
export async function requireAsSent(folder: string): Promise<void> {
	if (!existsSync(path.join(folder, HASHES))) return;
	const { places, files } = await readManifest(folder);
	const hashes = JSON.parse(await readFile(path.join(folder, HASHES), 'utf8')) as string[];
	for (const [index, place] of places.entries())
		if ((await treeHashOf(path.join(folder, place))) !== hashes[index])
			throw new Refusal(
				'damaged',
				`${files[index]?.path} did not arrive as it was sent. Nothing of it was imported; send it again.`
			);
}

/* When something was last written into a folder, in milliseconds. */
async function lastWritten(folder: string): Promise<number> {
	let last = 0;
	for (const entry of await readdir(folder, { recursive: true, withFileTypes: true }))
		if (entry.isFile()) last = Math.max(last, (await stat(path.join(entry.parentPath, entry.name))).mtimeMs);
	return last || (await stat(folder)).mtimeMs;
}

/**
 * Removes uploads without a write since a time: they are abandoned, and are copies of mail recorded nowhere else.
 *
 * @param kept folders of uploads that are being imported
 * @returns how many were removed
 */
export async function removeUploads(dataFolder: string, before: Date, kept: ReadonlySet<string>): Promise<number> {
	const uploads = path.join(dataFolder, 'uploads');
	let removed = 0;
	for (const id of await readdir(uploads).catch(() => [])) {
		const folder = path.join(uploads, id);
		if (!ID.test(id) || kept.has(folder)) continue;
		// one that disappears meanwhile is being imported
		if ((await lastWritten(folder).catch(() => Infinity)) >= before.getTime()) continue;
		await rm(folder, { recursive: true, force: true });
		removed++;
	}
	return removed;
}
