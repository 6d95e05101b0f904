import { randomBytes } from 'node:crypto';
import { statSync } from 'node:fs';
import { expect, it } from 'vitest';
import { databaseFile, type Db, inTransaction } from '../database/open.ts';
import { openOffice } from '../testing/office.ts';
import { compact, returnFreedSpace } from './return-freed-space.ts';
import { verify } from './verify-archive.ts';

const MEGABYTES = 100;

/* Content that was there and is gone: what destroying a hundred megabytes leaves. */
async function fillAndFree(db: Db): Promise<void> {
	const megabyte = randomBytes(1_000_000);
	for (let n = 0; n < MEGABYTES; n++)
		await inTransaction(db, (trx) =>
			trx.raw('INSERT INTO file_text (message_id, outcome, text) VALUES (?, ?, ?)', [-n - 1, 'read', megabyte])
		);
	await db.raw('DELETE FROM file_text WHERE message_id < 0');
	await db.raw('PRAGMA wal_checkpoint(TRUNCATE)');
}

it('gives back to the disk what destroying freed, where it is worth it', async () => {
	const context = await openOffice();
	const size = () => statSync(databaseFile(context.dataFolder)).size;
	const before = size();
	expect((await returnFreedSpace(context)).returned).toBe(0);
	await context.db.raw('PRAGMA foreign_keys = OFF');
	await fillAndFree(context.db);
	expect(size()).toBeGreaterThan(MEGABYTES * 1_000_000);
	expect((await returnFreedSpace(context)).returned).toBeGreaterThan((MEGABYTES - 5) * 1_000_000);
	expect(size()).toBeLessThan(before + 5_000_000);
	expect((await verify(context)).ok).toBe(true);
});

it('writes a file from before anew when it is asked to, and shortens it in steps from then on', async () => {
	const context = await openOffice();
	const file = databaseFile(context.dataFolder);
	await context.db.raw('PRAGMA foreign_keys = OFF');
	await context.db.raw('PRAGMA auto_vacuum = NONE');
	await context.db.raw('VACUUM');
	await fillAndFree(context.db);
	expect(await returnFreedSpace(context)).toMatchObject({ returned: 0, inSteps: false });
	await expect(compact({ ...context, freeBytes: () => 1_000 })).rejects.toThrow('are free. Nothing was done.');
	expect(await compact(context)).toMatchObject({ inSteps: true, freeBytes: 0 });
	expect(statSync(file).size).toBeLessThan(10_000_000);
	expect((await verify(context)).ok).toBe(true);
});
