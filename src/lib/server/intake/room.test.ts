import { afterAll, describe, expect, it } from 'vitest';
import type { Context } from '../context/context.ts';
import { roomSentence } from '../context/room.ts';
import { row } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { importMailbox } from './import-mailbox.ts';

afterAll(closeParsePool);

describe('room on the disk', () => {
	it('that gets short stops an import before it is gone, which goes on when there is room again', async () => {
		const MESSAGES = 3_000;
		const context = await openOffice();
		const path = mboxFile(
			Array.from({ length: MESSAGES }, (_, n) => letter(`Berth ${n}`, 'Mon, 3 Feb 2020 10:00:00 +0000'))
		);
		let looks = 0;
		// after the first batch somebody else fills the disk
		const filling: Context = { ...context, freeBytes: () => (looks++ < 1 ? 5e9 : 180_000_000) };
		await expect(importMailbox(filling, { path, mailbox: 'Office' })).rejects.toThrow(
			/^180\u00a0MB are left on the disk of .*, so importing stopped before it is full\. What came in is kept\. Make room, and import the same again/
		);
		const stored = async () => (await row<{ n: number }>(context.db, sql`SELECT count(*) AS n FROM item`))?.n ?? 0;
		const kept = await stored();
		expect(kept).toBeGreaterThan(0);
		expect(kept).toBeLessThan(MESSAGES);
		expect(await importMailbox(context, { path, mailbox: 'Office' })).toMatchObject({ read: MESSAGES, stopped: false });
		expect(await stored()).toBe(MESSAGES);
	});

	it.each([
		[5e9, /^$/],
		[900e6, /^900\u00a0MB are left on the disk of .*\. Make room: mail is imported as long as 250\u00a0MB are left\.$/],
		[100e6, /^100\u00a0MB are left .* mail is not imported until there is more\.$/]
	])('is told on every page: %d bytes', async (free, says) => {
		const context = await openOffice();
		expect(roomSentence({ ...context, freeBytes: () => free })).toMatch(says);
	});
});
