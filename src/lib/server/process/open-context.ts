import { existsSync, statfsSync } from 'node:fs';
import { userInfo } from 'node:os';
import path from 'node:path';
import { isMainThread } from 'node:worker_threads';
import Joi from 'joi';
import { calendarIn } from '../../../core/calendar.ts';
import { READING } from '../../../core/message/summary.ts';
import { type Actor, KOVREL } from '../../../core/access/roles.ts';
import { findPerson, hasPeople, newToken } from '../access/index.ts';
import {
	DATA_ID,
	databaseFile,
	type Db,
	finishPuttingInPlace,
	getSetting,
	hasDataFile,
	inTransaction,
	isUpToDate,
	letWrite,
	makeDataFile,
	migrate,
	networkDrive,
	newDataId,
	openDatabase,
	putSetting,
	readMark,
	rollBack,
	rows,
	sql,
	writeMark
} from '../database/index.ts';
import type { Context, OpenDataFolder } from '../context/index.ts';
import { hasBrokenPages } from '../backup/index.ts';
import { countStored } from '../mail/index.ts';
import { provideDecisions } from '../docket/index.ts';
import { appendLedger, hasLedger } from '../ledger/index.ts';
import { openOutside } from '../outside/index.ts';
import { decisions } from './decisions.ts';
import { refusalIn } from '../machine-trouble.ts';
import { Refusal } from '../refusal.ts';

interface Environment {
	KOVREL_NETWORK_DRIVE?: string;
	KOVREL_NOW?: string;
	KOVREL_PERSON?: string;
	KOVREL_TIME_ZONE?: string;
}

const environmentSchema = Joi.object<Environment>({
	KOVREL_NETWORK_DRIVE: Joi.string().valid('allow').empty(''),
	KOVREL_NOW: Joi.string().isoDate().empty(''),
	KOVREL_PERSON: Joi.string().trim().max(200).empty(''),
	KOVREL_TIME_ZONE: Joi.string().empty('')
}).unknown();

function readEnvironment(): Environment {
	const { error, value } = environmentSchema.validate(process.env);
	if (error) throw new Refusal('bad-input', `The environment is not as it should be: ${error.message}.`);
	return value;
}

/** The clock: the machine's, or fixed by KOVREL_NOW. */
function clock(): () => Date {
	const { KOVREL_NOW } = readEnvironment();
	return KOVREL_NOW ? () => new Date(KOVREL_NOW) : () => new Date();
}

/**
 * The actor at a terminal: access to the data folder needs no password, but has a name. KOVREL_PERSON sets it; the
 * default is the machine's account.
 *
 * @throws Refusal if that person is unknown, or has no access any more
 */
async function actorAtTerminal(db: Db): Promise<Actor> {
	const named = readEnvironment().KOVREL_PERSON;
	if (!(await hasPeople(db))) return { personId: null, name: named ?? 'administrator', role: 'administrator' };
	if (named === undefined)
		return { personId: null, name: `${userInfo().username} at the terminal`, role: 'administrator' };
	const person = await findPerson(db, named);
	if (!person || person.endedAt)
		throw new Refusal(
			'forbidden',
			`${named} ${person ? 'left' : 'is nobody here'}: KOVREL_PERSON names who acts. Nothing was done.`
		);
	return { personId: person.id, name: person.name, role: person.role };
}

/* The office's time zone is fixed when the data folder is created, as all its calendar dates are in that zone. */
async function timeZone(db: Db): Promise<string> {
	const set = await getSetting(db, 'time-zone');
	if (set) return set;
	const zone = readEnvironment().KOVREL_TIME_ZONE ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
	try {
		calendarIn(zone);
	} catch (cause) {
		throw new Refusal(
			'bad-input',
			`There is no time zone "${zone}"; KOVREL_TIME_ZONE takes names such as Europe/Lisbon.`,
			{ cause }
		);
	}
	await inTransaction(db, (trx) => putSetting(trx, 'time-zone', zone));
	return zone;
}

/* Created with the folder: the key that marks known browsers. */
async function deviceSecret(db: Db): Promise<void> {
	if ((await getSetting(db, 'device-secret')) === undefined)
		await inTransaction(db, (trx) => putSetting(trx, 'device-secret', newToken()));
}

/*
 * File locks and the shared memory of the log do not work over a network: https://www.sqlite.org/howtocorrupt.html
 * 2.1, https://www.sqlite.org/wal.html.
 */
function requireOwnDisk(dataFolder: string): void {
	if (readEnvironment().KOVREL_NETWORK_DRIVE === 'allow') return;
	let place = path.resolve(dataFolder);
	while (!existsSync(place) && path.dirname(place) !== place) place = path.dirname(place);
	const by = networkDrive(place);
	if (by)
		throw new Refusal(
			'not-possible',
			`${dataFolder} lies on a network drive (${by}). There the data file would be damaged sooner or later, as locks do not hold over a network. Put it on a disk of this machine; backups may go there. (KOVREL_NETWORK_DRIVE=allow does it all the same.) Nothing was done.`
		);
}

/* Migrates the data file of a folder. @returns its identity */
async function bringUpToDate(dataFolder: string): Promise<string> {
	const db = openDatabase(dataFolder);
	try {
		await migrate(db);
		await timeZone(db);
		await deviceSecret(db);
		const identity = await getSetting(db, DATA_ID);
		if (identity !== undefined) return identity;
		return await inTransaction(db, async (trx) => {
			const known = await getSetting(trx, DATA_ID);
			if (known !== undefined) return known;
			const id = newDataId();
			await putSetting(trx, DATA_ID, id);
			// of a copy of the ledger it can be said which archive it is of
			if (!(await hasLedger(trx)))
				await appendLedger(trx, { at: clock()(), by: KOVREL, action: 'archive-begun', details: { identity: id } });
			// a new file has no mail of an earlier reading
			if ((await countStored(trx)).messages === 0) await putSetting(trx, 'reading', String(READING));
			return id;
		});
	} finally {
		await db.destroy();
	}
}

