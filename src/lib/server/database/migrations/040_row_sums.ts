import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * A sum over each item's and each message's own row, so that a flipped bit in a due date or a subject is found. Triggers
 * keep the sums: no statement that changes a row can forget them. A change adds its difference, so that a row that was
 * damaged before it is changed still differs afterwards.
 *
 * Items have numbers, dates and a few words: a weighted sum differs whenever a single column does, and costs little in
 * statements over many items. Messages have text: row_sum is a CRC-32 (database/functions).
 */

const number = (column: string) => (row: string) => `ifnull(${row}.${column}, -99)`;
const date = (column: string) => (row: string) => `ifnull(CAST(replace(${row}.${column}, '-', '') AS INTEGER), -99)`;
const word =
	(column: string, words: readonly string[]) =>
	(row: string): string =>
		`(CASE ${row}.${column} ${words.map((one, at) => `WHEN '${one}' THEN ${at + 1}`).join(' ')} ELSE ifnull(length(${row}.${column}), -10) - 99 END)`;

type Column = [name: string, value: (row: string) => string];
const numbers = (...names: string[]): Column[] => names.map((name) => [name, number(name)]);

/* Columns that statements change together. */
const GROUPS: Record<string, Column[]> = {
	place: [
		['state', word('state', ['live', 'archived', 'binned', 'destroyed'])],
		['binned_on', date('binned_on')],
		...numbers('folder_id', 'origin_folder_id', 'docket_id')
	],
	due: [
		['due_on', date('due_on')],
		['due_action', word('due_action', ['archive', 'destroy', 'review'])],
		...numbers('class', 'retention_id', 'due_folder_id', 'own_class', 'own_retention_id')
	],
	marks: [
		['answered_on', date('answered_on')],
		...numbers('seen', 'answered', 'flagged', 'draft', 'kept', 'pause_id', 'never_archived', 'for_digest', 'importance')
	],
	mail: [
		['received_on', date('received_on')],
		...numbers('mailbox_id', 'message_id', 'imported_folder_id', 'received_at', 'date_in_doubt', 'bytes'),
		...numbers('attachments', 'attachment_kinds', 'correspondent_id', 'organisation_id', 'list_id', 'mail_kind'),
		...numbers('addressed', 'thread_id', 'reference_set')
	]
};

/* Odd, and different for each column, so that two columns that changed places are found as well. */
const WEIGHTS = new Map(
	Object.values(GROUPS)
		.flat()
		.map(([name], at) => [name, 2_654_435 + 7_368_786 * at + (at % 2)])
);
const sumOf = (columns: readonly Column[], row: string) =>
	columns.map(([name, value]) => `${WEIGHTS.get(name) as number} * ${value(row)}`).join(' + ');
const EVERYTHING = Object.values(GROUPS).flat();

const MESSAGE_COLUMNS = [
	...['content_id', 'message_id', 'reference_ids', 'subject', 'from_name', 'from_address', 'recipients', 'sent_at'],
	...['list_id', 'importance', 'attachments', 'base_subject', 'is_reply', 'to_addresses', 'cc_addresses', 'traits'],
	...['expires_at', 'event_ends_on', 'body_hash', 'text_length', 'reading', 'leave_ways']
];
const messageSum = (row: string) => `row_sum(${MESSAGE_COLUMNS.map((name) => `${row}.${name}`).join(', ')})`;

const statements = [
	`CREATE TABLE item_sum (item_id INTEGER PRIMARY KEY, sum INTEGER NOT NULL) STRICT`,
	`CREATE TABLE message_sum (message_id INTEGER PRIMARY KEY, sum INTEGER NOT NULL) STRICT`,
	`CREATE VIEW item_now AS SELECT id, ${sumOf(EVERYTHING, 'item')} AS sum FROM item`,
	`CREATE VIEW message_now AS SELECT id, ${messageSum('message')} AS sum FROM message`,
	`INSERT INTO item_sum (item_id, sum) SELECT id, sum FROM item_now`,
	`INSERT INTO message_sum (message_id, sum) SELECT id, sum FROM message_now`,
	`CREATE TRIGGER item_sum_added AFTER INSERT ON item BEGIN
		INSERT OR REPLACE INTO item_sum (item_id, sum) VALUES (new.id, ${sumOf(EVERYTHING, 'new')});
	END`,
	`CREATE TRIGGER item_sum_removed AFTER DELETE ON item BEGIN DELETE FROM item_sum WHERE item_id = old.id; END`,
	...Object.entries(GROUPS).map(
		([
			group,
			columns
		]) => `CREATE TRIGGER item_sum_${group} AFTER UPDATE OF ${columns.map(([name]) => name).join(', ')} ON item BEGIN
		UPDATE item_sum SET sum = sum + (${sumOf(columns, 'new')}) - (${sumOf(columns, 'old')}) WHERE item_id = new.id;
	END`
	),
	`CREATE TRIGGER message_sum_added AFTER INSERT ON message BEGIN
		INSERT OR REPLACE INTO message_sum (message_id, sum) VALUES (new.id, ${messageSum('new')});
	END`,
	`CREATE TRIGGER message_sum_removed AFTER DELETE ON message BEGIN DELETE FROM message_sum WHERE message_id = old.id; END`,
	`CREATE TRIGGER message_sum_changed AFTER UPDATE ON message BEGIN
		UPDATE message_sum SET sum = sum + ${messageSum('new')} - ${messageSum('old')} WHERE message_id = new.id;
	END`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
