import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { openOffice } from '../testing/office.ts';
import { asRaw, change, insertRows, row, rows } from './rows.ts';
import { all, inList, literal, not, type Sql, sql } from './sql.ts';

/* Texts that would end a string, a statement or a binding if they were put into the text of a statement. */
const HOSTILE = ["'", "''", '"', '?', '??', ':name', "'; DROP TABLE mailbox; --", '\\', '\u0000x', '%_', '${1}', ''];

type Formula = { value: boolean } | { not: Formula } | { all: Formula[] };
const { formula } = fc.letrec<{ formula: Formula }>((tie) => ({
	formula: fc.oneof(
		{ depthSize: 'medium', withCrossShrink: true },
		fc.record({ value: fc.boolean() }),
		fc.record({ not: tie('formula') }),
		fc.record({ all: fc.array(tie('formula'), { maxLength: 4 }) })
	)
}));

const isTrue = (given: Formula): boolean =>
	'value' in given ? given.value : 'not' in given ? !isTrue(given.not) : given.all.every(isTrue);
const asSql = (given: Formula): Sql =>
	'value' in given
		? sql`(${Number(given.value)} = 1)`
		: 'not' in given
			? sql`(${not(asSql(given.not))})`
			: sql`(${all(given.all.map(asSql))})`;

describe('fragments of SQL', () => {
	it('nest to any depth with each value in its place', async () => {
		const { db } = await openOffice();
		await fc.assert(
			fc.asyncProperty(formula, async (given) => {
				const found = await row<{ yes: number }>(db, sql`SELECT ${asSql(given)} AS yes`);
				expect(found?.yes).toBe(Number(isTrue(given)));
			})
		);
	});

	it.each(HOSTILE)('carry %j as a value, in a list and in the builder, and never as text', async (text) => {
		const { db } = await openOffice();
		const query = sql`SELECT ${text} AS alone, ${'b'} AS beside, ${text} IN ${inList(['a', text])} AS listed`;
		expect(query.sql).toBe('SELECT ? AS alone, ? AS beside, ? IN (SELECT value FROM json_each(?)) AS listed');
		expect(await row(db, query)).toEqual({ alone: text, beside: 'b', listed: 1 });
		await db('setting').insert({ key: `name ${text}`, value: text });
		expect(
			await db('setting')
				.where(asRaw(db, sql`value = ${text} AND key = ${`name ${text}`}`))
				.first('value')
		).toEqual({
			value: text
		});
		if (text.includes('?')) expect(() => literal(text)).toThrow('question mark');
		else if (!text.includes('\u0000')) expect(await row(db, sql`SELECT ${literal(text)} AS text`)).toEqual({ text });
	});

	it('take lists of any length as one binding', async () => {
		const { db } = await openOffice();
		const many = Array.from({ length: 100_000 }, (_, n) => n);
		const query = sql`SELECT count(*) AS n FROM json_each(${JSON.stringify(many)}) WHERE value IN ${inList(many)}`;
		expect(query.values).toHaveLength(2);
		expect(await row(db, query)).toEqual({ n: 100_000 });
		expect(await row(db, sql`SELECT 1 AS one WHERE 1 IN ${inList([])}`)).toBeUndefined();
	});
});

describe('rows put in together', () => {
	const INTO = 'INSERT INTO setting (key, value)';

	it('are given back by number in their order; those that were there have none', async () => {
		const { db } = await openOffice();
		await insertRows(db, INTO, [['b', 'old']]);
		const ids = await insertRows(
			db,
			INTO,
			['a', 'b', 'c'].map((name) => [name, 'new']),
			'ON CONFLICT DO NOTHING'
		);
		expect(ids.map((id) => typeof id)).toEqual(['number', 'undefined', 'number']);
		const found = await rows(db, sql`SELECT key, value FROM setting WHERE key IN ('a', 'b', 'c') ORDER BY key`);
		expect(found).toEqual([
			{ key: 'a', value: 'new' },
			{ key: 'b', value: 'old' },
			{ key: 'c', value: 'new' }
		]);
	});

	it('are all there or none', async () => {
		const { db } = await openOffice();
		const rowsOf = Array.from({ length: 130 }, (_, n) => [n === 129 ? 'same 0' : `same ${n}`, 'x']);
		await expect(insertRows(db, INTO, rowsOf)).rejects.toThrow(/UNIQUE/);
		expect(await row(db, sql`SELECT count(*) AS n FROM setting WHERE key LIKE 'same %'`)).toEqual({ n: 0 });
		expect(await insertRows(db, INTO, [])).toEqual([]);
	});

	it('are counted when a statement changes them', async () => {
		const { db } = await openOffice();
		await insertRows(db, INTO, [
			['one', '1'],
			['two', '1']
		]);
		expect(await change(db, sql`UPDATE setting SET value = '2' WHERE key IN ('one', 'two')`)).toBe(2);
		expect(await change(db, sql`DELETE FROM setting WHERE key = 'three'`)).toBe(0);
	});
});
