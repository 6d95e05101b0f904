import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* A folder's page is counted, weighed and put in the order of its dates or sizes from the index alone. */
const statements = [`CREATE INDEX item_in_folder ON item (folder_id, state, received_on, received_at, bytes)`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
