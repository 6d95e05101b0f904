import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const statements = [
	// what can be read of a message for lots, threads and proposals; "reading" says by which reading (core/message/summary)
	`ALTER TABLE message ADD COLUMN base_subject TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE message ADD COLUMN is_reply INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE message ADD COLUMN to_addresses TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE message ADD COLUMN cc_addresses TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE message ADD COLUMN traits INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE message ADD COLUMN expires_at INTEGER`,
	`ALTER TABLE message ADD COLUMN event_ends_on TEXT`,
	`ALTER TABLE message ADD COLUMN body_hash BLOB`,
	`ALTER TABLE message ADD COLUMN text_length INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE message ADD COLUMN reading INTEGER NOT NULL DEFAULT 0`,
	`CREATE INDEX message_to_read_again ON message (reading) WHERE reading < 1`,

	// numbers: core/message/mail-kind, core/lots; thread_id null: not threaded yet
	`ALTER TABLE item ADD COLUMN mail_kind INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE item ADD COLUMN addressed INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE item ADD COLUMN thread_id INTEGER`,
	`ALTER TABLE item ADD COLUMN reference_set INTEGER`,
	`ALTER TABLE item ADD COLUMN answered_on TEXT`,
	`ALTER TABLE item ADD COLUMN kept INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE item ADD COLUMN pause_id INTEGER REFERENCES pause (id)`,
	// grouping by organisation is one pass over this, in its order
	`CREATE INDEX item_by_organisation ON item (mailbox_id, organisation_id, state, received_on, bytes, seen, answered_on, date_in_doubt)`,
	`CREATE INDEX item_answered ON item (mailbox_id, organisation_id, state, answered_on) WHERE answered_on IS NOT NULL`,
	`DROP INDEX item_by_date`,
	`CREATE INDEX item_by_date ON item (mailbox_id, state, received_on, folder_id, date_in_doubt, bytes, kept)`,
	`CREATE INDEX item_by_thread ON item (thread_id)`,
	`CREATE INDEX item_by_reference_set ON item (reference_set)`,
	`CREATE INDEX item_not_threaded ON item (mailbox_id) WHERE thread_id IS NULL`,
	`CREATE INDEX item_in_bin ON item (mailbox_id, binned_on) WHERE state = 'binned'`,

	// a pause without a folder is that of the items that name it
	`CREATE TABLE pause (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		folder_id INTEGER REFERENCES folder (id),
		until TEXT NOT NULL,
		because TEXT NOT NULL,
		made_by TEXT NOT NULL,
		made_at TEXT NOT NULL,
		ended_at TEXT
	) STRICT`,
	`CREATE INDEX pause_by_mailbox ON pause (mailbox_id, until)`,

	// connected sets of Message-IDs: all that one message refers to are in one set, named by its first item
	`CREATE TABLE reference (
		mailbox_id INTEGER NOT NULL,
		id_hash INTEGER NOT NULL,
		set_id INTEGER NOT NULL,
		PRIMARY KEY (mailbox_id, id_hash)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX reference_by_set ON reference (set_id)`,
	`CREATE TABLE thread (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL,
		subject TEXT NOT NULL
	) STRICT`,
	`CREATE UNIQUE INDEX thread_by_subject ON thread (mailbox_id, subject) WHERE subject <> ''`,

	`ALTER TABLE mailbox ADD COLUMN addresses TEXT NOT NULL DEFAULT '[]'`,
	// so many in the inbox need no scrolling
	`ALTER TABLE mailbox ADD COLUMN inbox_aim INTEGER NOT NULL DEFAULT 25`,
	`ALTER TABLE mailbox ADD COLUMN empties_bin INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE mailbox ADD COLUMN confirm_above INTEGER NOT NULL DEFAULT 100`,

	// progress is by line and item: what each line has done is known of it alone
	`ALTER TABLE docket ADD COLUMN name TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE docket ADD COLUMN progress_position INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE docket_line ADD COLUMN options TEXT NOT NULL DEFAULT '{}'`,
	`ALTER TABLE docket_line ADD COLUMN conflicts TEXT NOT NULL DEFAULT '[]'`,
	`ALTER TABLE docket_line ADD COLUMN elsewhere INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE docket_line ADD COLUMN done_messages INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE docket_line ADD COLUMN done_bytes INTEGER NOT NULL DEFAULT 0`,
	`UPDATE docket_line SET (done_messages, done_bytes) = (SELECT messages, bytes FROM docket WHERE docket.id = docket_id)
	 WHERE docket_id IN (SELECT id FROM docket WHERE state IN ('carrying-out', 'carried-out', 'taking-back', 'taken-back'))`,

	// by line; the state an item gets is its line's; destroyed items are no more, so nothing refers to them
	`ALTER TABLE docket_item RENAME TO docket_item_before`,
	`CREATE TABLE docket_item (
		line_id INTEGER NOT NULL,
		item_id INTEGER NOT NULL,
		from_state TEXT NOT NULL,
		from_folder_id INTEGER NOT NULL,
		from_origin_folder_id INTEGER,
		from_binned_on TEXT,
		from_docket_id INTEGER,
		from_value INTEGER,
		to_folder_id INTEGER NOT NULL,
		to_origin_folder_id INTEGER,
		PRIMARY KEY (line_id, item_id)
	) STRICT, WITHOUT ROWID`,
	`INSERT INTO docket_item SELECT line_id, item_id, from_state, from_folder_id, from_origin_folder_id, from_binned_on,
		from_docket_id, NULL, to_folder_id, to_origin_folder_id FROM docket_item_before`,
	`DROP TABLE docket_item_before`,

	// the bytes of a listed message may be destroyed since
	`ALTER TABLE import_oddity RENAME TO import_oddity_before`,
	`DROP INDEX import_oddity_by_import`,
	`DROP INDEX import_oddity_by_content`,
	`CREATE TABLE import_oddity (
		id INTEGER PRIMARY KEY,
		import_id INTEGER NOT NULL REFERENCES import (id),
		content_id INTEGER REFERENCES content (id),
		place TEXT NOT NULL,
		reason TEXT NOT NULL
	) STRICT`,
	`INSERT INTO import_oddity SELECT * FROM import_oddity_before`,
	`DROP TABLE import_oddity_before`,
	`CREATE INDEX import_oddity_by_import ON import_oddity (import_id)`,
	`CREATE INDEX import_oddity_by_content ON import_oddity (content_id)`,

	// the decrease of weight against the quota, day by day; restoring reduces it again
	`CREATE TABLE freed (
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		day TEXT NOT NULL,
		messages INTEGER NOT NULL,
		bytes INTEGER NOT NULL,
		PRIMARY KEY (mailbox_id, day)
	) STRICT, WITHOUT ROWID`,
	`INSERT INTO freed SELECT mailbox_id, substr(carried_out_at, 1, 10),
			sum(CASE decision WHEN 'archive' THEN done_messages WHEN 'restore' THEN -done_messages ELSE 0 END),
			sum(CASE decision WHEN 'archive' THEN done_bytes WHEN 'restore' THEN -done_bytes ELSE 0 END)
		FROM docket JOIN docket_line ON docket_id = docket.id WHERE state = 'carried-out' GROUP BY 1, 2`,

	// proposals; better_item_id: the message that makes this one redundant
	`CREATE TABLE proposal_item (
		mailbox_id INTEGER NOT NULL,
		kind TEXT NOT NULL,
		item_id INTEGER NOT NULL,
		better_item_id INTEGER,
		reason TEXT NOT NULL,
		PRIMARY KEY (mailbox_id, kind, item_id)
	) STRICT, WITHOUT ROWID`,
	`CREATE TABLE proposal_run (mailbox_id INTEGER PRIMARY KEY, ran_at TEXT NOT NULL) STRICT`,

	// words searched in future mail, and the decision on it
	`CREATE TABLE keep_line (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		text TEXT NOT NULL,
		decision TEXT NOT NULL,
		options TEXT NOT NULL,
		made_by TEXT NOT NULL,
		made_at TEXT NOT NULL,
		UNIQUE (mailbox_id, text, decision)
	) STRICT`,

	// the proof of a destruction; of each message it keeps hash, size and date
	`CREATE TABLE certificate (
		id INTEGER PRIMARY KEY,
		docket_id INTEGER NOT NULL UNIQUE,
		mailbox TEXT NOT NULL,
		made_at TEXT NOT NULL,
		made_by TEXT NOT NULL,
		messages INTEGER NOT NULL,
		bytes INTEGER NOT NULL
	) STRICT`,
	`CREATE TABLE certificate_item (
		certificate_id INTEGER NOT NULL REFERENCES certificate (id),
		item_id INTEGER NOT NULL,
		sha256 BLOB NOT NULL,
		bytes INTEGER NOT NULL,
		received_on TEXT,
		content_gone INTEGER NOT NULL,
		PRIMARY KEY (certificate_id, item_id)
	) STRICT, WITHOUT ROWID`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
