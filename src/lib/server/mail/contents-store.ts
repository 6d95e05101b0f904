import { hash } from 'node:crypto';
import { brotliCompressSync, brotliDecompressSync, constants } from 'node:zlib';
import { type Cut, cutSharedParts, frameOf, joinParts, type Platform } from '../../../core/message/shared-parts.ts';
import type { Part } from '../../../core/message/structure.ts';
import { type Db, inList, insertRows, isBrokenPage, type Range, row, rows, sql, within } from '../database/index.ts';

/** The stored forms of bytes. */
type Codec = 'identity' | 'brotli';

/** Bytes prepared for storing. */
export interface PackedContent {
	sha256: Uint8Array;
	rawBytes: number;
	codec: Codec;
	/** Packed: all of the bytes, or the rest without the shared parts. */
	data: Uint8Array;
	parts: PackedPart[];
}

/** A large attachment, stored once for all messages. */
interface PackedPart extends Omit<Cut, 'content' | 'end'> {
	content: PackedContent;
}

/** Stored bytes differ from those received. */
export class DamagedContentError extends Error {
	override name = 'DamagedContentError';
}

/* Measured on 4,000 real messages: 0.31 of the size; level 2 takes half as much time again for 0.29. */
const QUALITY = 1;
/* For large contents a sample is compressed first: pictures and archives do not shrink. */
const SAMPLE_BYTES = 8_192;
const WORTHWHILE = 0.97;

const asBuffer = (bytes: Uint8Array) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);

const platform: Platform = {
	decode: (text) => Buffer.from(text, 'base64'),
	encode: (bytes) => asBuffer(bytes).toString('base64'),
	textOf: (bytes) => asBuffer(bytes).toString('latin1'),
	bytesOf: (text) => Buffer.from(text, 'latin1')
};

const hashOf = (bytes: Uint8Array) => hash('sha256', bytes, 'buffer');

function compress(bytes: Uint8Array): Uint8Array {
	const packed = brotliCompressSync(bytes, {
		params: {
			[constants.BROTLI_PARAM_QUALITY]: QUALITY,
			[constants.BROTLI_PARAM_SIZE_HINT]: bytes.length,
			// a window no larger than the content: the encoder's memory depends on it
			[constants.BROTLI_PARAM_LGWIN]: Math.min(22, Math.max(12, Math.ceil(Math.log2(bytes.length + 1)))),
			[constants.BROTLI_PARAM_MODE]: constants.BROTLI_MODE_TEXT
		}
	});
	// a slice of a larger buffer, which would be transferred whole
	return new Uint8Array(packed);
}

function packBytes(bytes: Uint8Array): Pick<PackedContent, 'codec' | 'data'> {
	const middle = Math.max(0, (bytes.length - SAMPLE_BYTES) >> 1);
	const sample = bytes.subarray(middle, middle + SAMPLE_BYTES);
	if (bytes.length > 3 * SAMPLE_BYTES && compress(sample).length > WORTHWHILE * sample.length)
		return { codec: 'identity', data: bytes };
	const packed = compress(bytes);
	return packed.length < bytes.length ? { codec: 'brotli', data: packed } : { codec: 'identity', data: bytes };
}

/**
 * Hashes and compresses bytes. Expensive: done in parse workers.
 *
 * @param root the structure of a message: its large attachments are packed separately, if they can be joined again
 *   exactly
 */
export function pack(bytes: Uint8Array, root?: Part): PackedContent {
	const cuts = root ? cutSharedParts(bytes, root, platform) : [];
	const parts = cuts.map(({ start, lineLength, lineBreak, content }) => ({
		start,
		lineLength,
		lineBreak,
		content: pack(content)
	}));
	return {
		sha256: hashOf(bytes),
		rawBytes: bytes.length,
		...packBytes(cuts.length > 0 ? frameOf(bytes, cuts) : bytes),
		parts
	};
}

/** A stored content. */
export interface StoredContent {
	id: number;
	sha256: Buffer;
	raw_bytes: number;
	codec: Codec;
	data: Buffer;
}

function unpackData({ id, codec, data, raw_bytes }: StoredContent): Buffer {
	try {
		return codec === 'brotli' ? brotliDecompressSync(data, { maxOutputLength: raw_bytes + 1 }) : data;
	} catch (cause) {
		throw new DamagedContentError(`Content ${id} cannot be unpacked`, { cause });
	}
}

