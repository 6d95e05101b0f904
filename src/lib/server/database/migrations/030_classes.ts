import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* Classes become rows of the office's schedule: the three there were are the first, with their numbers and words. */
const statements = [
	`CREATE TABLE record_class (
	id INTEGER PRIMARY KEY,
	word TEXT NOT NULL UNIQUE,
	name TEXT NOT NULL,
	name_key TEXT NOT NULL,
	letter TEXT NOT NULL,
	is_protected INTEGER NOT NULL CHECK (is_protected IN (0, 1)),
	quota_bytes INTEGER,
	retention_id INTEGER REFERENCES retention (id),
	removed_at TEXT
	) STRICT`,
	`INSERT INTO record_class (id, word, name, name_key, letter, is_protected) VALUES
	(1, 'transitory', 'transitory', 'transitory', 'T', 0), (2, 'working', 'working papers', 'working papers', 'W', 0), (3, 'record', 'record', 'record', 'R', 1)`,
	`UPDATE record_class SET retention_id = (SELECT retention_id FROM class_retention WHERE class = record_class.id)`,
	`DROP TABLE class_retention`,
	// a mailbox's own quota of a class, in place of the one that the class has everywhere
	`CREATE TABLE class_quota (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	class INTEGER NOT NULL REFERENCES record_class (id),
	bytes INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, class)
	) STRICT, WITHOUT ROWID`,
	`INSERT INTO class_quota SELECT id, 2, working_quota_bytes FROM mailbox WHERE working_quota_bytes IS NOT NULL`,
	`ALTER TABLE mailbox DROP COLUMN working_quota_bytes`,
	`DROP INDEX item_working`,
	// most mail is unclassed: the sums of the others need no look at it
	`CREATE INDEX item_by_class ON item (class, mailbox_id, bytes) WHERE class > 1`,
	`CREATE INDEX item_by_own_class ON item (own_class) WHERE own_class IS NOT NULL`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
