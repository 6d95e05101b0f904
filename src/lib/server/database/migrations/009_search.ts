import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Names are searched by any part of them, which an index of words cannot do. Contentless like \`words\`, with the
 * same way of deleting. rowid = message.id; only messages with files are in it.
 */
const statements = [
	`CREATE VIRTUAL TABLE file_names USING fts5(
		names, content = '', detail = full, tokenize = 'trigram case_sensitive 0 remove_diacritics 1'
	)`,
	`INSERT INTO file_names (file_names, rank) VALUES ('secure-delete', 1)`,
	// words of a transaction are collected in memory up to this size, and written at once
	`INSERT INTO words (words, rank) VALUES ('hashsize', 8388608)`,
	`INSERT INTO file_names (rowid, names)
	 SELECT id, (SELECT group_concat(value ->> 'name', char(10)) FROM json_each(message.attachments))
	 FROM message WHERE attachments <> '[]'`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
