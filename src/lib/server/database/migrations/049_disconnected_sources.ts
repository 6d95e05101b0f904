import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* A mailbox that is disconnected keeps what is known of its messages there, to go on from when it is connected again. */
const statements = [`ALTER TABLE source ADD COLUMN disconnected_at TEXT`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