interface PartRow extends StoredContent {
	start: number;
	line_length: number;
	line_break: Cut['lineBreak'];
}

function wholeOf(stored: StoredContent, parts: readonly PartRow[]): Uint8Array {
	const frame = unpackData(stored);
	if (parts.length === 0) return frame;
	const inserts = parts.map((part) => ({
		start: part.start,
		content: unpackData(part),
		lineLength: part.line_length,
		lineBreak: part.line_break
	}));
	try {
		return joinParts(frame, inserts, platform);
	} catch (cause) {
		throw new DamagedContentError(`Content ${stored.id} cannot be put together again`, { cause });
	}
}

/* The shared parts of some contents, by the numbers of these. */
async function partsOf(db: Db, ids: readonly number[]): Promise<Map<number, PartRow[]>> {
	const found = await rows<PartRow & { contentId: number }>(
		db,
		sql`SELECT content_id AS contentId, content.id, sha256, raw_bytes, codec, data, start, line_length, line_break
		 FROM content_part JOIN content ON content.id = content_part.part_id WHERE content_id IN ${inList(ids)} ORDER BY content_id, position`
	);
	const parts = new Map<number, PartRow[]>();
	for (const part of found) {
		const known = parts.get(part.contentId);
		if (known) known.push(part);
		else parts.set(part.contentId, [part]);
	}
	return parts;
}

function verified(stored: StoredContent, parts: readonly PartRow[] = []): Buffer {
	const bytes = asBuffer(wholeOf(stored, parts));
	if (bytes.length !== stored.raw_bytes || !hashOf(bytes).equals(stored.sha256))
		throw new DamagedContentError(`Content ${stored.id} does not have the SHA-256 it came in with`);
	return bytes;
}

/**
 * Unpacks stored bytes, puts shared parts back, and verifies the SHA-256.
 *
 * @throws DamagedContentError where they are not
 */
export async function unpack(db: Db, stored: StoredContent): Promise<Buffer> {
	return verified(stored, (await partsOf(db, [stored.id])).get(stored.id));
}

const hex = (sha256: Uint8Array) => asBuffer(sha256).toString('hex');

/**
 * Stores bytes, each only once, with the parts of new ones in the same transaction. Damaged stored bytes are healed.
 *
 * @returns the id of each, in the order given
 */
export async function putContents(db: Db, contents: readonly PackedContent[]): Promise<number[]> {
	if (contents.length === 0) return [];
	const added = await insertRows(
		db,
		`INSERT INTO content (sha256, raw_bytes, stored_bytes, codec, data)`,
		contents.map(({ sha256, rawBytes, codec, data }) => [
			asBuffer(sha256),
			rawBytes,
			data.length,
			codec,
			asBuffer(data)
		]),
		`ON CONFLICT (sha256) DO NOTHING`
	);
	await putParts(
		db,
		contents.flatMap(({ parts }, at) => {
			const of = added[at];
			return of === undefined ? [] : parts.map((part, position) => ({ of, position, part }));
		})
	);
	const known = new Map<string, number>();
	for (const [at, content] of contents.entries()) {
		const key = hex(content.sha256);
		if (added[at] !== undefined || known.has(key)) continue;
		known.set(key, await healedContent(db, content));
	}
	return contents.map(({ sha256 }, at) => added[at] ?? (known.get(hex(sha256)) as number));
}

const COLUMNS = sql`id, sha256, raw_bytes, codec, data`;

/** Whether bytes with this SHA-256 are here. */
export async function hasContent(db: Db, sha256: Uint8Array): Promise<boolean> {
	return (await row(db, sql`SELECT 1 FROM content WHERE sha256 = ${asBuffer(sha256)}`)) !== undefined;
}

/*
 * The number of an existing content. Nothing is acknowledged over damaged stored bytes: the good ones at hand replace
 * them (invariant 18). Equally packed bytes are equal; others are unpacked and compared.
 */
