import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Mail that is written here, from its draft to its copy among what was sent. Threads whose answer is awaited, with the
 * items that come back; what ended the wait stays known. A closed thread is a standing decision that follows one of its
 * items, as threads that grow together change their numbers.
 */
const statements = [
	`CREATE TABLE outgoing (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	kind TEXT NOT NULL CHECK (kind IN ('new', 'reply', 'reply-all', 'forward')),
	original_item_id INTEGER,
	original_content_id INTEGER,
	from_address TEXT NOT NULL,
	to_addresses TEXT NOT NULL,
	cc_addresses TEXT NOT NULL,
	subject TEXT NOT NULL,
	text TEXT NOT NULL,
	in_reply_to TEXT NOT NULL,
	reference_ids TEXT NOT NULL,
	attaches_original INTEGER NOT NULL CHECK (attaches_original IN (0, 1)),
	filing TEXT NOT NULL,
	message_id TEXT NOT NULL,
	state TEXT NOT NULL CHECK (state IN ('draft', 'waiting', 'sending', 'failed', 'sent', 'discarded')),
	send_at TEXT,
	tried_at TEXT,
	sent_at TEXT,
	said TEXT NOT NULL DEFAULT '',
	is_filed INTEGER NOT NULL DEFAULT 0,
	sent_item_id INTEGER,
	made_at TEXT NOT NULL,
	made_by TEXT NOT NULL,
	person_id INTEGER
	) STRICT`,
	`CREATE INDEX outgoing_open ON outgoing (mailbox_id, state) WHERE state NOT IN ('sent', 'discarded')`,
	`CREATE INDEX outgoing_not_filed ON outgoing (id) WHERE state = 'sent' AND is_filed = 0`,
	`CREATE TABLE awaited (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	item_id INTEGER NOT NULL,
	behind_item_id INTEGER NOT NULL,
	because TEXT NOT NULL,
	since TEXT NOT NULL,
	until TEXT,
	made_by TEXT NOT NULL,
	ended_on TEXT,
	ended_by TEXT CHECK (ended_by IN ('answer', 'day', 'person')),
	answer_item_id INTEGER,
	docket_id INTEGER
	) STRICT`,
	`CREATE INDEX awaited_open ON awaited (mailbox_id) WHERE ended_on IS NULL`,
	`CREATE TABLE awaited_item (
	awaited_id INTEGER NOT NULL REFERENCES awaited (id),
	item_id INTEGER NOT NULL,
	PRIMARY KEY (awaited_id, item_id)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX awaited_item_by_item ON awaited_item (item_id)`,
	`CREATE TABLE list_look (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	person TEXT NOT NULL,
	looked_on TEXT NOT NULL,
	PRIMARY KEY (mailbox_id, person)
	) STRICT, WITHOUT ROWID`,
	`ALTER TABLE mailbox ADD COLUMN signature TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE mailbox ADD COLUMN returns_answered INTEGER NOT NULL DEFAULT 0 CHECK (returns_answered IN (0, 1))`,
	`ALTER TABLE mailbox ADD COLUMN returned_through INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE rule ADD COLUMN thread_item_id INTEGER`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
