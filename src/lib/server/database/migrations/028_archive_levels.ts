import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* The archive's tree is a list of levels (core/archive/layout); the two settings of before make such a list. */
const LEVELS = `json(CASE archive_paths || ' ' || archive_divide
	WHEN 'keep none' THEN '["folder"]' WHEN 'keep year' THEN '["folder","year"]'
	WHEN 'keep month' THEN '["folder","year","month"]' WHEN 'keep financial-year' THEN '["folder","financial-year"]'
	WHEN 'flat none' THEN '[]' WHEN 'flat year' THEN '["year"]'
	WHEN 'flat month' THEN '["year","month"]' ELSE '["financial-year"]' END)`;

const statements = ['mailbox', 'docket'].flatMap((table) => [
	`ALTER TABLE ${table} ADD COLUMN archive_levels TEXT NOT NULL DEFAULT '["folder"]'`,
	`UPDATE ${table} SET archive_levels = ${LEVELS}`,
	`ALTER TABLE ${table} DROP COLUMN archive_paths`,
	`ALTER TABLE ${table} DROP COLUMN archive_divide`
]);

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
