import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * A large folder is sorted by a heading of its sheet from indexes alone. Both only grow at their ends while mail is
 * imported: an index by each heading would be written all over.
 */
const statements = [
	`DROP INDEX item_in_folder`,
	`CREATE INDEX item_in_folder ON item (folder_id, state, received_on, received_at, bytes, message_id, attachments, flagged)`,
	`CREATE INDEX message_sort_keys ON message (id, base_subject, from_address, importance)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
