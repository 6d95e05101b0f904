import { randomInt } from 'node:crypto';
import { existsSync, mkdirSync } from 'node:fs';
import path from 'node:path';
import knexFactory, { type Knex } from 'knex';
import type BetterSqlite3 from 'better-sqlite3';
import type {} from './tables.ts';
import { migrationSource } from './migrations/index.ts';
import { Refusal } from '../refusal.ts';
import { addFunctions } from './functions.ts';

/** A connection, or a transaction on one. */
export type Db = Knex;

/** The path of the database file in a data folder. */
export function databaseFile(dataFolder: string): string {
	return path.join(dataFolder, 'kovrel.sqlite');
}

/* Long writes are split into transactions of well under a second; a process that waits longer than this is stuck. */
const BUSY_TIMEOUT_MS = 20_000;
/* What is asked while a long transaction holds this thread's one connection waits for it, and does not fail. */
const LONGEST_TRANSACTION_MS = 3_600_000;
/* Large pages, as most rows of `content` are blobs of several kilobytes. Only affects a new file. */
const PAGE_BYTES = 16_384;

/* Pages in memory: a docket reads most of an index; an import mostly appends. */
const CACHE_KB = 65_536;
const IMPORT_CACHE_KB = 16_384;

/** Keeps this connection's cache small during work that only appends: the memory is needed elsewhere. */
export async function withSmallCache<T>(db: Db, work: () => Promise<T>): Promise<T> {
	await db.raw(`PRAGMA cache_size = -${IMPORT_CACHE_KB}`);
	try {
		return await work();
	} finally {
		await db.raw(`PRAGMA cache_size = -${CACHE_KB}`);
	}
}

function prepare(connection: BetterSqlite3.Database, readonly: boolean): void {
	connection.pragma(`busy_timeout = ${BUSY_TIMEOUT_MS}`);
	if (!readonly) {
		connection.pragma(`page_size = ${PAGE_BYTES}`);
		// what is freed can be given back to the disk; only affects a new file, too
		connection.pragma('auto_vacuum = INCREMENTAL');
		connection.pragma('journal_mode = WAL');
		// acknowledged writes have reached the disk
		connection.pragma('synchronous = FULL');
		// deleted data is overwritten (invariant 12)
		connection.pragma('secure_delete = ON');
	}
	addFunctions(connection);
	connection.pragma('foreign_keys = ON');
	connection.pragma('temp_store = MEMORY');
	connection.pragma(`cache_size = -${CACHE_KB}`);
	// memory-mapped pages, for readers only; a long write would map everything it changes
	connection.pragma(`mmap_size = ${readonly ? 268_435_456 : 0}`);
}

/**
 * Opens the database with one connection: each thread has its own.
 *
 * @param dataFolder created if missing, readable by its owner only
 * @param readonly for threads that must not write
 * @param file another one than that of the folder: a backup
 */
export function openDatabase(dataFolder: string, { readonly = false, file = databaseFile(dataFolder) } = {}): Db {
	if (!readonly && !existsSync(dataFolder)) mkdirSync(dataFolder, { recursive: true, mode: 0o700 });
	return knexFactory({
		client: 'better-sqlite3',
		connection: { filename: file, options: { readonly } } as Knex.Config['connection'],
		useNullAsDefault: true,
		acquireConnectionTimeout: LONGEST_TRANSACTION_MS,
		// a failed statement is logged without its values: they are people's mail
		compileSqlOnError: false,
		// failures are thrown as well
		log: { warn: () => {}, error: () => {} },
		pool: {
			min: 1,
			max: 1,
			afterCreate(connection: BetterSqlite3.Database, done: (error: Error | null, connection: unknown) => void) {
				try {
					prepare(connection, readonly);
					done(null, connection);
				} catch (error) {
					done(error as Error, connection);
				}
			}
		},
		migrations: { migrationSource }
	});
}

