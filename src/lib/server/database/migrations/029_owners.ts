import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* Owners tidy their mailboxes where an administrator grants it, and are asked to review what would go from them. */
const statements = [
	`ALTER TABLE mailbox ADD COLUMN owner_tidies INTEGER NOT NULL DEFAULT 0`,
	`CREATE TABLE review (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	until TEXT NOT NULL,
	because TEXT NOT NULL,
	asked_by TEXT NOT NULL,
	asked_on TEXT NOT NULL,
	answered_on TEXT,
	ended_on TEXT
	) STRICT`,
	`CREATE INDEX review_by_mailbox ON review (mailbox_id)`,
	`CREATE TABLE review_item (
	review_id INTEGER NOT NULL REFERENCES review (id),
	item_id INTEGER NOT NULL,
	due_on TEXT,
	due_action TEXT,
	PRIMARY KEY (review_id, item_id)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX review_item_by_item ON review_item (item_id)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
