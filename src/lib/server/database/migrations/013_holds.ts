import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const statements = [
	`CREATE TABLE hold (
		id INTEGER PRIMARY KEY,
		name TEXT NOT NULL,
		name_key TEXT NOT NULL,
		because TEXT NOT NULL,
		asked_by TEXT NOT NULL,
		scope TEXT NOT NULL,
		placed_on TEXT NOT NULL,
		placed_by TEXT NOT NULL,
		released_on TEXT,
		released_by TEXT,
		released_because TEXT
	) STRICT`,
	`CREATE UNIQUE INDEX hold_by_name ON hold (name_key) WHERE released_on IS NULL`,
	// items under a hold stay so until it is released, however they are moved or changed
	`CREATE TABLE hold_item (
		item_id INTEGER NOT NULL,
		hold_id INTEGER NOT NULL REFERENCES hold (id),
		PRIMARY KEY (item_id, hold_id)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX hold_item_by_hold ON hold_item (hold_id)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
