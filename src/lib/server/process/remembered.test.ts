import { expect, it } from 'vitest';
import type { Context } from '../context/context.ts';
import { inTransaction } from '../database/open.ts';
import { putSetting } from '../database/settings-store.ts';
import { openOffice } from '../testing/office.ts';
import { Remembered } from './remembered.ts';

/* Asks, and says how often that had to be counted. */
function counting() {
	const remembered = new Remembered();
	let counted = 0;
	const ask = async (context: Context, input: unknown = { limit: 1 }, answer: unknown = { total: 3 }) => {
		expect(
			await remembered.answer(context, 'narrow', input, () => {
				counted++;
				return answer;
			})
		).toEqual(answer);
		return counted;
	};
	return { ask, remembered };
}

it('answers as before until the file changes, the day ends, or somebody else asks', async () => {
	const context = await openOffice();
	const { ask } = counting();
	expect(await ask(context)).toBe(1);
	expect(await ask(context)).toBe(1);
	await inTransaction(context.db, (db) => putSetting(db, 'time-zone', 'Europe/London'), { isNote: true });
	await inTransaction(context.db, async () => undefined);
	expect(await ask(context)).toBe(1);
	await inTransaction(context.db, (db) => putSetting(db, 'time-zone', 'Atlantic/Faroe'));
	expect(await ask(context)).toBe(2);
	expect(await ask(context, { limit: 2 })).toBe(3);
	expect(await ask({ ...context, actor: { ...context.actor, name: 'Isla' } })).toBe(4);
	const tomorrow = new Date(context.now().getTime() + 86_400_000);
	expect(await ask({ ...context, now: () => tomorrow })).toBe(5);
	expect(await ask(context)).toBe(5);
});

it('keeps no large answer, and the last ones of the others', async () => {
	const context = await openOffice();
	const { ask, remembered } = counting();
	await ask(context, { limit: 0 }, 'x'.repeat(1_000_001));
	expect(remembered.size).toBe(0);
	for (let limit = 1; limit <= 40; limit++) await ask(context, { limit }, 'x'.repeat(900_000));
	expect(remembered.size).toBe(17);
	expect(await ask(context, { limit: 40 }, 'x'.repeat(900_000))).toBe(41);
	expect(await ask(context, { limit: 1 }, 'x'.repeat(900_000))).toBe(42);
});