/* A data file that cannot be written to is read as it is. @returns its identity */
async function identityAsItIs(dataFolder: string): Promise<string> {
	const db = openDatabase(dataFolder, { readonly: true });
	try {
		const identity = await getSetting(db, DATA_ID);
		if (identity !== undefined && (await isUpToDate(db))) return identity;
		throw new Refusal(
			'no-writing',
			`${databaseFile(dataFolder)} has to be updated to this version of Kovrel, and its disk is read-only or full. Nothing was done.`
		);
	} finally {
		await db.destroy();
	}
}

/* Another program's database is not written to. */
async function requireKovrels(dataFolder: string): Promise<void> {
	const db = openDatabase(dataFolder, { readonly: true });
	try {
		const tables = await rows<{ name: string }>(
			db,
			sql`SELECT name FROM sqlite_master WHERE name IN ('knex_migrations', 'mailbox', 'setting')`
		);
		if (tables.length < 3)
			throw new Refusal(
				'damaged',
				`${databaseFile(dataFolder)} is no data file of Kovrel, or has lost what makes it one. Nothing was done.`
			);
	} finally {
		await db.destroy();
	}
}

/**
 * Prepares a data folder before anything opens it. Where its disk is read-only or full, it can still be read.
 *
 * @param options.isFirst whether an archive may be created in an empty folder: only at a first start on request
 * @throws Refusal if there is none, or its data file is missing, empty or another archive's (invariant 17)
 */
export async function prepareDataFolder(
	dataFolder: string,
	{ isFirst = false }: { isFirst?: boolean } = {}
): Promise<{ isNew: boolean; canWrite: boolean }> {
	// the mail is private: other accounts of this machine cannot read it
	if (isMainThread) process.umask(0o077);
	requireOwnDisk(dataFolder);
	// said before threads begin, which can only fail
	openOutside();
	finishPuttingInPlace(dataFolder);
	const isNew = !hasDataFile(dataFolder);
	if (isNew && !isFirst)
		throw new Refusal(
			'not-found',
			`There is no archive in ${dataFolder}. Is the right disk there, and is KOVREL_DATA right? To begin a new archive there, say so: "npm start -- --new", or "kovrel import PATH --mailbox NAME --new". Nothing was done.`
		);
	if (isNew) await makeDataFile(dataFolder, async (workplace) => void (await bringUpToDate(workplace)));
	else {
		rollBack(dataFolder);
		await requireKovrels(dataFolder);
	}
	let canWrite = true;
	const id = await bringUpToDate(dataFolder).catch((error: unknown) => {
		if (isNew || refusalIn(error)?.code !== 'no-writing') throw error;
		canWrite = false;
		return identityAsItIs(dataFolder);
	});
	const marked = readMark(dataFolder);
	if (marked === '')
		throw new Refusal(
			'damaged',
			`The mark of this folder cannot be read (kovrel-data.json in ${dataFolder}). If the data file beside it is the right one, remove the mark. Nothing was done.`
		);
	if (marked !== undefined && marked !== id)
		throw new Refusal(
			'damaged',
			`${databaseFile(dataFolder)} belongs to another archive than this folder. Put the right file back, or restore a backup ("kovrel restore-backup FILE --replace"). Nothing was done.`
		);
	if (marked === undefined && canWrite) writeMark(dataFolder, id);
	return { isNew, canWrite };
}

const DAY_MS = 86_400_000;

/**
 * Opens a prepared data folder for a thread.
 *
 * @param options.readonly for threads that must not write
 */
export async function openContext(
	dataFolder: string,
	options: { readonly?: boolean; actor?: Actor } = {}
): Promise<Context> {
	provideDecisions(decisions);
	const { readonly = false } = options;
	const db = openDatabase(dataFolder, { readonly });
	if (!readonly) await letWrite(db, !(await hasBrokenPages(db)));
	const outside = openOutside();
	const time = clock();
	// only with stand-ins can the clock be moved: "let a day pass"
	const ahead = { days: 0 };
	const readClock = async () => {
		if (outside.standIns) ahead.days = Number((await getSetting(db, 'clock-ahead-days')) ?? 0);
	};
	await readClock();
	const actor =
		options.actor ??
		(await actorAtTerminal(db).catch(async (error: unknown) => {
			// an open connection would keep the process running
			await db.destroy();
			throw error;
		}));
	return {
		db,
		dataFolder,
		outside,
		readClock,
		freeBytes: () => {
			const { bavail, bsize } = statfsSync(dataFolder);
			return bavail * bsize;
		},
		machineNow: time,
		clockIsGiven: readEnvironment().KOVREL_NOW !== undefined || outside.standIns !== undefined,
		now: () => new Date(time().getTime() + ahead.days * DAY_MS),
		dateOf: calendarIn(await timeZone(db)),
		actor,
		signal: new AbortController().signal,
		report: () => {},
		resumes: false,
		follow: async () => {}
	};
}

/** Prepares a data folder and opens it for an actor. @throws Refusal */
export const openUpToDate: OpenDataFolder = async (dataFolder, actor) => {
	const { canWrite } = await prepareDataFolder(dataFolder);
	return openContext(dataFolder, { readonly: !canWrite, actor });
};
