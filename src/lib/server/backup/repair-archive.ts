import { hash } from 'node:crypto';
import { closeSync, existsSync, openSync, readSync, statSync } from 'node:fs';
import path from 'node:path';
import Joi from 'joi';
import type { Damage } from '../../../core/archive/damage.ts';
import { summarise } from '../../../core/message/summary.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { type Context, defineJob, text } from '../context/index.ts';
import { DATA_ID, type Db, getSetting, inTransaction, openDatabase } from '../database/index.ts';
import { listSource, readSource } from '../intake/index.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	messageRows,
	pack,
	putContents,
	READ_COLUMNS,
	readableContent,
	rebuildWords,
	recountWeights,
	type SummedTable
} from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { recountDue } from '../standing/index.ts';
import {
	columnsOf,
	contentOfMessage,
	contentWithHash,
	isAsWritten,
	isDataFile,
	putIfRight,
	putProven,
	renumberContent,
	valuesOf,
	wantedContents
} from './repair-store.ts';
import { verifyAndNote } from './check-standing.ts';
import { verify } from './verify-archive.ts';

/** The result of a repair. */
export interface Repaired {
	/** How much damage is no more. */
	repaired: number;
	/** What is still damaged. */
	left: Damage[];
	/** Why nothing was written, if so; a sentence. */
	because: string | undefined;
	/** False if it was stopped. */
	finished: boolean;
}

/* ---- where whole bytes and rows come from ---- */

interface Backup {
	db: Db;
	/** Whether it is one of this archive: only then are its rows these rows. */
	isOurs: boolean;
}

function headOf(file: string): Buffer {
	const head = Buffer.alloc(16);
	const handle = openSync(file, 'r');
	try {
		readSync(handle, head, 0, 16, 0);
		return head;
	} finally {
		closeSync(handle);
	}
}

async function openBackup(context: Context, file: string): Promise<Backup> {
	const db = openDatabase(path.dirname(file), { readonly: true, file });
	const [theirs, ours] = [await getSetting(db, DATA_ID), await getSetting(context.db, DATA_ID)];
	return { db, isOurs: theirs !== undefined && theirs === ours };
}

const hashOf = (bytes: Uint8Array) => hash('sha256', bytes, 'hex');

/*
 * Equal bytes that come in again heal the damaged ones (mail/contents-store). Nothing comes back that was destroyed
 * while the repair was running.
 */
async function healContent(context: Context, sha256: string, bytes: Uint8Array): Promise<void> {
	const packed = pack(bytes, scanStructure(bytes));
	await inTransaction(context.db, async (db) => {
		if ((await contentWithHash(db, sha256)) !== undefined) await putContents(db, [packed]);
	});
}

async function repairFromMail(context: Context, wanted: Set<string>, from: string): Promise<void> {
	for await (const pieces of readSource(await listSource(from)))
		for (const { bytes } of pieces) {
			if (context.signal.aborted || wanted.size === 0) return;
			const sha256 = hashOf(bytes);
			if (wanted.delete(sha256)) await healContent(context, sha256, bytes);
		}
}

async function repairFromBackup(context: Context, wanted: Set<string>, backup: Db): Promise<void> {
	for (const sha256 of wanted) {
		if (context.signal.aborted) return;
		const id = await contentWithHash(backup, sha256);
		const bytes = id === undefined ? undefined : await readableContent(backup, id);
		if (bytes) await healContent(context, sha256, bytes);
	}
}

/* ---- rows ---- */

/* The values that a message's own bytes give it. */
async function readFromBytes(context: Context, id: number): Promise<Record<string, unknown> | undefined> {
	const contentId = await contentOfMessage(context.db, id);
	const bytes = contentId === undefined ? undefined : await readableContent(context.db, contentId);
	if (!bytes) return undefined;
	const summary = summarise(new Uint8Array(bytes), scanStructure(bytes));
	if (!summary) return undefined;
	const names = READ_COLUMNS.split(',').map((name) => name.trim());
	const { columns } = messageRows(summary);
	return Object.fromEntries(names.map((name, at) => [name, columns[at]]));
}

/* A single value first: mostly one is damaged, and the others may have changed since a backup was made. */
async function tryValues(
	{ db }: Context,
	table: SummedTable,
	id: number,
	values: Readonly<Record<string, unknown>>
): Promise<boolean> {
	const now = await valuesOf(db, table, id);
	const differing = Object.entries(values).filter(([name, value]) => name !== 'id' && now?.[name] !== value);
	if (differing.length === 0) return false;
	if (now) for (const [name, value] of differing) if (await putIfRight(db, table, id, { [name]: value })) return true;
	return putIfRight(db, table, id, Object.fromEntries(differing));
}

