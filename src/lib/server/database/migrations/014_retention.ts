import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const statements = [
	// the retention schedule: a change makes a new version, and earlier destructions stay explained by theirs
	`CREATE TABLE series (id INTEGER PRIMARY KEY, code TEXT NOT NULL, code_key TEXT NOT NULL UNIQUE, removed_at TEXT) STRICT`,
	`CREATE TABLE series_version (
		series_id INTEGER NOT NULL REFERENCES series (id),
		version INTEGER NOT NULL,
		title TEXT NOT NULL,
		description TEXT NOT NULL,
		terms TEXT NOT NULL,
		authority TEXT NOT NULL,
		owner TEXT NOT NULL,
		since TEXT NOT NULL,
		because TEXT NOT NULL,
		made_by TEXT NOT NULL,
		PRIMARY KEY (series_id, version)
	) STRICT, WITHOUT ROWID`,
	// retention of a folder, a mailbox, a class or an item: a series, or a plain period by its terms
	`CREATE TABLE retention (
		id INTEGER PRIMARY KEY,
		series_id INTEGER UNIQUE REFERENCES series (id),
		terms TEXT UNIQUE,
		CHECK ((series_id IS NULL) <> (terms IS NULL))
	) STRICT`,

	`ALTER TABLE folder ADD COLUMN retention_id INTEGER REFERENCES retention (id)`,
	`ALTER TABLE folder ADD COLUMN class INTEGER`,
	`ALTER TABLE folder ADD COLUMN closed_on TEXT`,
	`CREATE TABLE named_retention (
		name_key TEXT PRIMARY KEY,
		name TEXT NOT NULL,
		retention_id INTEGER REFERENCES retention (id),
		class INTEGER
	) STRICT, WITHOUT ROWID`,
	`CREATE TABLE class_retention (class INTEGER PRIMARY KEY, retention_id INTEGER NOT NULL REFERENCES retention (id)) STRICT`,

	// settings newer than the items' columns have still to be applied to them
	`ALTER TABLE mailbox ADD COLUMN retention_id INTEGER REFERENCES retention (id)`,
	`ALTER TABLE mailbox ADD COLUMN retention_settings INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE mailbox ADD COLUMN retention_applied INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE mailbox ADD COLUMN retains TEXT NOT NULL DEFAULT 'off'`,
	`ALTER TABLE mailbox ADD COLUMN retains_every INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE mailbox ADD COLUMN retained_on TEXT`,
	`ALTER TABLE mailbox ADD COLUMN working_quota_bytes INTEGER`,

	// own: set on this item by a decision; the others are derived from that, its folder and the settings
	`ALTER TABLE item ADD COLUMN own_class INTEGER`,
	`ALTER TABLE item ADD COLUMN own_retention_id INTEGER REFERENCES retention (id)`,
	`ALTER TABLE item ADD COLUMN class INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE item ADD COLUMN retention_id INTEGER`,
	`ALTER TABLE item ADD COLUMN due_on TEXT`,
	`ALTER TABLE item ADD COLUMN due_action TEXT`,
	// the governing folder, under which it is summed up: for archived mail, the one it came from
	`ALTER TABLE item ADD COLUMN due_folder_id INTEGER`,
	`CREATE INDEX item_by_due ON item (mailbox_id, due_action, due_on) WHERE due_on IS NOT NULL`,
	`CREATE INDEX item_working ON item (mailbox_id, bytes) WHERE class = 2`,
	// sums of due mail, in the order of grouping: changed in the transaction that changes the items, compared by verify
	`CREATE TABLE due_weight (
		mailbox_id INTEGER NOT NULL,
		due_on TEXT NOT NULL,
		due_action TEXT NOT NULL,
		retention_id INTEGER NOT NULL,
		folder_id INTEGER NOT NULL,
		messages INTEGER NOT NULL,
		bytes INTEGER NOT NULL,
		PRIMARY KEY (mailbox_id, due_action, retention_id, folder_id, due_on)
	) STRICT, WITHOUT ROWID`,

	// marks dockets of scheduled runs: a docket's name is for people, who may change it
	`ALTER TABLE docket ADD COLUMN by_itself TEXT NOT NULL DEFAULT ''`,
	`UPDATE docket SET by_itself = name WHERE name = 'Nightly emptying of the bin'`,

	`ALTER TABLE certificate ADD COLUMN decided_by TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE certificate ADD COLUMN sha256 TEXT`,
	`ALTER TABLE certificate_item ADD COLUMN due_on TEXT`,
	`ALTER TABLE certificate_item ADD COLUMN series_id INTEGER`,
	`ALTER TABLE certificate_item ADD COLUMN version INTEGER`,
	`ALTER TABLE certificate_item ADD COLUMN terms TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE certificate_item ADD COLUMN sender TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE certificate_item ADD COLUMN subject TEXT NOT NULL DEFAULT ''`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
