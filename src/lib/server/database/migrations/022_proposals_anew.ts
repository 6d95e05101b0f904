import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* Earlier proposals ignored HTML and marked words, and could lose text: all are computed again. */
const statements = [`DELETE FROM proposal_item`, `DELETE FROM proposal_run`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
