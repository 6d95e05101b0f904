import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* When a destroyed message had been deleted; null: it was due, or was destroyed before this column. */
const statements = [`ALTER TABLE certificate_item ADD COLUMN binned_on TEXT`];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
