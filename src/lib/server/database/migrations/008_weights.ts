import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const BAND = `CASE WHEN bytes >= 25000000 THEN 5 WHEN bytes >= 5000000 THEN 4 WHEN bytes >= 1000000 THEN 3
	WHEN bytes >= 100000 THEN 2 WHEN bytes >= 10000 THEN 1 ELSE 0 END`;
const MONTH = `CASE WHEN date_in_doubt = 1 OR received_on IS NULL THEN '' ELSE substr(received_on, 1, 7) END`;
const SUMS = `count(*), sum(bytes), sum(ifnull(seen = 0, 0)) FROM item WHERE state <> 'destroyed'`;

/* One summary for each thing that mail is weighed by; the one by organisation is the sum of its correspondents. */
function summary(name: string, keys: string[]): string {
	return `CREATE TABLE ${name} (
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		state TEXT NOT NULL,
		${keys.join(',\n\t\t')},
		messages INTEGER NOT NULL,
		bytes INTEGER NOT NULL,
		unread INTEGER NOT NULL,
		PRIMARY KEY (mailbox_id, state, ${keys.map((key) => key.split(' ')[0]).join(', ')})
	) STRICT, WITHOUT ROWID`;
}

const statements = [
	`CREATE TABLE list (id INTEGER PRIMARY KEY, identifier TEXT NOT NULL UNIQUE, name TEXT NOT NULL) STRICT`,
	`INSERT INTO list (identifier, name) SELECT DISTINCT list_id, '' FROM message WHERE list_id <> ''`,
	`ALTER TABLE item ADD COLUMN list_id INTEGER REFERENCES list (id)`,
	`UPDATE item SET list_id = list.id FROM message JOIN list ON list.identifier = message.list_id
	 WHERE message.id = item.message_id AND message.list_id <> ''`,

	`DROP TABLE weight_by_month`,
	`DROP TABLE weight_by_organisation`,
	summary('weight_by_month', ['folder_id INTEGER NOT NULL REFERENCES folder (id)', 'month TEXT NOT NULL']),
	`INSERT INTO weight_by_month SELECT mailbox_id, state, folder_id, ${MONTH}, ${SUMS} GROUP BY 1, 2, 3, 4`,
	summary('weight_by_correspondent', ['correspondent_id INTEGER NOT NULL REFERENCES correspondent (id)']),
	`INSERT INTO weight_by_correspondent SELECT mailbox_id, state, correspondent_id, ${SUMS} GROUP BY 1, 2, 3`,
	// 0: from no list
	summary('weight_by_list', ['list_id INTEGER NOT NULL']),
	`INSERT INTO weight_by_list SELECT mailbox_id, state, ifnull(list_id, 0), ${SUMS} GROUP BY 1, 2, 3`,
	summary('weight_by_form', ['size_band INTEGER NOT NULL', 'attachment_kinds INTEGER NOT NULL']),
	`INSERT INTO weight_by_form SELECT mailbox_id, state, ${BAND}, attachment_kinds, ${SUMS} GROUP BY 1, 2, 3, 4`,

	// the largest messages of a mailbox; without the state, so that archiving does not touch it
	`CREATE INDEX item_by_size ON item (mailbox_id, bytes) WHERE bytes >= 100000`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
