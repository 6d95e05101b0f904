import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * A subject no longer makes one thread of what never met, so that a thread has a number of its own, and a title. All mail
 * is threaded again, and nothing is done by due dates until those that count from the last message of a thread are
 * computed again.
 */
const statements = [
	`DROP INDEX thread_by_subject`,
	`UPDATE item SET thread_id = NULL, reference_set = NULL`,
	`DELETE FROM reference`,
	`DELETE FROM thread`,
	`ALTER TABLE thread ADD COLUMN title TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE thread ADD COLUMN loose INTEGER NOT NULL DEFAULT 0`,
	`CREATE INDEX thread_by_subject ON thread (mailbox_id, subject) WHERE subject <> ''`,
	`UPDATE mailbox SET retention_settings = retention_settings + 1 WHERE retention_settings > 0`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
