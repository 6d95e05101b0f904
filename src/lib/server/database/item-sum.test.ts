import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { largeOffice } from '../testing/large-office.ts';
import { setOfItem } from './item-sum.ts';
import { ITEM_SUM } from './migrations/040_row_sums.ts';
import { change, row, rows } from './rows.ts';
import { raw, sql } from './sql.ts';

const SERVER = new URL('..', import.meta.url).pathname;

describe('the sum over the row of an item', () => {
	it('has every column of the row', async () => {
		const { db } = await largeOffice({ Inbox: 1 });
		const columns = await rows<{ name: string }>(db, sql`SELECT name FROM pragma_table_info('item')`);
		expect([...ITEM_SUM.keys(), 'id', 'row_sum'].sort()).toEqual(columns.map(({ name }) => name).sort());
	});

	it('differs where a single column does, whatever it was and is', async () => {
		const { db } = await largeOffice({ Inbox: 1 });
		const sums = async () =>
			row<{ differs: number }>(
				db,
				sql`SELECT now.sum IS NOT item.row_sum AS differs FROM item JOIN item_now now USING (id)`
			);
		const words: Record<string, string[]> = {
			state: ['live', 'archived', 'binned', 'destroyed'],
			due_action: ['archive', 'destroy', 'review']
		};
		await change(db, sql`PRAGMA foreign_keys = OFF`);
		for (const name of ITEM_SUM.keys()) {
			const before = await row<{ value: string | number | null }>(db, sql`SELECT ${raw(name)} AS value FROM item`);
			const isDate = name.endsWith('_on');
			const values = words[name] ?? (isDate ? ['2031-01-31', '2031-01-30', '2041-01-30'] : [0, 1]);
			for (const value of values.filter((one) => one !== before?.value)) {
				await change(db, sql`UPDATE item SET ${raw(name)} = ${value}`);
				expect(await sums(), `${name} = ${value}`).toEqual({ differs: 1 });
				await change(db, sql`UPDATE item SET ${raw(name)} = ${before?.value ?? null}`);
				expect(await sums(), name).toEqual({ differs: 0 });
				await change(db, sql`UPDATE item SET ${setOfItem({ [name]: sql`${value}` })}`);
				expect(await sums(), `${name} by the one way`).toEqual({ differs: 0 });
				await change(db, sql`UPDATE item SET ${setOfItem({ [name]: sql`${before?.value ?? null}` })}`);
			}
		}
	});

	it('is kept by every statement that changes items', () => {
		const stores = readdirSync(SERVER, { recursive: true, encoding: 'utf8' }).filter(
			(file) =>
				file.endsWith('.ts') && !/\.test\.ts$|^testing\/|^database\/(migrations\/|item-sum)|repair-store/.test(file)
		);
		const statements = stores.flatMap((file) =>
			[
				...readFileSync(path.join(SERVER, file), 'utf8').matchAll(
					/UPDATE (?:OR \w+ )?item\b.{0,40}|db\('item'\)[^;]*\.update\(/gs
				)
			].map(([text]) => `${file}: ${text}`)
		);
		expect(statements.length).toBeGreaterThan(8);
		expect(
			statements.filter((text) => !/UPDATE (?:OR \w+ )?item SET \$\{set(OfItem\(|\} WHERE message_id)/.test(text))
		).toEqual([]);
	});
});
