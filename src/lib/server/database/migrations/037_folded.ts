import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* Single messages for the next digest, beside those of lists; and what a sent mail says is kept in its copy alone. */
const statements = [
	`ALTER TABLE item ADD COLUMN for_digest INTEGER NOT NULL DEFAULT 0 CHECK (for_digest IN (0, 1))`,
	`CREATE INDEX item_for_digest ON item (mailbox_id) WHERE for_digest = 1`,
	`ALTER TABLE outgoing DROP COLUMN original_content_id`,
	`UPDATE outgoing SET subject = '', to_addresses = '', cc_addresses = '' WHERE sent_item_id IS NOT NULL`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
