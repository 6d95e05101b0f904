import type { Db } from '../database/open.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';

/* Internal tables of full-text indexes and Knex. */
const OTHERS = /^(sqlite_|knex_migrations|(words|file_names)_(data|idx|content|docsize|config)$)/;

/** Whether a table is one of Kovrel's own. */
export function isOurs(table: string): boolean {
	return !OTHERS.test(table);
}

const HEAD = `-- The data file as the migrations make it, table by table. Generated: "npm run test:unit -- schema -u" writes it anew, and the
-- test src/lib/server/database/schema.test.ts holds it against a real one.
`;

/** The statements that create the tables of a data file: each table with its indexes, triggers and views. */
export async function schemaText(db: Db): Promise<string> {
	const found = await rows<{ type: string; name: string; tbl: string; text: string }>(
		db,
		sql`SELECT type, name, tbl_name AS tbl, sql AS text FROM sqlite_schema WHERE sql IS NOT NULL
		 ORDER BY tbl_name, CASE type WHEN 'table' THEN 0 WHEN 'view' THEN 0 ELSE 1 END, name`
	);
	const tables = new Map<string, string[]>();
	for (const { name, tbl, text } of found) {
		if (!isOurs(name) || !isOurs(tbl)) continue;
		tables.set(tbl, [...(tables.get(tbl) ?? []), `${text.replace(/\n\t{1,2}/g, '\n\t')};`]);
	}
	return `${HEAD}\n${[...tables.values()].map((statements) => statements.join('\n')).join('\n\n')}\n`;
}
