import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Single messages for the next digest, beside those of lists; what a sent mail says is kept in its copy alone; and a folder
 * is counted by what is unread, by kind and by importance from its index.
 */
const statements = [
	`ALTER TABLE item ADD COLUMN for_digest INTEGER NOT NULL DEFAULT 0 CHECK (for_digest IN (0, 1))`,
	`CREATE INDEX item_for_digest ON item (mailbox_id) WHERE for_digest = 1`,
	`ALTER TABLE item ADD COLUMN importance INTEGER NOT NULL DEFAULT 0 CHECK (importance IN (-1, 0, 1))`,
	`UPDATE item SET importance = message.importance FROM message WHERE message.id = item.message_id AND message.importance <> 0`,
	`DROP INDEX item_in_folder`,
	`CREATE INDEX item_in_folder ON item (folder_id, state, received_on, received_at, bytes, message_id, attachments, flagged, seen, mail_kind, importance)`,
	`DROP INDEX message_sort_keys`,
	`CREATE INDEX message_sort_keys ON message (id, base_subject, from_address)`,
	`ALTER TABLE outgoing DROP COLUMN original_content_id`,
	`UPDATE outgoing SET subject = '', to_addresses = '', cc_addresses = '' WHERE sent_item_id IS NOT NULL`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
