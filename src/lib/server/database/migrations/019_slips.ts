import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * The dockets on each person's slip, the newest last: a decision goes to the one shown, and a result stays until it
 * is dismissed.
 */
const statements = [
	`CREATE TABLE slip (
		id INTEGER PRIMARY KEY,
		who TEXT NOT NULL,
		docket_id INTEGER NOT NULL REFERENCES docket (id),
		UNIQUE (who, docket_id)
	) STRICT`,
	`INSERT INTO slip (who, docket_id) SELECT drafted_by, max(id) FROM docket
	 WHERE state IN ('drafted', 'carrying-out', 'taking-back') AND by_itself = '' GROUP BY drafted_by, mailbox_id`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
