import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const statements = [
	// bits of core/lists/ways
	`ALTER TABLE message ADD COLUMN leave_ways INTEGER NOT NULL DEFAULT 0`,
	`CREATE INDEX message_read_before_lists ON message (reading) WHERE reading < 2`,
	`DROP INDEX message_to_read_again`,
	`ALTER TABLE list ADD COLUMN organisation TEXT NOT NULL DEFAULT ''`,
	// the first and the last of a list, and what is shown of it; without the state, so that a docket does not touch it
	`CREATE INDEX item_by_list ON item (mailbox_id, list_id, date_in_doubt, received_on, seen, correspondent_id)
	 WHERE list_id IS NOT NULL`,

	// an attempt to unsubscribe: the request, its way and the answer
	`CREATE TABLE leaving (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		list_id INTEGER NOT NULL REFERENCES list (id),
		line_id INTEGER NOT NULL,
		way TEXT NOT NULL,
		target TEXT NOT NULL,
		state TEXT NOT NULL,
		asked_on TEXT NOT NULL,
		who TEXT NOT NULL,
		sender INTEGER,
		answered_at TEXT,
		answer TEXT NOT NULL DEFAULT ''
	) STRICT`,
	`CREATE INDEX leaving_by_list ON leaving (mailbox_id, list_id, id)`,
	`CREATE INDEX leaving_by_line ON leaving (line_id)`,
	`CREATE INDEX leaving_to_do ON leaving (state) WHERE state IN ('waiting', 'sending')`,

	`CREATE TABLE sender_mark (
		id INTEGER PRIMARY KEY,
		verdict TEXT NOT NULL,
		kind TEXT NOT NULL,
		value TEXT NOT NULL,
		made_by TEXT NOT NULL,
		made_at TEXT NOT NULL,
		UNIQUE (kind, value)
	) STRICT`,
	// addresses to which somebody here has written
	`CREATE TABLE written_to (address TEXT PRIMARY KEY, organisation TEXT NOT NULL) STRICT, WITHOUT ROWID`,
	`CREATE INDEX written_to_organisation ON written_to (organisation)`,
	`ALTER TABLE mailbox ADD COLUMN written_to_item INTEGER NOT NULL DEFAULT 0`,

	// junk goes to the bin after so many days
	`ALTER TABLE mailbox ADD COLUMN junk_days INTEGER NOT NULL DEFAULT 14`,
	`ALTER TABLE mailbox ADD COLUMN clears_junk INTEGER NOT NULL DEFAULT 0`,

	// lists that are folded into one message a day or week
	`ALTER TABLE mailbox ADD COLUMN digest_every TEXT NOT NULL DEFAULT 'day'`,
	`ALTER TABLE mailbox ADD COLUMN digest_folder TEXT NOT NULL DEFAULT 'Digests'`,
	`CREATE TABLE digest_list (
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		list_id INTEGER NOT NULL REFERENCES list (id),
		since TEXT NOT NULL,
		line_id INTEGER,
		PRIMARY KEY (mailbox_id, list_id)
	) STRICT, WITHOUT ROWID`,
	`CREATE TABLE digest (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		day TEXT NOT NULL,
		message_id TEXT NOT NULL UNIQUE,
		made_at TEXT NOT NULL,
		docket_id INTEGER,
		UNIQUE (mailbox_id, day)
	) STRICT`,
	`CREATE TABLE digest_item (
		digest_id INTEGER NOT NULL REFERENCES digest (id),
		position INTEGER NOT NULL,
		item_id INTEGER NOT NULL,
		PRIMARY KEY (digest_id, position)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX digest_item_by_item ON digest_item (item_id)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
