import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const statements = [
	`CREATE TABLE setting (key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID`,

	// the bytes, once; everything in the tables below can be computed again from them
	`CREATE TABLE content (
		id INTEGER PRIMARY KEY,
		sha256 BLOB NOT NULL UNIQUE CHECK (length(sha256) = 32),
		raw_bytes INTEGER NOT NULL,
		stored_bytes INTEGER NOT NULL,
		codec TEXT NOT NULL CHECK (codec IN ('identity', 'brotli')),
		data BLOB NOT NULL
	) STRICT`,

	`CREATE TABLE message (
		id INTEGER PRIMARY KEY,
		content_id INTEGER NOT NULL UNIQUE REFERENCES content (id),
		message_id TEXT NOT NULL,
		reference_ids TEXT NOT NULL,
		subject TEXT NOT NULL,
		from_name TEXT NOT NULL,
		from_address TEXT NOT NULL,
		recipients TEXT NOT NULL,
		sent_at INTEGER,
		list_id TEXT NOT NULL,
		importance INTEGER NOT NULL,
		attachments TEXT NOT NULL
	) STRICT`,
	`CREATE INDEX message_by_message_id ON message (message_id)`,
	`CREATE INDEX message_by_list ON message (list_id) WHERE list_id <> ''`,

	`CREATE TABLE organisation (id INTEGER PRIMARY KEY, domain TEXT NOT NULL UNIQUE) STRICT`,
	`CREATE TABLE correspondent (
		id INTEGER PRIMARY KEY,
		address TEXT NOT NULL UNIQUE,
		name TEXT NOT NULL,
		organisation_id INTEGER NOT NULL REFERENCES organisation (id)
	) STRICT`,

	`CREATE TABLE mailbox (
		id INTEGER PRIMARY KEY,
		name TEXT NOT NULL,
		name_key TEXT NOT NULL UNIQUE,
		quota_bytes INTEGER,
		bin_days INTEGER NOT NULL DEFAULT 30,
		made_at TEXT NOT NULL
	) STRICT`,

	// a removed folder keeps its row, so that its mail can be restored to it
	`CREATE TABLE folder (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		tree TEXT NOT NULL CHECK (tree IN ('mailbox', 'archive')),
		parent_id INTEGER REFERENCES folder (id),
		name TEXT NOT NULL,
		name_key TEXT NOT NULL,
		path TEXT NOT NULL,
		role TEXT CHECK (role IN ('inbox', 'sent', 'drafts', 'junk', 'trash', 'archive')),
		removed_at TEXT
	) STRICT`,
	`CREATE UNIQUE INDEX folder_by_name ON folder (mailbox_id, tree, ifnull(parent_id, 0), name_key)`,

	`CREATE TABLE item (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		message_id INTEGER NOT NULL REFERENCES message (id),
		state TEXT NOT NULL CHECK (state IN ('live', 'archived', 'binned', 'destroyed')),
		folder_id INTEGER NOT NULL REFERENCES folder (id),
		origin_folder_id INTEGER REFERENCES folder (id),
		imported_folder_id INTEGER NOT NULL REFERENCES folder (id),
		received_at INTEGER,
		received_on TEXT,
		date_in_doubt INTEGER NOT NULL CHECK (date_in_doubt IN (0, 1)),
		bytes INTEGER NOT NULL,
		seen INTEGER CHECK (seen IN (0, 1)),
		answered INTEGER NOT NULL DEFAULT 0,
		flagged INTEGER NOT NULL DEFAULT 0,
		draft INTEGER NOT NULL DEFAULT 0,
		attachments INTEGER NOT NULL DEFAULT 0,
		attachment_kinds INTEGER NOT NULL DEFAULT 0,
		correspondent_id INTEGER NOT NULL REFERENCES correspondent (id),
		organisation_id INTEGER NOT NULL REFERENCES organisation (id),
		binned_on TEXT,
		docket_id INTEGER
	) STRICT`,
	// importing again adds nothing, wherever the item is now
	`CREATE UNIQUE INDEX item_by_import ON item (imported_folder_id, message_id)`,
	`CREATE INDEX item_by_message ON item (message_id)`,
	// covers the query for a cutoff date: which items, in which folders, how many bytes
	`CREATE INDEX item_by_date ON item (mailbox_id, state, received_on, folder_id, date_in_doubt, bytes)`,

	// summaries for Weigh, changed in the transaction that changes the items; verify recomputes and compares them
	`CREATE TABLE weight_by_month (
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		state TEXT NOT NULL,
		folder_id INTEGER NOT NULL REFERENCES folder (id),
		month TEXT NOT NULL,
		messages INTEGER NOT NULL,
		bytes INTEGER NOT NULL,
		PRIMARY KEY (mailbox_id, state, folder_id, month)
	) STRICT, WITHOUT ROWID`,
	`CREATE TABLE weight_by_organisation (
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		state TEXT NOT NULL,
		organisation_id INTEGER NOT NULL REFERENCES organisation (id),
		messages INTEGER NOT NULL,
		bytes INTEGER NOT NULL,
		PRIMARY KEY (mailbox_id, state, organisation_id)
	) STRICT, WITHOUT ROWID`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