/* The migrations that a file has; undefined: it is a new one. */
async function migrationsOf(db: Db): Promise<string[] | undefined> {
	const table = await db('sqlite_master').where({ name: 'knex_migrations' }).first('name');
	if (!table) return undefined;
	return (await db('knex_migrations').select('name')).map(({ name }: { name: string }) => name);
}

/** Whether a file has all migrations of this version. */
export async function isUpToDate(db: Db): Promise<boolean> {
	return (await migrationsOf(db))?.length === (await migrationSource.getMigrations([])).length;
}

/** Lets a connection write, or makes every write fail (as SQLITE_READONLY): nothing is written into a damaged file. */
export async function letWrite(db: Db, mayWrite: boolean): Promise<void> {
	await db.raw(`PRAGMA query_only = ${mayWrite ? 'OFF' : 'ON'}`);
}

/**
 * Migrates the tables to this version; keeps all data. Nothing is written into a file that has them already.
 *
 * @throws Refusal if a newer Kovrel made the file: an older one does not write to it
 */
export async function migrate(db: Db): Promise<void> {
	const known = new Set(await migrationSource.getMigrations([]));
	const done = await migrationsOf(db);
	const newer = done?.find((name) => !known.has(name));
	if (newer !== undefined)
		throw new Refusal(
			'not-possible',
			`This data file was made by a newer Kovrel (it has "${newer}"), and this one does not write to it. Start the newer one, or restore a backup from before. Nothing was done.`
		);
	if (done?.length === known.size) return;
	await transaction(db, async (trx) => {
		// takes the write lock, so that of two starting processes one migrates first
		await trx.raw(`PRAGMA user_version = 1`);
		const [, pending] = (await trx.migrate.list()) as [unknown[], unknown[]];
		if (pending.length > 0) await trx.migrate.latest();
	});
}

/* SQLite may have rolled back by itself, as when the disk is full: Knex would report that instead of the cause. */
async function transaction<T>(db: Db, work: (trx: Db) => Promise<T>): Promise<T> {
	let why: { error: unknown } | undefined;
	try {
		return await db.transaction((trx) =>
			work(trx).catch((error: unknown) => {
				why = { error };
				throw error;
			})
		);
	} catch (error) {
		throw why ? why.error : error;
	}
}

/**
 * Runs queries that belong together: they see one state of the file, and no other query of this connection comes
 * between them (temporary tables belong to the connection).
 */
export async function inSnapshot<T>(db: Db, work: (trx: Db) => Promise<T>): Promise<T> {
	return db.isTransaction ? work(db) : transaction(db, work);
}

async function totalChanges(db: Db): Promise<number> {
	const [{ n }] = (await db.raw(`SELECT total_changes() AS n`)) as [{ n: number }];
	return n;
}

/**
 * Runs a transaction that takes the write lock first, by a statement that changes nothing: it waits for other
 * processes instead of failing half-way, and reads the state that it changes. What changes something gives the file a
 * new number ({@link changeNumber}).
 *
 * @param options.isNote it only notes who was here and saw what: what was counted stays true
 */
export async function inTransaction<T>(db: Db, work: (trx: Db) => Promise<T>, { isNote = false } = {}): Promise<T> {
	if (db.isTransaction) return work(db);
	return transaction(db, async (trx) => {
		await trx.raw(`DELETE FROM setting WHERE key = ''`);
		if (isNote) return work(trx);
		const before = await totalChanges(trx);
		const done = await work(trx);
		if ((await totalChanges(trx)) !== before) await trx.raw(`PRAGMA user_version = ${randomInt(2 ** 31)}`);
		return done;
	});
}

/**
 * A number that changes with every change of the file that {@link inTransaction} makes, notes aside: what was counted
 * before stays true while it is the same.
 */
export async function changeNumber(db: Db): Promise<number> {
	const [{ n }] = (await db.raw(`SELECT user_version AS n FROM pragma_user_version`)) as [{ n: number }];
	return n;
}
