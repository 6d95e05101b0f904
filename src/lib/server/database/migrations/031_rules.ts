import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Standing decisions: what mail may stay, and what becomes of the rest. Each run notes what each of them took and why,
 * before its docket is drafted: no message is taken twice by the same one.
 */
const statements = [
	`CREATE TABLE rule (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	position INTEGER NOT NULL,
	name TEXT NOT NULL,
	query TEXT NOT NULL,
	stay TEXT NOT NULL,
	decision TEXT NOT NULL,
	options TEXT NOT NULL,
	since TEXT,
	until TEXT,
	is_on INTEGER NOT NULL CHECK (is_on IN (0, 1)),
	made_at TEXT NOT NULL,
	made_by TEXT NOT NULL,
	removed_at TEXT
	) STRICT`,
	`CREATE INDEX rule_by_mailbox ON rule (mailbox_id, position)`,
	`CREATE TABLE rule_run (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	on_day TEXT NOT NULL,
	docket_id INTEGER
	) STRICT`,
	`CREATE INDEX rule_run_by_mailbox ON rule_run (mailbox_id)`,
	`CREATE TABLE rule_item (
	rule_id INTEGER NOT NULL REFERENCES rule (id),
	item_id INTEGER NOT NULL,
	run_id INTEGER NOT NULL,
	why TEXT NOT NULL CHECK (why IN ('all', 'newest', 'older', 'heavier')),
	PRIMARY KEY (rule_id, item_id)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX rule_item_by_item ON rule_item (item_id)`,
	`CREATE INDEX rule_item_by_run ON rule_item (run_id)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
