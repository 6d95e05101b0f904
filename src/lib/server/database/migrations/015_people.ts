import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Passwords, links, sessions and recovery codes are stored only as hashes. A person without access keeps their row:
 * the ledger names them.
 */
const statements = [
	`CREATE TABLE person (
		id INTEGER PRIMARY KEY,
		name TEXT NOT NULL,
		name_key TEXT NOT NULL UNIQUE,
		address TEXT NOT NULL,
		address_key TEXT NOT NULL UNIQUE,
		role TEXT NOT NULL CHECK (role IN ('administrator', 'auditor', 'colleague')),
		password TEXT,
		code_secret TEXT,
		code_step INTEGER NOT NULL DEFAULT 0,
		made_at TEXT NOT NULL,
		ended_at TEXT
	) STRICT`,
	`CREATE TABLE recovery_code (
		person_id INTEGER NOT NULL REFERENCES person (id),
		hash BLOB NOT NULL,
		PRIMARY KEY (person_id, hash)
	) STRICT, WITHOUT ROWID`,
	// without a person: it makes the first administrator
	`CREATE TABLE entry_link (
		hash BLOB PRIMARY KEY,
		person_id INTEGER REFERENCES person (id),
		expires_at INTEGER NOT NULL
	) STRICT, WITHOUT ROWID`,
	`CREATE TABLE session (
		id INTEGER PRIMARY KEY,
		hash BLOB NOT NULL UNIQUE,
		person_id INTEGER NOT NULL REFERENCES person (id),
		stage TEXT NOT NULL CHECK (stage IN ('code', 'code-wanted', 'whole')),
		began_at INTEGER NOT NULL,
		seen_at INTEGER NOT NULL,
		device TEXT NOT NULL
	) STRICT`,
	`CREATE INDEX session_by_person ON session (person_id)`,
	`CREATE TABLE failed_attempt (key TEXT PRIMARY KEY, failures INTEGER NOT NULL, last_at INTEGER NOT NULL) STRICT, WITHOUT ROWID`,

	`CREATE TABLE person_group (id INTEGER PRIMARY KEY, name TEXT NOT NULL, name_key TEXT NOT NULL UNIQUE) STRICT`,
	`CREATE TABLE group_member (
		group_id INTEGER NOT NULL REFERENCES person_group (id),
		person_id INTEGER NOT NULL REFERENCES person (id),
		PRIMARY KEY (group_id, person_id)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX group_member_by_person ON group_member (person_id)`,
	// to a person or a group; of a mailbox, or of a folder with those below it
	`CREATE TABLE access_grant (
		id INTEGER PRIMARY KEY,
		person_id INTEGER REFERENCES person (id),
		group_id INTEGER REFERENCES person_group (id),
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		folder_id INTEGER REFERENCES folder (id),
		may_find INTEGER NOT NULL CHECK (may_find IN (0, 1)),
		may_restore INTEGER NOT NULL CHECK (may_restore IN (0, 1)),
		until TEXT,
		given_at TEXT NOT NULL,
		given_by TEXT NOT NULL,
		ended_at TEXT,
		CHECK ((person_id IS NULL) <> (group_id IS NULL)),
		CHECK (may_find + may_restore > 0)
	) STRICT`,
	`CREATE INDEX access_grant_by_person ON access_grant (person_id)`,
	`CREATE INDEX access_grant_by_group ON access_grant (group_id)`,
	// the owner
	`ALTER TABLE mailbox ADD COLUMN owner_id INTEGER REFERENCES person (id)`,

	`CREATE TABLE saved_search (
		id INTEGER PRIMARY KEY,
		person_id INTEGER NOT NULL REFERENCES person (id),
		name TEXT NOT NULL,
		question TEXT NOT NULL,
		UNIQUE (person_id, name)
	) STRICT`,

	// a colleague's request and its answer; its messages may be destroyed since
	`CREATE TABLE request (
		id INTEGER PRIMARY KEY,
		person_id INTEGER NOT NULL REFERENCES person (id),
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		wish TEXT NOT NULL CHECK (wish IN ('restore', 'reach', 'keep')),
		folder_id INTEGER REFERENCES folder (id),
		because TEXT NOT NULL,
		made_at TEXT NOT NULL,
		state TEXT NOT NULL CHECK (state IN ('open', 'granted', 'in-part', 'declined')),
		word TEXT NOT NULL DEFAULT '',
		restored INTEGER NOT NULL DEFAULT 0,
		answered_at TEXT,
		answered_by TEXT,
		noticed_at TEXT
	) STRICT`,
	`CREATE INDEX request_by_state ON request (state, id)`,
	`CREATE INDEX request_by_person ON request (person_id, id)`,
	`CREATE TABLE request_item (
		request_id INTEGER NOT NULL REFERENCES request (id),
		item_id INTEGER NOT NULL,
		PRIMARY KEY (request_id, item_id)
	) STRICT, WITHOUT ROWID`,

	// who opened which message: a ledger line for each, and the way to find it from a mailbox
	`CREATE TABLE look (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		item_id INTEGER NOT NULL,
		who TEXT NOT NULL,
		what TEXT NOT NULL,
		"on" TEXT NOT NULL,
		at TEXT NOT NULL,
		UNIQUE (item_id, who, what, "on")
	) STRICT`,
	`CREATE INDEX look_by_mailbox ON look (mailbox_id, id)`,

	`ALTER TABLE docket ADD COLUMN approved_at TEXT`,
	`ALTER TABLE docket ADD COLUMN approved_by TEXT`,
	// everybody who added or removed lines of a draft: like its drafter, they cannot approve it
	`ALTER TABLE docket ADD COLUMN changed_by TEXT`,

	// words inside attachments: kept, so that exactly these can be removed from the index
	`CREATE INDEX message_with_files ON message (id) WHERE attachments <> '[]'`,
	`CREATE TABLE file_text (
		message_id INTEGER PRIMARY KEY REFERENCES message (id),
		outcome TEXT NOT NULL,
		text BLOB
	) STRICT`,
	// the words of the index, for words that are nearly right
	`CREATE VIRTUAL TABLE word_list USING fts5vocab('words', 'row')`,
	// ranking: subject and names over text, own text over quoted, words in files last but one
	`INSERT INTO words (words, rank) VALUES ('rank', 'bm25(10.0, 6.0, 4.0, 2.0, 2.0, 0.5, 1.0)')`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
