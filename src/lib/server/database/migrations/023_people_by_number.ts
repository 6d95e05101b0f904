import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Decisions, approvals and jobs refer to a person, not to a name; names stay, to be shown. Rows from before there
 * were people, from a terminal or from Kovrel itself have no number. Sealed ledger lines stay as they are.
 */
const person = (name: string) => `(SELECT id FROM person WHERE person.name = ${name})`;
const statements = [
	...['drafted', 'carried_out', 'taken_back', 'approved'].flatMap((did) => [
		`ALTER TABLE docket ADD COLUMN ${did}_by_id INTEGER REFERENCES person (id)`,
		`UPDATE docket SET ${did}_by_id = ${person(`${did}_by`)} WHERE ${did}_by IS NOT NULL`
	]),
	`CREATE TABLE docket_changer (
		docket_id INTEGER NOT NULL REFERENCES docket (id),
		person_id INTEGER REFERENCES person (id),
		name TEXT NOT NULL,
		PRIMARY KEY (docket_id, name)
	) STRICT, WITHOUT ROWID`,
	// names stand between bars there
	`INSERT OR IGNORE INTO docket_changer (docket_id, person_id, name)
	 SELECT docket.id, person.id, person.name FROM docket JOIN person ON instr(docket.changed_by, '|' || person.name || '|') > 0`,
	`INSERT OR IGNORE INTO docket_changer (docket_id, person_id, name)
	 SELECT id, NULL, trim(changed_by, '|') FROM docket WHERE changed_by IS NOT NULL
		AND NOT EXISTS (SELECT 1 FROM docket_changer WHERE docket_id = docket.id)`,
	`ALTER TABLE docket DROP COLUMN changed_by`,
	`ALTER TABLE slip ADD COLUMN person_id INTEGER REFERENCES person (id)`,
	`UPDATE slip SET person_id = ${person('who')}`,
	`CREATE INDEX slip_by_person ON slip (person_id)`,
	`ALTER TABLE job ADD COLUMN person_id INTEGER REFERENCES person (id)`,
	`UPDATE job SET person_id = ${person('who')}`,
	// the subject, as data; older jobs have only words
	`ALTER TABLE job ADD COLUMN about TEXT`,
	// enqueued by another job, and not started by a person
	`ALTER TABLE job ADD COLUMN is_begun INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE ledger ADD COLUMN person INTEGER`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
