import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Writing on the server of a live mailbox. The outbox names the items that the server has still to show as they are
 * here; what is to be done there is the difference between an item and its rows in `source_item`, so that it can be
 * repeated. What Kovrel removed there keeps the date that it had there, for putting it back.
 */
const statements = [
	`ALTER TABLE source ADD COLUMN writes INTEGER NOT NULL DEFAULT 0 CHECK (writes IN (0, 1))`,
	`ALTER TABLE source ADD COLUMN archive_on TEXT NOT NULL DEFAULT 'kovrel' CHECK (archive_on IN ('kovrel', 'server'))`,
	`ALTER TABLE source_folder ADD COLUMN path_here TEXT NOT NULL DEFAULT ''`,
	`UPDATE source_folder SET path_here = (SELECT path FROM folder WHERE folder.id = folder_id)`,
	`ALTER TABLE source_item ADD COLUMN internal_date INTEGER`,
	`ALTER TABLE certificate ADD COLUMN reach TEXT NOT NULL DEFAULT ''`,
	`CREATE TABLE source_removed (
		item_id INTEGER PRIMARY KEY,
		source_id INTEGER NOT NULL REFERENCES source (id),
		internal_date INTEGER
	) STRICT`,
	`CREATE TABLE outbox (
		id INTEGER PRIMARY KEY,
		source_id INTEGER NOT NULL REFERENCES source (id),
		item_id INTEGER NOT NULL,
		docket_id INTEGER,
		places INTEGER NOT NULL CHECK (places IN (0, 1)),
		noted_at TEXT NOT NULL,
		changes INTEGER NOT NULL DEFAULT 1,
		tries INTEGER NOT NULL DEFAULT 0,
		trouble TEXT,
		UNIQUE (source_id, item_id)
	) STRICT`,
	`CREATE INDEX outbox_by_docket ON outbox (docket_id)`,
	`CREATE INDEX outbox_by_item ON outbox (item_id)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