async function healedContent(db: Db, packed: PackedContent): Promise<number> {
	const stored = (await row<StoredContent>(
		db,
		sql`SELECT ${COLUMNS} FROM content WHERE sha256 = ${asBuffer(packed.sha256)}`
	)) as StoredContent;
	const isAlike =
		packed.parts.length === 0 &&
		stored.raw_bytes === packed.rawBytes &&
		stored.codec === packed.codec &&
		stored.data.equals(packed.data);
	if (isAlike) return stored.id;
	try {
		await unpack(db, stored);
	} catch (error) {
		if (!(error instanceof DamagedContentError)) throw error;
		await replaceContent(db, stored.id, packed);
	}
	return stored.id;
}

async function replaceContent(db: Db, id: number, { rawBytes, codec, data, parts }: PackedContent): Promise<void> {
	await db('content')
		.where({ id })
		.update({ raw_bytes: rawBytes, stored_bytes: data.length, codec, data: asBuffer(data) });
	await db('content_part').where({ content_id: id }).delete();
	await putParts(
		db,
		parts.map((part, position) => ({ of: id, position, part }))
	);
}

/* Stores which parts contents are made of; parts are stored like any content. */
async function putParts(db: Db, parts: readonly { of: number; position: number; part: PackedPart }[]): Promise<void> {
	const partIds = await putContents(
		db,
		parts.map(({ part }) => part.content)
	);
	await insertRows(
		db,
		`INSERT INTO content_part (content_id, position, part_id, start, line_length, line_break)`,
		parts.map(({ of, position, part }, at) => [of, position, partIds[at], part.start, part.lineLength, part.lineBreak])
	);
}

/**
 * The bytes of one content, verified.
 *
 * @throws DamagedContentError
 */
export async function readContent(db: Db, id: number): Promise<Buffer | undefined> {
	try {
		const stored = await row<StoredContent>(db, sql`SELECT ${COLUMNS} FROM content WHERE id = ${id}`);
		return stored && (await unpack(db, stored));
	} catch (error) {
		// a page of the file that cannot be read damages the contents on it, and no others
		if (!isBrokenPage(error)) throw error;
		throw new DamagedContentError(`Content ${id} lies on a page that cannot be read`, { cause: error });
	}
}

/** The bytes of one content; undefined if they are damaged: `verify` reports it, and the caller continues. */
export async function readableContent(db: Db, id: number): Promise<Buffer | undefined> {
	return readContent(db, id).catch((error: unknown) => {
		if (error instanceof DamagedContentError) return undefined;
		throw error;
	});
}

/* Contents read together: enough to keep the disk busy, few enough for memory. */
const READ_BYTES = 8_000_000;
const READ_CONTENTS = 50;

/** A content among several: its bytes, verified, or what is wrong with it; neither if there is none of the number. */
export interface ReadContent {
	id: number;
	bytes?: Buffer | undefined;
	damage?: DamagedContentError;
}

/* Some contents at a time, by their unpacked sizes. */
async function bundlesOf(db: Db, ids: readonly number[]): Promise<number[][]> {
	const found = await rows<{ id: number; bytes: number }>(
		db,
		sql`SELECT id, raw_bytes AS bytes FROM content WHERE id IN ${inList(ids)}`
	);
	const sizes = new Map(found.map(({ id, bytes }) => [id, bytes]));
	const bundles: number[][] = [];
	let room = 0;
	for (const id of ids) {
		const bytes = sizes.get(id) ?? 0;
		const last = bundles.at(-1);
		if (last && last.length < READ_CONTENTS && bytes <= room) last.push(id);
		else {
			bundles.push([id]);
			room = READ_BYTES;
		}
		room -= bytes;
	}
	return bundles;
}

async function readTogether(db: Db, ids: readonly number[]): Promise<ReadContent[]> {
	const found = await rows<StoredContent>(db, sql`SELECT ${COLUMNS} FROM content WHERE id IN ${inList(ids)}`);
	const stored = new Map(found.map((content) => [content.id, content]));
	const parts = await partsOf(db, ids);
	return ids.map((id) => {
		const content = stored.get(id);
		try {
			return { id, bytes: content && verified(content, parts.get(id)) };
		} catch (damage) {
			if (!(damage instanceof DamagedContentError)) throw damage;
			return { id, damage };
		}
	});
}