async function repairRow(
	context: Context,
	table: SummedTable,
	id: number,
	backup: Backup | undefined
): Promise<boolean> {
	if (backup?.isOurs) {
		const values = await valuesOf(backup.db, table, id);
		const here = new Set(await columnsOf(context.db, table));
		const common =
			values && Object.fromEntries(Object.entries(values).filter(([name]) => here.has(name) && name !== 'row_sum'));
		if (common && (await tryValues(context, table, id, common))) return true;
	}
	if (table === 'item') return false;
	const values = await readFromBytes(context, id);
	if (!values) return false;
	if (await tryValues(context, table, id, values)) return true;
	// all that is read from the bytes is right: only what is computed beside them can be damaged
	const now = await valuesOf(context.db, table, id);
	if (!now || Object.entries(values).some(([name, value]) => now[name] !== value)) return false;
	await inTransaction(context.db, (db) => putProven(db, id));
	return true;
}

/* The bytes of a message whose content is gone, by the same row in a backup. */
async function repairMissing(context: Context, id: number, backup: Backup | undefined): Promise<void> {
	const contentId = await contentOfMessage(context.db, id);
	if (!backup?.isOurs || contentId === undefined) return;
	if ((await contentOfMessage(backup.db, id)) !== contentId) return;
	const bytes = await readableContent(backup.db, contentId);
	if (!bytes) return;
	const packed = pack(bytes, scanStructure(bytes));
	await inTransaction(context.db, async (db) => {
		if ((await contentOfMessage(db, id)) !== contentId) return;
		const [put] = await putContents(db, [packed]);
		if (put !== undefined && put !== contentId) await renumberContent(db, put, contentId);
	});
}

/* ---- the use case ---- */

const idsOf = (damaged: readonly Damage[], what: Damage['what']) => [
	...new Set(damaged.flatMap((one) => (one.what === what && one.id !== null ? [one.id] : [])))
];

/**
 * Repairs single contents and rows by their SHA-256 and their sums, from a backup or from mail; the index of words and
 * the summaries are made anew from what is stored. Checks everything before and afterwards. Nothing is written into a
 * file of which pages are broken: such a one is replaced by a backup.
 *
 * @param input.from a backup, or mail as it can be imported; undefined: only what is here
 * @throws Refusal if there is nothing at `from`
 */
export async function repairArchive(context: Context, input: { from?: string | undefined }): Promise<Repaired> {
	const from = input.from === undefined ? undefined : path.resolve(input.from);
	if (from !== undefined && !existsSync(from))
		throw new Refusal('not-found', `There is no file or folder ${from}. Nothing was done.`);
	const { damaged } = await verify(context);
	if (damaged.length === 0 || context.signal.aborted)
		return { repaired: 0, left: damaged, because: undefined, finished: !context.signal.aborted };
	if (damaged.some(({ what }) => what === 'page'))
		return {
			repaired: 0,
			left: damaged,
			because:
				'Pages of the data file itself are broken, so nothing was written into it. End Kovrel, restore a backup ("kovrel restore-backup FILE --replace"), and import what came since.',
			finished: true
		};
	const isBackup = from !== undefined && statSync(from).isFile() && isDataFile(headOf(from));
	const backup = isBackup ? await openBackup(context, from) : undefined;
	try {
		await repairAll(context, damaged, backup, isBackup ? undefined : from);
	} finally {
		await backup?.db.destroy();
	}
	const { damaged: left, finished } = await verifyAndNote(context);
	const repaired = Math.max(0, damaged.length - left.length);
	await inTransaction(context.db, (db) =>
		appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'repaired',
			details: { from: from ?? '', repaired, left: left.length }
		})
	);
	return { repaired, left, because: undefined, finished };
}

async function repairAll(
	context: Context,
	damaged: readonly Damage[],
	backup: Backup | undefined,
	mail: string | undefined
): Promise<void> {
	const { db } = context;
	const wanted = new Set((await wantedContents(db, idsOf(damaged, 'content'))).map(({ sha256 }) => sha256));
	if (backup) await repairFromBackup(context, wanted, backup.db);
	if (mail !== undefined && wanted.size > 0) await repairFromMail(context, wanted, mail);
	for (const id of idsOf(damaged, 'message')) {
		if (context.signal.aborted) return;
		await repairMissing(context, id, backup);
		if (!(await isAsWritten(db, 'message', id))) await repairRow(context, 'message', id, backup);
	}
	for (const id of idsOf(damaged, 'item')) {
		if (context.signal.aborted) return;
		await repairRow(context, 'item', id, backup);
	}
	if (idsOf(damaged, 'words').length > 0) await rebuildWords(context);
	await inTransaction(db, async (within) => {
		await recountWeights(within);
		await recountDue(within);
	});
	context.report({ done: 1, total: 1, note: `${showCount(damaged.length)} places looked at` });
}

/** The use cases of this file. */
export const repairArchiveUseCases = [
	defineJob(
		{
			name: 'repairArchive',
			input: () => Joi.object({ from: text }).required(),
			thread: 'writer',
			right: 'administrator',
			run: repairArchive
		},
		{ lane: 'import', about: () => ({ kind: 'repair' }) }
	)
] as const;
