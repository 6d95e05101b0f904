import { existsSync } from 'node:fs';
import path from 'node:path';
import { isMainThread } from 'node:worker_threads';
import Joi from 'joi';
import { calendarIn } from '../../../core/calendar.ts';
import { type Db, inTransaction, migrate, openDatabase } from '../database/open.ts';
import { networkDrive } from '../database/drives.ts';
import { getSetting, putSetting } from '../stores/settings.ts';
import type { Context } from './context.ts';
import { openOutside } from '../outside/outside.ts';
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

/** The clock: the machine's, or the one instant that KOVREL_NOW names. */
export function clock(): () => Date {
	const { KOVREL_NOW } = readEnvironment();
	return KOVREL_NOW ? () => new Date(KOVREL_NOW) : () => new Date();
}

/** Who acts until people sign in: the person named in the environment, else "administrator". */
export function personInEnvironment(): string {
	return readEnvironment().KOVREL_PERSON ?? 'administrator';
}

/* The office's time zone is fixed when the data folder is made: all calendar dates in it are of that zone. */
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

/* Locks do not hold over a network, and a log in shared memory is not shared: https://www.sqlite.org/howtocorrupt.html 2.1,
   https://www.sqlite.org/wal.html. */
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

/** Brings a data folder up to date, making it where it is missing. Once, before anything else opens it. */
export async function prepareDataFolder(dataFolder: string): Promise<void> {
	// other people's mail: nobody else on this machine reads it
	if (isMainThread) process.umask(0o077);
	requireOwnDisk(dataFolder);
	const db = openDatabase(dataFolder);
	try {
		await migrate(db);
		await timeZone(db);
	} finally {
		await db.destroy();
	}
}

const DAY_MS = 86_400_000;

/**
 * Opens a prepared data folder for a thread.
 *
 * @param options.readonly for threads that must not write
 */
export async function openContext(
	dataFolder: string,
	options: { readonly?: boolean; who?: string } = {}
): Promise<Context> {
	const db = openDatabase(dataFolder, { readonly: options.readonly ?? false });
	const outside = openOutside();
	const time = clock();
	// only where nothing but stand-ins is outside can the clock be moved: "let a day pass"
	const ahead = { days: 0 };
	const readClock = async () => {
		if (outside.standIns) ahead.days = Number((await getSetting(db, 'clock-ahead-days')) ?? 0);
	};
	await readClock();
	return {
		db,
		dataFolder,
		outside,
		readClock,
		now: () => new Date(time().getTime() + ahead.days * DAY_MS),
		dateOf: calendarIn(await timeZone(db)),
		who: options.who ?? personInEnvironment(),
		signal: new AbortController().signal,
		report: () => {}
	};
}
