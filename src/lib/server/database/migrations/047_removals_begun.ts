import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Which messages of a server Kovrel has begun to remove there: where the line breaks between marking and expunging, the
 * mark is its own, and is taken off again.
 */
const statements = [
	`ALTER TABLE source_item ADD COLUMN removal_begun INTEGER NOT NULL DEFAULT 0 CHECK (removal_begun IN (0, 1))`,
	`CREATE INDEX source_item_removal_begun ON source_item (source_folder_id, uid) WHERE removal_begun = 1`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
