import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* The lots of all live mail by whom it is addressed to asked for every row of every message: indexes hold them now. */
const statements = [
	`DROP INDEX item_by_thread`,
	`CREATE INDEX item_by_thread ON item (thread_id, mailbox_id, state, bytes, seen, addressed)`,
	`DROP INDEX item_by_date`,
	`CREATE INDEX item_by_date ON item (mailbox_id, state, received_on, folder_id, date_in_doubt, bytes, kept, mail_kind, attachment_kinds, addressed)`,
	`DROP INDEX item_answered`,
	`CREATE INDEX item_answered ON item (mailbox_id, organisation_id, state, answered_on, correspondent_id, list_id, folder_id, received_on, date_in_doubt, bytes, seen, mail_kind, attachment_kinds, addressed)
		WHERE answered_on IS NOT NULL`,
	`ANALYZE item_by_thread`,
	`ANALYZE item_by_date`,
	`ANALYZE item_answered`,
	// a small table keeps none (database/statistics)
	...['sqlite_stat4', 'sqlite_stat1'].map(
		(table) =>
			`DELETE FROM ${table} WHERE tbl = 'item' AND (SELECT max(CAST(stat AS INTEGER)) FROM sqlite_stat1 WHERE tbl = 'item') < 1000`
	),
	`ANALYZE sqlite_schema`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
