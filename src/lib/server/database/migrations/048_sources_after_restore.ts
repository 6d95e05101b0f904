import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* Whether a backup was restored since the last whole pass: what a server lacks then may have been archived since. */
const statements = [
	`ALTER TABLE source ADD COLUMN is_restored INTEGER NOT NULL DEFAULT 0 CHECK (is_restored IN (0, 1))`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
