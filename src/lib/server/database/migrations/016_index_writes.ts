import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* What the index of words holds in memory until it writes, in bytes of its own counting: a transaction of an import fits,
   instead of being written in pieces that have to be merged (SQLite FTS5, `hashsize`). */
const statements = [`INSERT INTO words (words, rank) VALUES ('hashsize', 4194304)`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
