import { describe, expect, it } from 'vitest';
import { row } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { Context } from '../context/context.ts';
import { damageRows } from '../testing/damage.ts';
import { largeOffice } from '../testing/large-office.ts';
import { useCase } from '../process/use-cases.ts';
import { checkIsDue, checkStanding, verifyShare } from './check-standing.ts';

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
});
