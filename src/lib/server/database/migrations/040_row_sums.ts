import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * A sum over each item's and each message's own row, so that a flipped bit in a due date or a subject is found.
 *
 * Items have numbers, dates and a few words: a weighted sum differs whenever a single column does, and costs little in
 * statements over many items. What changes an item changes its sum by the difference (database/item-sum), so that a row
 * that was damaged before still differs afterwards. Messages have text, and are seldom changed: triggers keep a CRC-32
 * (row_sum, database/functions) beside them in the same way.
 */

/* A bound number is a floating one to SQLite, and a sum is larger than those are exact. */
const NUMBER = 'ifnull(CAST(? AS INTEGER), -99)';
const DATE = `ifnull(CAST(replace(?, '-', '') AS INTEGER), -99)`;
const word = (...words: string[]) =>
	`CASE ? ${words.map((one, at) => `WHEN '${one}' THEN ${at + 1}`).join(' ')} ELSE -99 END`;

const NUMBERS = [
	...['folder_id', 'origin_folder_id', 'docket_id', 'class', 'retention_id', 'due_folder_id', 'own_class'],
	...['own_retention_id', 'seen', 'answered', 'flagged', 'draft', 'kept', 'pause_id', 'never_archived', 'for_digest'],
	...['importance', 'mailbox_id', 'message_id', 'imported_folder_id', 'received_at', 'date_in_doubt', 'bytes'],
	...['attachments', 'attachment_kinds', 'correspondent_id', 'organisation_id', 'list_id', 'mail_kind', 'addressed'],
	...['thread_id', 'reference_set']
];

/** A column of an item in its sum: a weight, and how its value (`?`) becomes a number. */
export interface SummedColumn {
	weight: number;
	value: string;
}

/* Weights are different, so that columns that changed places are found as well, and small, so that no sum overflows. */
const columns: [name: string, value: string][] = [
	['state', word('live', 'archived', 'binned', 'destroyed')],
	['due_action', word('archive', 'destroy', 'review')],
	...['received_on', 'binned_on', 'answered_on', 'due_on'].map((name): [string, string] => [name, DATE]),
	...NUMBERS.map((name): [string, string] => [name, NUMBER])
];

/** The columns of an item in its sum. */
export const ITEM_SUM: ReadonlyMap<string, SummedColumn> = new Map(
	columns.map(([name, value], at) => [name, { weight: 10_007 + 1_234 * at, value }])
);

const itemSum = (row: string) =>
	[...ITEM_SUM].map(([name, { weight, value }]) => `${weight} * ${value.replace('?', `${row}.${name}`)}`).join(' + ');

const MESSAGE_COLUMNS = [
	...['content_id', 'message_id', 'reference_ids', 'subject', 'from_name', 'from_address', 'recipients', 'sent_at'],
	...['list_id', 'importance', 'attachments', 'base_subject', 'is_reply', 'to_addresses', 'cc_addresses', 'traits'],
	...['expires_at', 'event_ends_on', 'body_hash', 'text_length', 'reading', 'leave_ways']
];
const messageSum = (row: string) => `row_sum(${MESSAGE_COLUMNS.map((name) => `${row}.${name}`).join(', ')})`;

const statements = [
	`ALTER TABLE item ADD COLUMN row_sum INTEGER NOT NULL DEFAULT 0`,
	`CREATE VIEW item_now AS SELECT id, ${itemSum('item')} AS sum FROM item`,
	`UPDATE item SET row_sum = ${itemSum('item')}`,
	`CREATE TRIGGER item_added AFTER INSERT ON item BEGIN UPDATE item SET row_sum = ${itemSum('new')} WHERE id = new.id; END`,
	`CREATE TABLE message_sum (message_id INTEGER PRIMARY KEY, sum INTEGER NOT NULL) STRICT`,
	`CREATE VIEW message_now AS SELECT id, ${messageSum('message')} AS sum FROM message`,
	`INSERT INTO message_sum (message_id, sum) SELECT id, sum FROM message_now`,
	`CREATE TRIGGER message_added AFTER INSERT ON message BEGIN
		INSERT OR REPLACE INTO message_sum (message_id, sum) VALUES (new.id, ${messageSum('new')});
	END`,
	`CREATE TRIGGER message_removed AFTER DELETE ON message BEGIN DELETE FROM message_sum WHERE message_id = old.id; END`,
	`CREATE TRIGGER message_changed AFTER UPDATE ON message BEGIN
		UPDATE message_sum SET sum = sum + ${messageSum('new')} - ${messageSum('old')} WHERE message_id = new.id;
	END`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
