import { describe, expect, it } from 'vitest';
import { prepareEmptying } from '../archive/bin.ts';
import type { Context } from '../context/context.ts';
import { carryOut } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { itemsIn, largeOffice, statesOf } from '../testing/large-office.ts';
import { clockDoubt, confirmClock, noteClock } from './clock.ts';
import { listLedger } from './ledger-store.ts';

const at = (context: Context, now: string): Context => ({ ...context, clockIsGiven: false, now: () => new Date(now) });

describe('a clock', () => {
	/* An office whose last work was on 25 November 2026 at noon. */
	async function office(): Promise<Context> {
		const context = at(await largeOffice({ Inbox: 5 }), '2026-11-25T12:00:00Z');
		expect(await noteClock(context)).toBeUndefined();
		return context;
	}

	it.each([
		['an hour later', '2026-11-25T13:30:00Z', false],
		['a moment before, as of another process', '2026-11-25T11:59:00Z', false],
		['a month later', '2026-12-26T11:00:00Z', false],
		['more than a month ahead', '2026-12-26T13:00:00Z', true],
		['in another year', '2031-01-01T00:00:00Z', true],
		['of an empty battery', '1970-01-01T00:00:10Z', true],
		['of two hours ago', '2026-11-25T10:00:00Z', true]
	])('%s is doubted or not', async (_name, now, isDoubted) => {
		expect((await clockDoubt(at(await office(), now))) !== undefined).toBe(isDoubted);
	});

	it('that was given by somebody is never doubted', async () => {
		const context = await office();
		expect(await clockDoubt({ ...at(context, '2040-01-01T00:00:00Z'), clockIsGiven: true })).toBeUndefined();
	});

	it('that goes on hour by hour stays trusted, however long', async () => {
		const context = await office();
		for (let day = 1; day <= 90; day += 30)
			expect(await noteClock(at(context, new Date(Date.UTC(2026, 10, 25 + day)).toISOString()))).toBeUndefined();
	});

	it('that is doubted destroys nothing until a person confirms it; what can be taken back goes on', async () => {
		const context = await office();
		const wrong = at(context, '2031-03-04T12:00:00Z');
		const ids = await itemsIn(context, 'Inbox');
		const bin = await prepareDocket(wrong, {
			mailboxId: 1,
			lines: [{ decision: 'delete', options: {}, scope: { kind: 'items', ids } }]
		});
		await carryOut(wrong, { id: bin.id });
		expect(await statesOf(context)).toEqual({ binned: 5 });
		const emptying = await prepareEmptying(wrong, { mailboxId: 1, onlyDue: false });
		const destroy = () => carryOut(wrong, { id: emptying.id, confirm: 'destroy' });
		// lines that were written meanwhile by the wrong clock make it no better
		await expect(destroy()).rejects.toThrow(
			/says 4 Mar 2031, and the last work here was on 25 Nov 2026\. Nothing is destroyed .* Nothing was done\./
		);
		expect(await statesOf(context)).toEqual({ binned: 5 });
		await confirmClock(wrong);
		expect((await listLedger(context.db, { limit: 1 }))[0]?.action).toBe('clock-confirmed');
		expect(await destroy()).toMatchObject({ messages: 5, finished: true });
	});
});
