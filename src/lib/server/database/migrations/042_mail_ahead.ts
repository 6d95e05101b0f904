import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Mail of a live mailbox whose headers are known and whose bytes are still to come: it is weighed already. How fast, in
 * which order and over how many connections it comes; and where a mailbox is one folder there that an account shares.
 */
const statements = [
	`CREATE TABLE source_ahead (
		source_folder_id INTEGER NOT NULL REFERENCES source_folder (id),
		uid INTEGER NOT NULL,
		bytes INTEGER NOT NULL,
		received_at INTEGER,
		received_on TEXT,
		address TEXT NOT NULL,
		name TEXT NOT NULL,
		organisation TEXT NOT NULL,
		unread INTEGER NOT NULL,
		PRIMARY KEY (source_folder_id, uid)
	) STRICT, WITHOUT ROWID`,
	// each page says how much a mailbox weighs
	`CREATE INDEX source_ahead_weight ON source_ahead (source_folder_id, bytes, unread)`,
	`ALTER TABLE source ADD COLUMN fetch_first TEXT NOT NULL DEFAULT 'newest' CHECK (fetch_first IN ('newest', 'heaviest'))`,
	`ALTER TABLE source ADD COLUMN bytes_a_second INTEGER`,
	`ALTER TABLE source ADD COLUMN connections INTEGER NOT NULL DEFAULT 2`,
	`ALTER TABLE source ADD COLUMN root TEXT NOT NULL DEFAULT ''`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
