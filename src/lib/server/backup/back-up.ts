import { createHash } from 'node:crypto';
import {
	closeSync,
	createReadStream,
	existsSync,
	mkdirSync,
	openSync,
	readdirSync,
	readFileSync,
	renameSync,
	rmSync,
	statSync,
	writeFileSync
} from 'node:fs';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { daysBetween, type CalendarDate } from '../../../core/calendar.ts';
import { showBytes, showMessages } from '../../../core/weigh/units.ts';
import {
	checkDatabase,
	type Db,
	copyDatabase,
	CopyStopped,
	databaseFile,
	flush,
	getSetting,
	inTransaction,
	openDatabase,
	putSetting
} from '../database/index.ts';
import { noteIfPossible } from '../note-if-possible.ts';
import { Refusal } from '../refusal.ts';
import { countDestroyedSince, lastDestruction } from '../docket/index.ts';
import { countStored, type Stored } from '../mail/index.ts';
import { appendLedger, checkLedger } from '../ledger/index.ts';
import { checkContents } from './check-contents.ts';
import { type Context, defineJob, defineUseCase, text, today } from '../context/index.ts';
import Joi from 'joi';

/** A backup: a complete data file, with a description beside it. */
export interface Backup extends Stored {
	file: string;
	/** The instant of its content, ISO 8601 in UTC. */
	madeAt: string;
	bytes: number;
	sha256: string;
	/** Hash of the last line of its ledger. */
	ledgerHead: string;
	/** The damage in it, in words, which the data file has as well; undefined: an older backup without a check. */
	damage?: string[];
	/** False where nothing could be written to the data folder: the ledger does not have it. */
	noted?: boolean;
}

const AFTER_DAYS = 7;
const NAME = /^kovrel-\d{8}T\d{6}Z\.sqlite$/;
const nameOf = (at: Date) => `kovrel-${at.toISOString().replace(/[-:]/g, '').replace(/\.\d+/, '')}.sqlite`;
const noteOf = (file: string) => `${file}.json`;

/* Where a backup is written before it has its name. */
const unfinishedOf = (file: string) => `${file}.unfinished`;

/*
 * Claims the first second from then on that no other backup in the folder is called after: none is written over, and later
 * ones sort later, also where several begin at once.
 */
function claimFile(folder: string, at: Date): string {
	for (let then = at.getTime(); ; then += 1_000) {
		const file = path.join(folder, nameOf(new Date(then)));
		if (existsSync(file)) continue;
		try {
			closeSync(openSync(unfinishedOf(file), 'wx', 0o600));
			if (!existsSync(file)) return file;
			// another backup has just got this name
			rmSync(unfinishedOf(file));
		} catch (error) {
			if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
		}
	}
}

async function hashOf(file: string): Promise<string> {
	const hash = createHash('sha256');
	await pipeline(createReadStream(file, { highWaterMark: 1 << 20 }), hash);
	return hash.digest('hex');
}

/** The sentence about a damaged backup. */
export function damagedBackup(file: string, damage: readonly string[], cause?: unknown): Refusal {
	return new Refusal(
		'damaged',
		`${file} is damaged: ${damage.join('; ')}. Nothing was done. With --despite-damage what is whole in it is restored.`,
		{ cause }
	);
}

/** The content of a backup, and its damage. */
export interface CheckedBackup extends Stored {
	ledgerHead: string;
	/** In words; empty if it is intact. */
	damage: string[];
}

const CONTENTS_NAMED = 10;

/**
 * Opens a copy and checks it: SQLite's own check with its indexes, the ledger's chain, the SHA-256 of every unpacked
 * content, and its counts. The same check runs when a backup is made and when it is restored.
 *
 * @throws Refusal where it is no backup, or too damaged to be read
 */
export async function checkBackup(
	file: string,
	{ signal, report }: Pick<Context, 'signal' | 'report'> = { signal: new AbortController().signal, report: () => {} }
): Promise<CheckedBackup> {
	const noBackup = (why: string, cause?: unknown) =>
		new Refusal('damaged', `${file} is no backup of Kovrel that can be read: ${why}. Nothing was done.`, { cause });
	if (!existsSync(file)) throw new Refusal('not-found', `There is no file ${file}.`);
	let damage: string[];
	try {
		damage = checkDatabase(file);
	} catch (cause) {
		throw noBackup('it cannot be opened as a database', cause);
	}
	const db = openDatabase(path.dirname(file), { readonly: true, file });
	try {
		const ledger = await checkLedger(db);
		if (!ledger.ok) damage.push(`its ledger is broken at line ${ledger.brokenAt}`);
		const { damaged } = await checkContents(db, { signal, report });
		if (damaged.length > 0)
			damage.push(
				`the bytes of ${damaged.length} ${damaged.length === 1 ? 'content is' : 'contents are'} not what came in (${damaged.slice(0, CONTENTS_NAMED).join(', ')}${damaged.length > CONTENTS_NAMED ? ' …' : ''})`
			);
		return { ledgerHead: ledger.head, damage, ...(await countStored(db)) };
	} catch (cause) {
		throw noBackup(damage[0] ?? 'it has not what a data file has', cause);
	} finally {
		await db.destroy();
	}
}

