import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* What was decided at the desk, message by message: for taking it back, and for marking the likely decision. */
const statements = [
	`CREATE TABLE desk_decision (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	person_id INTEGER,
	item_id INTEGER NOT NULL,
	correspondent_id INTEGER NOT NULL,
	decision TEXT NOT NULL,
	options TEXT NOT NULL,
	docket_id INTEGER NOT NULL,
	decided_at TEXT NOT NULL
	) STRICT`,
	`CREATE INDEX desk_decision_by_sender ON desk_decision (mailbox_id, correspondent_id)`,
	`CREATE INDEX desk_decision_by_person ON desk_decision (person_id, mailbox_id)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
