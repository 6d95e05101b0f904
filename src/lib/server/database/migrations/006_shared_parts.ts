import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * A large attachment is a content of its own, shared by all messages that carry it; the message's content is the rest
 * (core/message/shared-parts). Messages stored before stay whole.
 */
const statements = [
	`CREATE TABLE content_part (
		content_id INTEGER NOT NULL REFERENCES content (id),
		position INTEGER NOT NULL,
		part_id INTEGER NOT NULL REFERENCES content (id),
		start INTEGER NOT NULL,
		line_length INTEGER NOT NULL,
		line_break TEXT NOT NULL CHECK (line_break IN ('', char(10), char(13, 10))),
		PRIMARY KEY (content_id, position)
	) STRICT, WITHOUT ROWID`,
	`CREATE INDEX content_part_by_part ON content_part (part_id)`,
	`CREATE INDEX import_oddity_by_content ON import_oddity (content_id)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
