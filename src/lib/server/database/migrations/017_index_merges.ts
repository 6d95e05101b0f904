import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * How many pieces of one size the index of words may have before it merges them, and how many before it merges at
 * once (SQLite FTS5, `automerge` and `crisismerge`): every word is written half as often, and merging is spread over
 * the transactions.
 */
const statements = [
	`INSERT INTO words (words, rank) VALUES ('automerge', 16)`,
	`INSERT INTO words (words, rank) VALUES ('crisismerge', 64)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
