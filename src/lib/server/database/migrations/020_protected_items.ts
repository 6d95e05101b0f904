import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* Few items are kept or paused: this index finds the due ones among them without scanning the mailbox. */
const statements = [
	`CREATE INDEX item_kept ON item (mailbox_id) WHERE kept = 1`,
	`CREATE INDEX item_paused ON item (mailbox_id, pause_id) WHERE pause_id IS NOT NULL`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
