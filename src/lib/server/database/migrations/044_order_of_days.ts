import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * What pages of a large mailbox asked of every message: the newest of all states together, those that came from a folder, and
 * those that are under a series of their own.
 */
const statements = [
	`CREATE INDEX item_by_day ON item (mailbox_id, received_on, received_at)`,
	`CREATE INDEX item_by_origin ON item (origin_folder_id) WHERE origin_folder_id IS NOT NULL`,
	`CREATE INDEX item_by_own_retention ON item (own_retention_id) WHERE own_retention_id IS NOT NULL`,
	// without statistics of them the planner takes the new ones for better than they are
	`ANALYZE item`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
