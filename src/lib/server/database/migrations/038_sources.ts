import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Live mailboxes: the server where the mail of a mailbox lives, its folders as they were seen last, and which of its
 * messages each item is; and the items that lie in no folder there any more, until a pass is through: they may have moved. The secret can be read only with a key that lies outside this file.
 */
const statements = [
	`CREATE TABLE source (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL UNIQUE REFERENCES mailbox (id),
		host TEXT NOT NULL,
		port INTEGER NOT NULL,
		tls TEXT NOT NULL CHECK (tls IN ('implicit', 'starttls', 'none')),
		certificate TEXT,
		user TEXT NOT NULL,
		auth TEXT NOT NULL CHECK (auth IN ('password', 'token')),
		secret BLOB NOT NULL,
		left_out TEXT NOT NULL,
		made_at TEXT NOT NULL,
		made_by TEXT NOT NULL,
		passed_at TEXT,
		tried_at TEXT,
		error TEXT,
		quota_used INTEGER,
		quota_limit INTEGER
	) STRICT`,
	`CREATE TABLE source_folder (
		id INTEGER PRIMARY KEY,
		source_id INTEGER NOT NULL REFERENCES source (id),
		path TEXT NOT NULL,
		folder_id INTEGER NOT NULL REFERENCES folder (id),
		uid_validity TEXT NOT NULL,
		uid_next INTEGER NOT NULL,
		messages INTEGER NOT NULL,
		modseq TEXT,
		UNIQUE (source_id, path)
	) STRICT`,
	`CREATE TABLE source_item (
		source_folder_id INTEGER NOT NULL REFERENCES source_folder (id),
		uid INTEGER NOT NULL,
		item_id INTEGER NOT NULL,
		flags INTEGER NOT NULL,
		keywords TEXT NOT NULL,
		PRIMARY KEY (source_folder_id, uid)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX source_item_by_item ON source_item (item_id)`,
	`CREATE TABLE source_gone (
		item_id INTEGER PRIMARY KEY,
		source_id INTEGER NOT NULL REFERENCES source (id)
	) STRICT`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
