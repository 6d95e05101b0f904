import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { safeName } from '../../../core/formats/export-names.ts';
import { Refusal } from '../refusal.ts';

/* An upload comes in pieces, each at the offset where the file on this side ends: after a broken connection it goes on
   there. Names from outside never become paths as they are. */

/** What is being uploaded. */
export interface UploadPlan {
	mailbox: string;
	folder: string;
	/** Name of the file or folder, as the person knows it. */
	source: string;
	files: { path: string; bytes: number }[];
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

async function readManifest(folder: string): Promise<Manifest> {
	try {
		return JSON.parse(await readFile(path.join(folder, 'manifest.json'), 'utf8')) as Manifest;
	} catch (cause) {
		throw new Refusal('not-found', 'There is no such upload.', { cause });
	}
}

/* The same tree with names that are safe; a number keeps two apart that would become one. */
function placesFor(files: UploadPlan['files']): string[] {
	const taken = new Set<string>();
	return files.map(({ path: given }, at) => {
		const names = given
			.split('/')
			.filter((name) => name !== '' && name !== '.' && name !== '..')
			.map((name) => safeName(name, 120));
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

/** How many bytes of a file have arrived: where to go on. */
export async function arrivedBytes(dataFolder: string, id: string, index: number): Promise<number> {
	return sizeOf((await fileOf(dataFolder, id, index)).file);
}

/** Takes the next bytes of a file. @returns how many have arrived now */
export async function takePiece(
	dataFolder: string,
	id: string,
	index: number,
	offset: number,
	body: ReadableStream<Uint8Array> | null
): Promise<number> {
	const { file, bytes } = await fileOf(dataFolder, id, index);
	const arrived = await sizeOf(file);
	if (offset !== arrived) throw new Refusal('changed', `The next byte of this file is ${arrived}, not ${offset}.`);
	await mkdir(path.dirname(file), { recursive: true });
	await pipeline(body ? Readable.fromWeb(body as never) : Readable.from([]), createWriteStream(file, { flags: 'a' }));
	const now = await sizeOf(file);
	if (now > bytes) throw new Refusal('bad-input', 'More bytes came than the file was said to have.');
	return now;
}

/** A whole upload, ready to be brought in. */
export interface FinishedUpload {
	plan: UploadPlan;
	/** The one file, or the folder of them. */
	path: string;
	folder: string;
}

/** Checks that everything has arrived. @throws Refusal where something is missing */
export async function finishUpload(dataFolder: string, id: string): Promise<FinishedUpload> {
	const folder = uploadFolder(dataFolder, id);
	const { places, ...plan } = await readManifest(folder);
	for (const [index, place] of places.entries()) {
		const missing = (plan.files[index]?.bytes ?? 0) - (await sizeOf(path.join(folder, place)));
		if (missing !== 0)
			throw new Refusal(
				'changed',
				`${plan.files[index]?.path} has not arrived whole: ${missing} bytes are missing. Nothing was brought in yet.`
			);
	}
	const single = plan.files.length === 1 && !plan.files[0]?.path.includes('/');
	return { plan, path: single ? path.join(folder, places[0] as string) : path.join(folder, 'files'), folder };
}

/* When something was last written into a folder, in milliseconds. */
async function lastWritten(folder: string): Promise<number> {
	let last = 0;
	for (const entry of await readdir(folder, { recursive: true, withFileTypes: true }))
		if (entry.isFile()) last = Math.max(last, (await stat(path.join(entry.parentPath, entry.name))).mtimeMs);
	return last || (await stat(folder)).mtimeMs;
}

/**
 * Removes uploads into which nothing was written since a time: nobody goes on with them, and they are copies of mail that nothing
 * else knows of.
 *
 * @param kept folders of uploads that are being brought in
 * @returns how many were removed
 */
export async function removeUploads(dataFolder: string, before: Date, kept: ReadonlySet<string>): Promise<number> {
	const uploads = path.join(dataFolder, 'uploads');
	let removed = 0;
	for (const id of await readdir(uploads).catch(() => [])) {
		const folder = path.join(uploads, id);
		if (!ID.test(id) || kept.has(folder)) continue;
		// one that goes while it is looked at is being brought in
		if ((await lastWritten(folder).catch(() => Infinity)) >= before.getTime()) continue;
		await rm(folder, { recursive: true, force: true });
		removed++;
	}
	return removed;
}
