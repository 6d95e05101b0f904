import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Each line's hash covers the hash of the line before it. The triggers prevent mistakes; the chain proves tampering.
 */
const statements = [
	`CREATE TABLE ledger (
		number INTEGER PRIMARY KEY,
		at TEXT NOT NULL,
		who TEXT NOT NULL,
		action TEXT NOT NULL,
		details TEXT NOT NULL,
		previous TEXT NOT NULL CHECK (length(previous) = 64),
		hash TEXT NOT NULL UNIQUE CHECK (length(hash) = 64)
	) STRICT`,
	`CREATE TRIGGER ledger_is_not_changed BEFORE UPDATE ON ledger
		BEGIN SELECT RAISE(ABORT, 'the ledger is not changed'); END`,
	`CREATE TRIGGER ledger_is_not_shortened BEFORE DELETE ON ledger
		BEGIN SELECT RAISE(ABORT, 'the ledger is not shortened'); END`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
