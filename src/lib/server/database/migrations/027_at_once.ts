import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* The number of messages up to which a person's decisions are carried out at once; null: the usual one. */
const statements = [`ALTER TABLE person ADD COLUMN at_once INTEGER`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
