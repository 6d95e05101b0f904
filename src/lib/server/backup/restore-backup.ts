import { administratorNamed } from '../../../core/access/roles.ts';
import { copyFileSync, existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import {
	alone,
	databaseFile,
	type Db,
	finishPuttingInPlace,
	flush,
	inTransaction,
	isInUse,
	noteReady,
	openDatabase,
	readMark,
	repairIndexes,
	workplaceOf
} from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { goesOnFrom, ledgerMark, type LedgerMark, putForward, readForward } from './brought-forward-store.ts';
import {
	allDestroyed,
	askAnew,
	carryOut,
	type Destroyed,
	prepareDocket,
	destroyedItemsPresent
} from '../docket/index.ts';
import { endAllSessions } from '../access/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { type Backup, backupsIn, checkBackup, damagedBackup } from './back-up.ts';
import { listStoredSources, putRestored } from '../sources/index.ts';
import { stopRestoredJobs } from '../queue/index.ts';
import { stopOutgoing } from '../writing/index.ts';
import { recalculateDue } from '../standing/index.ts';
import type { Context, OpenDataFolder } from '../context/index.ts';
import { requireMailboxId, rereadMail } from '../mail/index.ts';

/** The result of restoring a backup. */
export interface Restored {
	file: string;
	dataFolder: string;
	messages: number;
	/** Messages destroyed since the backup, and destroyed again. */
	destroyedAgain: number;
	/** The later state of the data from which holds and access were taken; undefined: none was found. */
	broughtForwardFrom: string | undefined;
	/** Names of the holds placed since the backup, and placed again. */
	holdsAgain: string[];
	/** Names of the holds in effect again though they had been released since. */
	holdsReleasedSince: string[];
	/** Names of the live mailboxes that are read-only from now on. */
	readOnly: string[];
	/** The new path of the data file that was there. */
	former: string | undefined;
	/** The damage in the backup, in words: it is restored only because a person asked for it. */
	damage: string[];
}

const WHO = 'Kovrel, restoring a backup';

/* Jobs that decide nothing and go on: they read the mail again, and count from it. */
const READING_JOBS = ['recalculateDue', 'threadMail', 'readFiles', 'rereadMail'];

/* The facts of a data file; undefined if it cannot be read. */
async function read<T>(file: string, work: (db: Db) => Promise<T>): Promise<T | undefined> {
	const db = openDatabase(path.dirname(file), { readonly: true, file });
	try {
		return await work(db);
	} catch {
		return undefined;
	} finally {
		await db.destroy();
	}
}

/* The latest of the files that are later states of these data. */
async function latestOf(files: readonly string[], mark: LedgerMark): Promise<string | undefined> {
	let latest: { file: string; number: number } | undefined;
	for (const file of files) {
		const number = await read(file, async (db) =>
			(await goesOnFrom(db, mark)) ? (await ledgerMark(db))?.number : undefined
		);
		if (number !== undefined && number > (latest?.number ?? mark.number)) latest = { file, number };
	}
	return latest?.file;
}

/* Destroys again what was destroyed since the backup was made (invariant 13). */
async function destroyAgain(context: Context, destroyed: readonly Destroyed[]): Promise<number> {
	const back = await destroyedItemsPresent(context.db, destroyed);
	if (back.length === 0) return 0;
	await rereadMail(context);
	await recalculateDue(context);
	let messages = 0;
	for (const mailboxId of new Set(back.map((item) => item.mailboxId))) {
		const mailbox = await requireMailboxId(context, mailboxId);
		const ids = back.filter((item) => item.mailboxId === mailboxId).map(({ id }) => id);
		const docket = await prepareDocket(context, {
			mailboxId,
			name: 'Destroyed again after restoring a backup',
			lines: [
				{
					decision: 'dispose',
					options: {},
					scope: { kind: 'again', ids, label: 'that had been destroyed since the backup was made' }
				}
			]
		});
		messages += (await carryOut(context, { id: docket.id, expected: docket, confirm: mailbox.name, byItself: true }))
			.messages;
	}
	return messages;
}

type BroughtForward = Pick<Restored, 'broughtForwardFrom' | 'holdsAgain' | 'holdsReleasedSince'>;

/*
 * An older state must not undo on a mail server what was decided there since, so servers are only read until an
 * administrator says otherwise.
 *    @returns the names of the mailboxes that were written to
 */
async function readServersOnly(context: Context): Promise<string[]> {
	const written = (await listStoredSources(context.db)).filter(({ writes }) => writes === 1);
	await putRestored(context.db);
	const names: string[] = [];
	for (const { mailboxId, host, archiveOn } of written) {
		const { name } = await requireMailboxId(context, mailboxId);
		names.push(name);
		await appendLedger(context.db, {
			at: context.now(),
			by: { personId: null, name: WHO },
			action: 'source-changed',
			details: { mailbox: name, host, writes: false, archiveOn }
		});
	}
	return names;
}

/*
 * An older state of the data must not release what is on hold now, nor admit people whose access has ended. Other
 * decisions since are not known here, so nothing runs automatically until somebody has reviewed the settings.
 *    @param called the name of the file afterwards
 */
async function bringForward(db: Db, latest: string | undefined, called = latest): Promise<BroughtForward> {
	await askAnew(db);
	await stopOutgoing(db);
	const forward = latest === undefined ? undefined : await read(latest, readForward);
	if (!forward) return { broughtForwardFrom: undefined, holdsAgain: [], holdsReleasedSince: [] };
	const { placed, releasedSince } = await putForward(db, forward);
	return { broughtForwardFrom: called, holdsAgain: placed, holdsReleasedSince: releasedSince };
}

/* Files set aside by earlier restores: they may record destructions that nothing else does. */
const putAside = (dataFolder: string, target: string): string[] =>
	existsSync(dataFolder)
		? readdirSync(dataFolder)
				.map((name) => path.join(dataFolder, name))
				.filter((file) => file.startsWith(`${target}.before-`) && /Z$/.test(file))
		: [];

/** The options of a restore. */
export interface RestoringInput {
	file: string;
	dataFolder: string;
	/** Whether an existing data file may be set aside; it is kept under another name. */
	replace: boolean;
	/** Whether a damaged backup is restored as far as it is intact. */
	despiteDamage?: boolean | undefined;
}

/**
 * Restores a backup into a data folder, on this machine or an empty one. As far as the existing data or a later
 * backup beside it records them, destructions since are repeated, holds placed since are placed again, and people
 * have the access they have now. Live mailboxes become read-only. One rename puts it in place; an interrupted restore
 * is finished by the next command.
 *
 * @param open opens a data folder and brings it up to date (process/open-context)
 * @throws Refusal; the data folder is as it was then
 */
export async function restoreBackup(input: RestoringInput, open: OpenDataFolder): Promise<Restored> {
	const file = path.resolve(input.file);
	const dataFolder = path.resolve(input.dataFolder);
	const target = databaseFile(dataFolder);
	finishPuttingInPlace(dataFolder);
	const isThere = existsSync(target);
	if (isThere && !input.replace)
		throw new Refusal(
			'not-possible',
			`There are data in ${dataFolder} already. With --replace they are put aside, and the backup takes their place. Nothing was done.`
		);
	const { messages, damage } = await checkBackup(file);
	if (damage.length > 0 && !input.despiteDamage) throw damagedBackup(file, damage);
	const requireNobody = () => {
		if (isThere && isInUse(target))
			throw new Refusal(
				'not-possible',
				`Something works on the data in ${dataFolder}: end Kovrel there first. Nothing was done.`
			);
	};
	requireNobody();
	mkdirSync(dataFolder, { recursive: true, mode: 0o700 });
	const later = backupsIn(path.dirname(file)).filter((backup: Backup) => backup.file > file);
	const known = [...later.map((backup) => backup.file), ...putAside(dataFolder, target), ...(isThere ? [target] : [])];
	const destroyed: Destroyed[][] = [];
	for (const state of known) destroyed.push((await read(state, allDestroyed)) ?? []);
	const former = isThere ? `${target}.before-${new Date().toISOString().replace(/[-:.]/g, '')}` : undefined;
	const workplace = workplaceOf(dataFolder);
	rmSync(workplace, { recursive: true, force: true });
	mkdirSync(workplace, { mode: 0o700 });
	try {
		copyFileSync(file, databaseFile(workplace));
		if (damage.length > 0) repairIndexes(databaseFile(workplace));
		const context = await open(workplace, administratorNamed(WHO));
		let destroyedAgain = 0;
		let forward: BroughtForward & Pick<Restored, 'readOnly'>;
		try {
			const mark = await ledgerMark(context.db);
			const latest = mark && (await latestOf(known, mark));
			destroyedAgain = await destroyAgain(context, destroyed.flat());
			forward = await inTransaction(context.db, async (db) => {
				const brought = {
					...(await bringForward(db, latest, latest === target ? former : latest)),
					readOnly: await readServersOnly({ ...context, db })
				};
				// sessions and links of that time are invalid
				await endAllSessions(db);
				await stopRestoredJobs(db, READING_JOBS, context.now());
				await appendLedger(db, {
					at: context.now(),
					by: { personId: null, name: WHO },
					action: 'backup-restored',
					details: {
						file,
						messages,
						destroyedAgain,
						...brought,
						...(damage.length > 0 ? { damage } : {}),
						what: `${showMessages(destroyedAgain)} destroyed again, ${showCount(brought.holdsAgain.length)} holds placed again`
					}
				});
				return brought;
			});
		} finally {
			await context.db.destroy();
		}
		// a single file, so that one rename puts it in place
		alone(databaseFile(workplace));
		flush(databaseFile(workplace));
		requireNobody();
		noteReady(dataFolder, { id: readMark(workplace) ?? '', former: former ?? null });
		finishPuttingInPlace(dataFolder);
		return { file, dataFolder, messages, destroyedAgain, ...forward, former, damage };
	} catch (error) {
		// from here on it can be put in place
		if (!existsSync(path.join(workplace, 'ready.json'))) rmSync(workplace, { recursive: true, force: true });
		throw error;
	}
}
