import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/* Contentless: a third of the size; the text of the few hits shown is read again from the raw bytes. rowid = message.id.
   Runs of scripts without blanks are cut into pairs before they come here (core/search/words). Deleting goes by the
   'delete' command with the original text, for which secure-delete is on (invariant 12). */
const statements = [
	`CREATE VIRTUAL TABLE words USING fts5(
		subject, sender, recipients, copied, text, quoted, files,
		content = '', tokenize = 'unicode61 remove_diacritics 2'
	)`,
	`INSERT INTO words (words, rank) VALUES ('secure-delete', 1)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
