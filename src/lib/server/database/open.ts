import { existsSync, mkdirSync } from 'node:fs';
import path from 'node:path';
import knexFactory, { type Knex } from 'knex';
import type BetterSqlite3 from 'better-sqlite3';
import type {} from './tables.ts';
import { migrationSource } from './migrations/index.ts';
import { addFunctions } from './functions.ts';

/** A connection, or a transaction on one. */
export type Db = Knex;

/** Where the one database file lies in the data folder. */
export function databaseFile(dataFolder: string): string {
	return path.join(dataFolder, 'kovrel.sqlite');
}

/* A long write is cut into transactions of well under a second; another process that waits longer than this is stuck. */
const BUSY_TIMEOUT_MS = 20_000;
/* Large pages: most rows of `content` are blobs of several kilobytes. Only has effect on a new file. */
const PAGE_BYTES = 16_384;

/* Pages in memory: a docket touches most of an index; an import mostly appends. */
const CACHE_KB = 65_536;
const IMPORT_CACHE_KB = 16_384;

/** Keeps the cache of this connection small while work is done that only appends: its memory is needed elsewhere. */
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
		connection.pragma('journal_mode = WAL');
		// what was acknowledged has reached the disk
		connection.pragma('synchronous = FULL');
		// what is deleted is overwritten (invariant 12)
		connection.pragma('secure_delete = ON');
	}
	addFunctions(connection);
	connection.pragma('foreign_keys = ON');
	connection.pragma('temp_store = MEMORY');
	connection.pragma(`cache_size = -${CACHE_KB}`);
	// pages of the file itself, for those who only read; a long write would map all that it touches
	connection.pragma(`mmap_size = ${readonly ? 268_435_456 : 0}`);
}

/**
 * Opens the database with one connection: every thread has its own.
 *
 * @param dataFolder made where it is missing, readable by its owner only
 * @param readonly for threads that must not write
 * @param file another one than that of the folder: a backup
 */
export function openDatabase(dataFolder: string, { readonly = false, file = databaseFile(dataFolder) } = {}): Db {
	if (!readonly && !existsSync(dataFolder)) mkdirSync(dataFolder, { recursive: true, mode: 0o700 });
	return knexFactory({
		client: 'better-sqlite3',
		connection: { filename: file, options: { readonly } } as Knex.Config['connection'],
		useNullAsDefault: true,
		// a statement that fails is named in the log without its values: they are people's mail
		compileSqlOnError: false,
		// what fails is thrown as well
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

/**
 * Brings the tables up to date; keeps everything that is in them.
 *
 * @throws Error where a newer Kovrel made the file: an older one does not write to it
 */
export async function migrate(db: Db): Promise<void> {
	await transaction(db, async (trx) => {
		// takes the write lock: two processes that start at once make the tables one after the other
		await trx.raw(`PRAGMA user_version = 1`);
		const [, pending] = (await trx.migrate.list()) as [unknown[], unknown[]];
		if (pending.length > 0) await trx.migrate.latest();
	});
}

/* SQLite may have rolled back by itself, as where the disk is full: Knex would say that there is nothing to roll back, instead of why. */
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
 * Runs questions that belong together: they see one state of the file, and no other question of this connection comes in
 * between (the tables in memory are the connection's).
 */
export async function inSnapshot<T>(db: Db, work: (trx: Db) => Promise<T>): Promise<T> {
	return db.isTransaction ? work(db) : transaction(db, work);
}

/**
 * Runs a transaction that takes the write lock at once, by a statement that changes nothing: so it waits for another
 * process instead of failing half-way, and what it reads is what it changes.
 */
export async function inTransaction<T>(db: Db, work: (trx: Db) => Promise<T>): Promise<T> {
	if (db.isTransaction) return work(db);
	return transaction(db, async (trx) => {
		await trx.raw(`DELETE FROM setting WHERE key = ''`);
		return work(trx);
	});
}