async function readAlone(db: Db, id: number): Promise<ReadContent> {
	try {
		return { id, bytes: await readContent(db, id) };
	} catch (damage) {
		if (!(damage instanceof DamagedContentError)) throw damage;
		return { id, damage };
	}
}

/** The bytes of many contents, verified, in the order given: some megabytes at a time, by one statement each. */
export async function* readContents(db: Db, ids: readonly number[]): AsyncGenerator<ReadContent[]> {
	let bundles: number[][];
	try {
		bundles = await bundlesOf(db, ids);
	} catch (error) {
		if (!isBrokenPage(error)) throw error;
		bundles = ids.map((id) => [id]);
	}
	for (const bundle of bundles)
		try {
			yield await readTogether(db, bundle);
		} catch (error) {
			// a page of the file that cannot be read damages the contents on it, and no others
			if (!isBrokenPage(error)) throw error;
			for (const id of bundle) yield [await readAlone(db, id)];
		}
}

/* Whether a content is a message's bytes, or kept raw, and not only a part. */
const STANDS_ALONE = sql`(NOT EXISTS (SELECT 1 FROM content_part WHERE content_part.part_id = content.id)
	OR EXISTS (SELECT 1 FROM message WHERE message.content_id = content.id)
	OR EXISTS (SELECT 1 FROM import_oddity WHERE import_oddity.content_id = content.id))`;

/** A content, and whether it is more than a part. */
export interface CheckedContent extends StoredContent {
	stands_alone: number;
}

/** The contents of a range of numbers ordered by id, some megabytes at a time. */
export async function* contentsIn(db: Db, { from, to }: Range): AsyncGenerator<CheckedContent[]> {
	for (let next = from; next <= to;) {
		const sizes = await rows<{ id: number; stored_bytes: number }>(
			db,
			sql`SELECT id, stored_bytes FROM content WHERE ${within('id', { from: next, to })} ORDER BY id LIMIT 500`
		);
		let bytes = 0;
		let last: number | undefined;
		for (const { id, stored_bytes } of sizes) {
			if (last !== undefined && bytes + stored_bytes > READ_BYTES) break;
			bytes += stored_bytes;
			last = id;
		}
		if (last === undefined) return;
		yield await rows<CheckedContent>(
			db,
			sql`SELECT ${COLUMNS}, ${STANDS_ALONE} AS stands_alone FROM content WHERE ${within('id', { from: next, to: last })} ORDER BY id`
		);
		next = last + 1;
	}
}

/** The highest number of a content. */
export async function highestContent(db: Db): Promise<number> {
	return (await row<{ id: number | null }>(db, sql`SELECT max(id) AS id FROM content`))?.id ?? 0;
}

/** The highest number of a content that anything refers to: contents themselves are not read for it. */
export async function highestUsedContent(db: Db): Promise<number> {
	const found = await row<{ id: number | null }>(
		db,
		sql`SELECT max(id) AS id FROM (SELECT max(content_id) AS id FROM message UNION ALL SELECT max(part_id) FROM content_part
			UNION ALL SELECT max(content_id) FROM import_oddity)`
	);
	return found?.id ?? 0;
}

/** Those of the numbers that a message, an attachment or what was kept raw refers to. */
export async function usedContents(db: Db, ids: readonly number[]): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT value AS id FROM json_each(${JSON.stringify(ids)}) WHERE value IN (SELECT content_id FROM message)
			OR value IN (SELECT part_id FROM content_part) OR value IN (SELECT content_id FROM import_oddity)`
	);
	return found.map(({ id }) => id);
}

/** The number of contents, parts included, and their bytes. */
export async function contentTotals(db: Db): Promise<{ contents: number; storedBytes: number }> {
	const totals = await row<{ contents: number; storedBytes: number }>(
		db,
		sql`SELECT count(*) AS contents, ifnull(sum(stored_bytes), 0) AS storedBytes FROM content`
	);
	return totals ?? { contents: 0, storedBytes: 0 };
}

/** The counts of a data file. */
export interface Stored {
	messages: number;
	items: number;
}

/** Counts stored messages and items. */
export async function countStored(db: Db): Promise<Stored> {
	const found = await row<Stored>(
		db,
		sql`SELECT (SELECT count(*) FROM message) AS messages, (SELECT count(*) FROM item) AS items`
	);
	return found ?? { messages: 0, items: 0 };
}