/* @throws Refusal for a place that depends on where Kovrel was started, or that is lost together with the data */
function requireFolder({ dataFolder }: Context, folder: string, outcome: string): string {
	if (!path.isAbsolute(folder))
		throw new Refusal('bad-input', `Write the whole path of the folder, as in /srv/backups. ${outcome}`);
	const given = path.resolve(folder);
	const data = path.resolve(dataFolder);
	if (given === data || given.startsWith(data + path.sep))
		throw new Refusal(
			'bad-input',
			`A backup in the data folder is lost together with it: name a folder on another disk. ${outcome}`
		);
	return given;
}

/**
 * Makes a backup while work goes on: a consistent copy of one moment, opened and checked before it gets its name.
 *
 * @param input.out the whole path of a folder; made where it is missing
 * @throws Refusal
 */
export async function backUp(context: Context, input: { out: string; isNightly?: boolean }): Promise<Backup> {
	// a folder that was set before this rule still gets its backup: a poor one is better than none
	const out = input.isNightly ? path.resolve(input.out) : requireFolder(context, input.out, 'Nothing was written.');
	const notMade = (cause: unknown) =>
		new Refusal('not-possible', `The backup could not be made: ${(cause as Error).message}. None was made.`, { cause });
	try {
		mkdirSync(out, { recursive: true, mode: 0o700 });
	} catch (cause) {
		throw new Refusal('not-possible', `The folder ${out} cannot be made. Nothing was written.`, { cause });
	}
	const at = context.now();
	let file: string;
	try {
		removeUnfinished(out);
		file = claimFile(out, at);
	} catch (error) {
		throw notMade(error);
	}
	const unfinished = unfinishedOf(file);
	try {
		await copyDatabase(databaseFile(context.dataFolder), unfinished, {
			signal: context.signal,
			onPages: (done, total) =>
				context.report({ done, total, note: `${Math.floor((100 * done) / Math.max(1, total))} % copied` })
		});
		const found = await checkBackup(unfinished, context);
		if (context.signal.aborted) throw new CopyStopped();
		const note: Omit<Backup, 'file'> = {
			madeAt: at.toISOString(),
			bytes: statSync(unfinished).size,
			sha256: await hashOf(unfinished),
			...found
		};
		const backup: Backup = { file, ...note };
		writeFileSync(noteOf(file), `${JSON.stringify(note, undefined, '\t')}\n`, { mode: 0o600 });
		flush(noteOf(file));
		renameSync(unfinished, file);
		flush(out);
		const record = async (db: Db) => {
			const { damage = [] } = backup;
			const { madeAt, bytes, items } = backup;
			const last: LastBackup = { file, madeAt, bytes, damage, items, lacks: await lackingSince(db, backup) };
			await putSetting(db, 'backup-last', JSON.stringify(last));
			await appendLedger(db, {
				at: context.now(),
				by: context.actor,
				action: 'backed-up',
				details: {
					file,
					bytes: backup.bytes,
					sha256: backup.sha256,
					messages: backup.messages,
					...(damage.length > 0 ? { damage } : {})
				}
			});
		};
		const noted = await noteIfPossible(() => inTransaction(context.db, record));
		return { ...backup, noted };
	} catch (error) {
		if (error instanceof CopyStopped) throw new Refusal('not-possible', 'The backup was stopped. None was made.');
		if (error instanceof Refusal) throw error;
		throw notMade(error);
	} finally {
		for (const left of [unfinished, `${unfinished}-wal`, `${unfinished}-shm`]) rmSync(left, { force: true });
	}
}

/* What a backup that was cut off has left, unless one is being made by another process. */
const UNFINISHED = /^kovrel-\d{8}T\d{6}Z\.sqlite\.unfinished(-wal|-shm)?$/;
const OLD_MS = 3_600_000;

function removeUnfinished(folder: string): void {
	for (const name of readdirSync(folder).filter((one) => UNFINISHED.test(one))) {
		const file = path.join(folder, name);
		if (Date.now() - statSync(file).mtimeMs > OLD_MS) rmSync(file, { force: true });
	}
}

/** Mail that the backup before had and this one has not, although it was not destroyed. */
interface Lacking {
	/** Items that are missing without a certificate, and those that were destroyed since. */
	items: number;
	destroyed: number;
	/** The backup that had them, and when it was made. */
	file: string;
	since: string;
	itemsBefore: number;
}

/* Until somebody has said that it is right, the next ones are compared with the same backup. */
async function lackingSince(db: Db, { items }: Backup): Promise<Lacking | undefined> {
	const last = await readLast(db);
	if (last?.items === undefined) return undefined;
	const { file, since, itemsBefore } = last.lacks ?? { file: last.file, since: last.madeAt, itemsBefore: last.items };
	const destroyed = await countDestroyedSince(db, since);
	const missing = itemsBefore - destroyed - items;
	return missing > 0 ? { items: missing, destroyed, file, since, itemsBefore } : undefined;
}

