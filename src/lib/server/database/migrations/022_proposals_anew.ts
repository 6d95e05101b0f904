import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* Some of what was proposed before would lose text, by HTML or marked words that were not looked at: it is looked for anew. */
const statements = [`DELETE FROM proposal_item`, `DELETE FROM proposal_run`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
