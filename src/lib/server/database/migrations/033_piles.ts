import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Piles: folders for what still needs something, by names of the person's own. A note says why a message waits and until
 * when; it counts while the message lies in that folder.
 */
const statements = [
	`CREATE TABLE pile (
	folder_id INTEGER PRIMARY KEY REFERENCES folder (id),
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	made_at TEXT NOT NULL,
	made_by TEXT NOT NULL
	) STRICT`,
	`CREATE INDEX pile_by_mailbox ON pile (mailbox_id)`,
	`CREATE TABLE pile_item (
	item_id INTEGER PRIMARY KEY,
	folder_id INTEGER NOT NULL REFERENCES pile (folder_id),
	because TEXT NOT NULL,
	until TEXT,
	put_on TEXT NOT NULL,
	put_by TEXT NOT NULL
	) STRICT`,
	`CREATE INDEX pile_item_by_folder ON pile_item (folder_id)`,
	`CREATE INDEX pile_item_by_until ON pile_item (until) WHERE until IS NOT NULL`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