/** Says that mail is rightly missing from the last backup. @throws Refusal where none is */
async function confirmBackup(context: Context): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const last = await readLast(db);
		if (!last?.lacks) throw new Refusal('not-possible', 'The last backup lacks nothing. Nothing was changed.');
		await putSetting(db, 'backup-last', JSON.stringify({ ...last, lacks: undefined }));
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'backup-confirmed',
			details: { file: last.file, missing: last.lacks.items, since: last.lacks.since }
		});
	});
}

/** The backups in a folder, the newest first, by their descriptions. */
export function backupsIn(folder: string): Backup[] {
	if (!existsSync(folder)) return [];
	return readdirSync(folder)
		.filter((name) => NAME.test(name))
		.sort()
		.reverse()
		.flatMap((name) => {
			const file = path.join(folder, name);
			try {
				return [{ ...(JSON.parse(readFileSync(noteOf(file), 'utf8')) as Omit<Backup, 'file'>), file }];
			} catch {
				return [];
			}
		});
}

/** The last backup. */
interface LastBackup {
	file: string;
	madeAt: string;
	bytes: number;
	damage?: string[];
	/** Undefined: one of an earlier version. */
	items?: number | undefined;
	/** Undefined: it has everything that the one before had, or somebody has said that it is right. */
	lacks?: Lacking | undefined;
}

async function readLast(db: Db): Promise<LastBackup | undefined> {
	const known = await getSetting(db, 'backup-last');
	return known === undefined ? undefined : (JSON.parse(known) as LastBackup);
}

/** The state of the backups. */
export interface BackupStanding {
	/** The folder for nightly backups; undefined: none. */
	folder: string | undefined;
	last: LastBackup | undefined;
	/** Whether none was ever made, or the last one is older than a week. */
	isWanted: boolean;
	/** The backups in the folder. */
	backups: (Backup & { holdsDestroyed: boolean })[];
}

/* The instant of the last backup, by the settings alone: every page asks, and the folder may be on a slow drive. */
async function lastBackup(context: Context): Promise<Pick<BackupStanding, 'last' | 'isWanted'>> {
	const last = await readLast(context.db);
	if (!last) return { last: undefined, isWanted: true };
	const made: CalendarDate = context.dateOf(Date.parse(last.madeAt) / 1000);
	return { last, isWanted: last.lacks !== undefined || daysBetween(made, today(context)) > AFTER_DAYS };
}

/** Whether none was ever made, the last one is older than a week, or lacks mail. */
export async function isBackupWanted(context: Context): Promise<boolean> {
	return (await lastBackup(context)).isWanted;
}

/** The instant of the last backup, and the backups that still hold mail destroyed since (invariant 13). */
export async function backupStanding(context: Context): Promise<BackupStanding> {
	const folder = await getSetting(context.db, 'backup-folder');
	const destroyed = await lastDestruction(context.db);
	return {
		folder: folder || undefined,
		...(await lastBackup(context)),
		backups: folder
			? backupsIn(folder).map((backup) => ({
					...backup,
					holdsDestroyed: destroyed !== undefined && destroyed > backup.madeAt
				}))
			: []
	};
}

/** Sets the folder for nightly backups; empty: none. @throws Refusal */
export async function setBackupFolder(context: Context, input: { folder: string }): Promise<void> {
	const given = input.folder.trim();
	const folder = given === '' ? '' : requireFolder(context, given, 'Nothing was changed.');
	await inTransaction(context.db, async (db) => {
		const before = await getSetting(db, 'backup-folder');
		await putSetting(db, 'backup-folder', folder);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'backup-set',
			details: { folder, before: before ?? '' }
		});
	});
}

/** A backup in words. */
export const backupWords = ({ file, bytes, messages, damage = [] }: Backup) =>
	`${path.basename(file)}: ${showMessages(messages)}, ${showBytes(bytes)}, opened and checked${
		damage.length > 0 ? `. IT IS DAMAGED, as the data file is: ${damage.join('; ')}` : ''
	}`;

/** The use cases of this file. */
export const backUpUseCases = [
	defineUseCase({
		name: 'backupStanding',
		thread: 'reader',
		right: 'oversight',
		run: backupStanding
	}),
	defineUseCase({
		name: 'isBackupWanted',
		thread: 'reader',
		right: 'oversight',
		run: isBackupWanted
	}),
	defineUseCase({ name: 'confirmBackup', thread: 'writer', right: 'administrator', run: confirmBackup }),
	defineUseCase({
		name: 'setBackupFolder',
		input: () => Joi.object({ folder: text.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setBackupFolder
	}),
	defineJob(
		{
			name: 'backUp',
			input: () => Joi.object({ out: text.required(), isNightly: Joi.boolean() }).required(),
			thread: 'checker',
			right: 'administrator',
			run: backUp
		},
		{
			lane: 'check',
			about: (_context, { out, isNightly = false }) => ({ kind: 'backup', folder: out, isNightly })
		}
	)
] as const;
