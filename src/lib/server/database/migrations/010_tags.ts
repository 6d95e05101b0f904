import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const statements = [
	`CREATE TABLE tag (
		id INTEGER PRIMARY KEY,
		name TEXT NOT NULL,
		name_key TEXT NOT NULL UNIQUE,
		colour TEXT NOT NULL,
		hidden INTEGER NOT NULL DEFAULT 0
	) STRICT`,
	`CREATE TABLE item_tag (
		item_id INTEGER NOT NULL REFERENCES item (id),
		tag_id INTEGER NOT NULL REFERENCES tag (id),
		PRIMARY KEY (item_id, tag_id)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX item_tag_by_tag ON item_tag (tag_id, item_id)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
