import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* A folder's page is counted, summed and ordered by date or size from this index alone. */
const statements = [`CREATE INDEX item_in_folder ON item (folder_id, state, received_on, received_at, bytes)`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
