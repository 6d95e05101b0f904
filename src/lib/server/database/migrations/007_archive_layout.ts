import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * The code defines decisions and layouts (core/docket, core/archive): a CHECK that lists them could not be changed
 * without rebuilding the table, to which others refer.
 */
const statements = [
	`ALTER TABLE mailbox ADD COLUMN archive_paths TEXT NOT NULL DEFAULT 'keep'`,
	`ALTER TABLE mailbox ADD COLUMN archive_divide TEXT NOT NULL DEFAULT 'none'`,
	`ALTER TABLE mailbox ADD COLUMN archives INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE docket ADD COLUMN archive_paths TEXT NOT NULL DEFAULT 'keep'`,
	`ALTER TABLE docket ADD COLUMN archive_divide TEXT NOT NULL DEFAULT 'none'`,

	`ALTER TABLE docket_line ADD COLUMN decision_open TEXT NOT NULL DEFAULT 'archive'`,
	`UPDATE docket_line SET decision_open = decision`,
	`ALTER TABLE docket_line DROP COLUMN decision`,
	`ALTER TABLE docket_line RENAME COLUMN decision_open TO decision`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
