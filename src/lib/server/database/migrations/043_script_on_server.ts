import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* Which standing decisions the script says that was put on the server of a live mailbox; NULL: none was put. */
const statements = [`ALTER TABLE source ADD COLUMN script_says TEXT`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
