import type BetterSqlite3 from 'better-sqlite3';
import { setImmediate } from 'node:timers/promises';
import type { Db } from './open.ts';

/*
 * What destroying frees is used for new mail first. Files made by this version can also be shortened in small steps, as they
 * keep note of where each page is used (https://www.sqlite.org/pragma.html#pragma_auto_vacuum).
 */

const INCREMENTAL = 2;
/* A step of some ten milliseconds: work beside it does not wait. */
const PAGES_A_STEP = 500;

/** How much of a data file is used by nothing. */
export interface FreedSpace {
	freeBytes: number;
	fileBytes: number;
	/** Whether it can be shortened in steps; else only by writing it anew. */
	inSteps: boolean;
}

/* Some pragmas go on with each row that they return: Knex would take the first alone. */
async function onConnection<T>(db: Db, work: (connection: BetterSqlite3.Database) => T): Promise<T> {
	const client = db.client as {
		acquireConnection(): Promise<BetterSqlite3.Database>;
		releaseConnection(connection: BetterSqlite3.Database): Promise<void>;
	};
	const connection = await client.acquireConnection();
	try {
		return work(connection);
	} finally {
		await client.releaseConnection(connection);
	}
}

/** How much of the data file is used by nothing. */
export async function freedSpace(db: Db): Promise<FreedSpace> {
	return onConnection(db, (connection) => {
		const number = (name: string) => connection.pragma(name, { simple: true }) as number;
		const pageBytes = number('page_size');
		return {
			freeBytes: number('freelist_count') * pageBytes,
			fileBytes: number('page_count') * pageBytes,
			inSteps: number('auto_vacuum') === INCREMENTAL
		};
	});
}

/** Gives unused pages back to the disk, in steps between which other work goes on, until all are or `signal` stops it. */
export async function shorten(db: Db, signal: AbortSignal): Promise<void> {
	for (let before = Infinity; !signal.aborted;) {
		const { freeBytes, inSteps } = await freedSpace(db);
		if (!inSteps || freeBytes === 0 || freeBytes >= before) break;
		before = freeBytes;
		await onConnection(db, (connection) => connection.pragma(`incremental_vacuum(${PAGES_A_STEP})`));
		await setImmediate();
	}
	await onConnection(db, (connection) => connection.pragma('wal_checkpoint(TRUNCATE)'));
}

/** Writes the whole file anew, without its unused pages, so that it can be shortened in steps from then on. */
export async function writeAnew(db: Db): Promise<void> {
	await onConnection(db, (connection) => {
		connection.pragma(`auto_vacuum = ${INCREMENTAL}`);
		// the copy is as large as the file: not in memory
		connection.pragma('temp_store = FILE');
		connection.exec('VACUUM');
		connection.pragma('temp_store = MEMORY');
		connection.pragma('wal_checkpoint(TRUNCATE)');
	});
}
