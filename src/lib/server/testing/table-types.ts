import type { Db } from '../database/open.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { isOurs } from './schema-text.ts';

const HEAD = `/*
 * The tables of the data file, for Knex's builder: a column that is not there does not compile. Generated:
 * "npm run test:unit -- schema -u" writes it anew, and schema.test.ts holds it against a real data file.
 */
import type { Knex } from 'knex';
import type { Decision } from '../../../core/docket/decisions.ts';
import type { Action } from '../../../core/ledger/line.ts';
import type { DigestRhythm } from '../../../core/lists/digest.ts';
import type { AttemptState } from '../../../core/lists/standing.ts';
import type { WayKind } from '../../../core/lists/ways.ts';

/** A new row: columns with a default or NULL may be omitted. */
type NewRow<Row, Optional extends keyof Row> = Omit<Row, Optional> & Partial<Pick<Row, Optional>>;
type Table<Row, Optional extends keyof Row> = Knex.CompositeTableType<Row, NewRow<Row, Optional>>;
`;

interface Column {
	name: string;
	type: string;
	notnull: number;
	dflt_value: string | null;
	pk: number;
}

const TYPES: Readonly<Record<string, string>> = { INTEGER: 'number', REAL: 'number', TEXT: 'string', BLOB: 'Buffer' };

/* Columns with words of the core, which may gain values without a migration. */
const WORDS: Readonly<Record<string, string>> = {
	'docket_line.decision': 'Decision',
	'keep_line.decision': 'Decision',
	'leaving.state': 'AttemptState',
	'leaving.way': 'WayKind',
	'ledger.action': 'Action',
	'mailbox.digest_every': 'DigestRhythm',
	'mailbox.retains': "'off' | 'ask' | 'do'"
};

const interfaceName = (table: string) =>
	table.replace(/(^|_)(\w)/g, (_all, _score, letter: string) => letter.toUpperCase());

/* A text column with fixed values: `CHECK (state IN ('live', 'archived'))`. */
function wordsOf(statement: string, column: string): string | undefined {
	const words = new RegExp(`CHECK \\(${column} IN \\(('[\\w-]+'(?:, '[\\w-]+')*)\\)\\)`).exec(statement)?.[1];
	return words?.replaceAll(', ', ' | ');
}

/** The rows of every table of a data file as TypeScript, for Knex's typed tables. */
export async function tableTypes(db: Db): Promise<string> {
	const tables = await rows<{ name: string; text: string }>(
		db,
		sql`SELECT name, sql AS text FROM sqlite_schema WHERE type = 'table' AND sql NOT LIKE 'CREATE VIRTUAL%' ORDER BY name`
	);
	const interfaces: string[] = [];
	const entries: string[] = [];
	for (const { name, text } of tables.filter((table) => isOurs(table.name))) {
		const columns = await rows<Column>(db, sql`SELECT * FROM pragma_table_info(${name})`);
		const keys = columns.filter(({ pk }) => pk > 0);
		const isRowId = ({ type, pk }: Column) => pk > 0 && keys.length === 1 && type === 'INTEGER';
		const row = columns.map((column) => {
			const type = WORDS[`${name}.${column.name}`] ?? wordsOf(text, column.name) ?? TYPES[column.type] ?? 'unknown';
			return `\t${column.name}: ${type}${column.notnull || column.pk ? '' : ' | null'};`;
		});
		const optional = columns.filter(
			(column) => column.dflt_value !== null || !(column.notnull || column.pk) || isRowId(column)
		);
		interfaces.push(`interface ${interfaceName(name)} {\n${row.join('\n')}\n}`);
		entries.push(
			`\t\t${name}: Table<${interfaceName(name)}, ${optional.map((column) => `'${column.name}'`).join(' | ') || 'never'}>;`
		);
	}
	const declared = `declare module 'knex/types/tables.js' {\n\tinterface Tables {\n${entries.join('\n')}\n\t}\n}`;
	return `${HEAD}\n${interfaces.join('\n\n')}\n\n${declared}\n`;
}
