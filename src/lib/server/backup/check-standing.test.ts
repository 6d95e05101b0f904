import { readFileSync, writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { databaseFile, inTransaction } from '../database/open.ts';
import { row } from '../database/rows.ts';
import { getSetting, putSetting } from '../database/settings-store.ts';
import { sql } from '../database/sql.ts';
import type { Context } from '../context/context.ts';
import { breakPage, damageRows } from '../testing/damage.ts';
import { largeOffice } from '../testing/large-office.ts';
import { machineTrouble } from '../machine-trouble.ts';
import { openContext } from '../process/open-context.ts';
import { useCase } from '../process/use-cases.ts';
import { checkIsDue, checkStanding, hasBrokenPages, verifyAndNote, verifyShare } from './check-standing.ts';

const DAY_MS = 86_400_000;
const later = (context: Context, days: number): Context => ({
	...context,
	now: () => new Date(Date.parse('2026-11-01T02:00:00Z') + days * DAY_MS)
});

describe('the checks that run by themselves', () => {
	it.each([
		['every night', 1, 28],
		['every third night', 3, 28]
	])('look at everything within 30 days: %s', async (_name, every, most) => {
		const context = await largeOffice({ Inbox: 100 });
		let looked = 0;
		let day = 0;
		for (; day < 60; day += every) {
			const night = later(context, day);
			expect(await checkIsDue(night)).toBe(true);
			const { checked, ok } = await verifyShare(night);
			expect(ok).toBe(true);
			expect(await checkIsDue(night)).toBe(false);
			looked += checked.contents;
			if ((await checkStanding(context))?.wholeOn) break;
		}
		expect(looked).toBe(100);
		expect(day).toBeLessThanOrEqual(most);
		// the next round begins at the beginning
		await verifyShare(later(context, 40));
		expect(await checkStanding(context)).toMatchObject({ began: '2026-12-11', through: 4, upTo: 100, damage: '' });
	});

	it('tell damage until a check finds none, also where tonight has another share', async () => {
		const context = await largeOffice({ Inbox: 100 });
		await verifyShare(later(context, 0));
		const whole = await row<{ data: string }>(context.db, sql`SELECT hex(data) AS data FROM content WHERE id = 5`);
		damageRows(context.dataFolder, `UPDATE content SET data = zeroblob(length(data)) WHERE id = 5`);
		const { damaged } = await verifyShare(later(context, 1));
		expect(damaged).toMatchObject([{ what: 'content', id: 5, mailbox: 'Office', folder: 'Inbox' }]);
		await verifyShare(later(context, 2));
		expect((await checkStanding(context))?.damage).toBe('1 message is damaged');
		const { run } = useCase('verifyArchive');
		await (run as (within: Context) => Promise<unknown>)(later(context, 3));
		expect(await checkStanding(context)).toMatchObject({ damage: '1 message is damaged', wholeOn: '2026-11-04' });
		damageRows(context.dataFolder, `UPDATE content SET data = x'${whole?.data ?? ''}' WHERE id = 5`);
		await (run as (within: Context) => Promise<unknown>)(later(context, 4));
		expect(await checkStanding(context)).toMatchObject({ damage: '', wholeOn: '2026-11-05' });
	});

	it('let nothing be written into a file with broken pages, until a check finds it whole again', async () => {
		const context = await largeOffice({ Inbox: 100 });
		const file = databaseFile(context.dataFolder);
		const put = (value: string) => inTransaction(context.db, (db) => putSetting(db, 'clock-ahead-days', value));
		await put('1');
		await context.db.raw('PRAGMA wal_checkpoint(TRUNCATE)');
		const before = readFileSync(file);
		breakPage(context.dataFolder, 'item_by_message');
		expect((await verifyAndNote(later(context, 0))).ok).toBe(false);
		const refused = await put('2').catch((error: unknown) => machineTrouble(error));
		expect(refused).toMatchObject({ code: 'no-writing' });
		expect(await getSetting(context.db, 'clock-ahead-days')).toBe('1');
		// it waits for a person, and whoever opens it again does not write either
		expect(await checkIsDue(later(context, 1))).toBe(false);
		expect((await verifyAndNote(later(context, 1))).ok).toBe(false);
		const again = await openContext(context.dataFolder, { actor: context.actor });
		expect(await hasBrokenPages(again.db)).toBe(true);
		await expect(again.db.raw(`UPDATE setting SET value = '3'`)).rejects.toThrow('readonly');
		await again.db.destroy();
		await context.db.destroy();

		writeFileSync(file, before);
		const whole = await openContext(context.dataFolder, { actor: context.actor });
		expect((await verifyAndNote(later(whole, 2))).ok).toBe(true);
		await inTransaction(whole.db, (db) => putSetting(db, 'clock-ahead-days', '2'));
	});
});
