import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const BAND = `CASE WHEN bytes >= 25000000 THEN 5 WHEN bytes >= 5000000 THEN 4 WHEN bytes >= 1000000 THEN 3 WHEN bytes >= 100000 THEN 2 WHEN bytes >= 10000 THEN 1 ELSE 0 END`;

/*
 * The lots of all live mail by thread, kind of mail, kind of attachment and time unread asked for every row of every message:
 * their sums and dates stand in a summary or an index now.
 */
const statements = [
	`DROP TABLE weight_by_form`,
	`CREATE TABLE weight_by_form (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	state TEXT NOT NULL,
	size_band INTEGER NOT NULL,
	attachment_kinds INTEGER NOT NULL,
	mail_kind INTEGER NOT NULL,
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	unread INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, state, size_band, attachment_kinds, mail_kind)
	) STRICT, WITHOUT ROWID`,
	`INSERT INTO weight_by_form SELECT mailbox_id, state, ${BAND}, attachment_kinds, mail_kind, count(*), sum(bytes),
		sum(ifnull(seen = 0, 0)) FROM item WHERE state <> 'destroyed' GROUP BY 1, 2, 3, 4, 5`,
	`DROP INDEX item_by_thread`,
	`CREATE INDEX item_by_thread ON item (thread_id, mailbox_id, state, bytes, seen)`,
	`DROP INDEX item_by_date`,
	`CREATE INDEX item_by_date ON item (mailbox_id, state, received_on, folder_id, date_in_doubt, bytes, kept, mail_kind, attachment_kinds)`,
	`DROP INDEX item_by_organisation`,
	`CREATE INDEX item_by_organisation ON item (mailbox_id, organisation_id, state, received_on, bytes, seen, answered_on, date_in_doubt, correspondent_id)`,
	`CREATE INDEX item_unread ON item (mailbox_id, state, received_on, date_in_doubt, bytes) WHERE seen = 0`,
	`DROP INDEX item_answered`,
	`CREATE INDEX item_answered ON item (mailbox_id, organisation_id, state, answered_on, correspondent_id, list_id, folder_id, received_on, date_in_doubt, bytes, seen, mail_kind, attachment_kinds)
		WHERE answered_on IS NOT NULL`,
	`ANALYZE item`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
