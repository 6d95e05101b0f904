import { readFileSync } from 'node:fs';
import { format, resolveConfig } from 'prettier';
import { describe, expect, it } from 'vitest';
import { openOffice } from '../testing/office.ts';
import { schemaText } from '../testing/schema-text.ts';
import { tableTypes } from '../testing/table-types.ts';

const TABLES = new URL('tables.ts', import.meta.url).pathname;
const docs = (name: string) => new URL(`../../../../docs/${name}`, import.meta.url).pathname;

describe('the schema in the docs', () => {
	it('is that of a real data file', async () => {
		const { db } = await openOffice();
		await expect(await schemaText(db)).toMatchFileSnapshot(docs('schema.sql'));
	});

	it('is that of the typed tables', async () => {
		const { db } = await openOffice();
		const written = await format(await tableTypes(db), { ...(await resolveConfig(TABLES)), parser: 'typescript' });
		await expect(written).toMatchFileSnapshot(TABLES);
	});

	it('is drawn with tables and columns that are there', async () => {
		const { db } = await openOffice();
		const schema = await schemaText(db);
		const picture =
			/```mermaid\nerDiagram\n([\s\S]*?)```/.exec(readFileSync(docs('architecture.md'), 'utf8'))?.[1] ?? '';
		const drawn = [...picture.matchAll(/^\t(\w+) \{\n([\s\S]*?)\n\t\}/gm)];
		expect(drawn.length).toBeGreaterThan(10);
		for (const [, table = '', columns = ''] of drawn) {
			const made = new RegExp(`CREATE TABLE "?${table}"? \\(([\\s\\S]*?);\\n`).exec(schema)?.[1];
			expect(made, table).toBeDefined();
			for (const [, column = ''] of columns.matchAll(/^\t\t\w+ (\w+)/gm))
				expect(made, `${table}.${column}`).toMatch(new RegExp(`(^|[\\s,(])"?${column}"?\\s`));
		}
		for (const [, from = '', to = ''] of picture.matchAll(/^\t(\w+) [|}o{-]+ (\w+) :/gm))
			for (const table of [from, to]) expect(schema, table).toMatch(new RegExp(`CREATE TABLE "?${table}"? \\(`));
	});
});
