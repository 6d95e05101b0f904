import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* A request names a folder as it was asked for: whether there is one is for whoever answers to see (invariant 20). */
const statements = [`ALTER TABLE request ADD COLUMN folder_name TEXT`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
