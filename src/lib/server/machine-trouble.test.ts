import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import Sqlite from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import { closeParsePool } from './mail/reading/parse-pool.ts';
import { machineTrouble } from './machine-trouble.ts';
import { Refusal } from './refusal.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from './testing/office.ts';
import { DamagedContentError } from './mail/contents-store.ts';
import { row, rows } from './database/rows.ts';
import { sql } from './database/sql.ts';
import { importMailbox } from './intake/import-mailbox.ts';
import { verify } from './backup/verify-archive.ts';

afterAll(closeParsePool);

/** The error thrown by a function. */
function errorOf(work: () => unknown): unknown {
	try {
		work();
	} catch (error) {
		return error;
	}
	return undefined;
}

const database = () => path.join(temporaryFolder(), 'x.sqlite');

describe('what the machine says no to', () => {
	// a real error of the system: Linux's /dev/full behaves like a full disk
	it.each<[string, () => unknown, string]>([
		['a full disk', () => writeFileSync('/dev/full', 'x'), 'no room left'],
		[
			'a data file on a full disk',
			() => {
				const db = new Sqlite(database());
				db.pragma('max_page_count = 3');
				db.exec(`CREATE TABLE a (b); INSERT INTO a VALUES (zeroblob(100000))`);
			},
			'no room left'
		],
		[
			'a file that is no data file',
			() => {
				const file = database();
				writeFileSync(file, 'words '.repeat(5_000));
				new Sqlite(file).pragma('user_version');
			},
			'is damaged'
		],
		[
			'a data file that may not be written to',
			() => {
				const file = database();
				new Sqlite(file).exec(`CREATE TABLE a (b)`).close();
				new Sqlite(file, { readonly: true }).exec(`INSERT INTO a VALUES (1)`);
			},
			'Nothing can be written'
		],
		[
			'a data file that another one holds',
			() => {
				const file = database();
				new Sqlite(file).exec(`CREATE TABLE a (b); BEGIN IMMEDIATE`);
				new Sqlite(file, { timeout: 1 }).exec(`INSERT INTO a VALUES (1)`);
			},
			'Another program'
		]
	])('%s is told', (_name, work, says) => {
		const error = errorOf(work);
		const refusal = machineTrouble(error);
		expect(refusal).toBeInstanceOf(Refusal);
		expect(refusal?.message).toContain(says);
		expect(refusal?.cause).toBe(error);
	});

	it('stored bytes that are not what came in are told', () => {
		expect(machineTrouble(new DamagedContentError('Content 7'))?.message).toContain('Stored bytes are damaged');
	});

	it.each([
		['a mistake of ours', () => (undefined as unknown as { x: number }).x],
		[
			'a rule of a table',
			() => new Sqlite(':memory:').exec(`CREATE TABLE a (b NOT NULL); INSERT INTO a VALUES (NULL)`)
		],
		['something that is no error', () => undefined]
	])('%s is none of it', (_name, work) => {
		expect(machineTrouble(errorOf(work))).toBeUndefined();
	});
});

describe('an import that finds the disk full', () => {
	it('keeps what it had stored, says so, and goes on once there is room', async () => {
		const context = await openOffice();
		const letters = Array.from({ length: 600 }, (_, n) =>
			letter(`Letter ${n}`, 'Mon, 3 Feb 2020 10:00:00 +0000', randomBytes(1_500).toString('hex'))
		);
		const file = mboxFile(letters);
		const [size] = await rows<{ page_count: number }>(context.db, sql`PRAGMA page_count`);
		await context.db.raw(`PRAGMA max_page_count = ${(size?.page_count ?? 0) + 60}`);
		const error = await importMailbox(context, { path: file, mailbox: 'Office' }).catch((error: unknown) => error);
		expect(machineTrouble(error)?.message).toContain('all that was done before it is kept');
		const [cutOff] = await rows<{ state: string; read: number }>(context.db, sql`SELECT state, "read" FROM import`);
		expect(cutOff?.state).toBe('stopped');
		expect(cutOff?.read).toBeLessThan(600);
		expect(await row(context.db, sql`SELECT count(*) AS n FROM item`)).toEqual({ n: cutOff?.read });
		await context.db.raw(`PRAGMA max_page_count = 1000000`);
		expect(await verify(context)).toMatchObject({ ok: true });
		expect(await importMailbox(context, { path: file, mailbox: 'Office' })).toMatchObject({ read: 600, added: 600 });
		expect(await verify(context)).toMatchObject({ ok: true, messages: 600 });
	});

	it('gives back the room that its upload takes', async () => {
		const context = await openOffice();
		const upload = path.join(temporaryFolder(), 'upload');
		mkdirSync(upload);
		const file = path.join(upload, 'file');
		writeFileSync(file, 'PK\u0003\u0004 and no more');
		await expect(importMailbox(context, { path: file, mailbox: 'Office', upload })).rejects.toThrow('cannot be read');
		expect(existsSync(upload)).toBe(false);
	});
});
