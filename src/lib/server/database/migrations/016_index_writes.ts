import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * How much the index of words holds in memory before it writes, in its own count of bytes: a whole transaction of an
 * import, instead of pieces that have to be merged (SQLite FTS5, `hashsize`).
 */
const statements = [`INSERT INTO words (words, rank) VALUES ('hashsize', 4194304)`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
