import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * A folder with its subfolders, or a message, that no archiving takes (invariant 16); and how many flagged messages a
 * line of a docket would take.
 */
const statements = [
	`ALTER TABLE folder ADD COLUMN never_archived INTEGER NOT NULL DEFAULT 0 CHECK (never_archived IN (0, 1))`,
	`ALTER TABLE item ADD COLUMN never_archived INTEGER NOT NULL DEFAULT 0 CHECK (never_archived IN (0, 1))`,
	`CREATE INDEX item_never_archived ON item (mailbox_id) WHERE never_archived = 1`,
	`ALTER TABLE docket_line ADD COLUMN flagged INTEGER NOT NULL DEFAULT 0`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
