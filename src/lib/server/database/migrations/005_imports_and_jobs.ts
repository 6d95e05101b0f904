import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const statements = [
	// path, folder and fingerprint identify an interrupted import; next_*: where it goes on
	`CREATE TABLE import (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		source TEXT NOT NULL,
		path TEXT NOT NULL,
		folder TEXT NOT NULL,
		fingerprint TEXT NOT NULL,
		process INTEGER NOT NULL,
		next_file INTEGER NOT NULL DEFAULT 0,
		next_offset INTEGER NOT NULL DEFAULT 0,
		state TEXT NOT NULL CHECK (state IN ('running', 'done', 'stopped')),
		began_at TEXT NOT NULL,
		ended_at TEXT,
		"read" INTEGER NOT NULL DEFAULT 0,
		added INTEGER NOT NULL DEFAULT 0,
		already INTEGER NOT NULL DEFAULT 0,
		unreadable INTEGER NOT NULL DEFAULT 0,
		bytes INTEGER NOT NULL DEFAULT 0
	) STRICT`,

	// unreadable messages (no item, the bytes kept), and odd ones
	`CREATE TABLE import_oddity (
		id INTEGER PRIMARY KEY,
		import_id INTEGER NOT NULL REFERENCES import (id),
		content_id INTEGER NOT NULL REFERENCES content (id),
		place TEXT NOT NULL,
		reason TEXT NOT NULL
	) STRICT`,
	`CREATE INDEX import_oddity_by_import ON import_oddity (import_id)`,

	`CREATE TABLE job (
		id INTEGER PRIMARY KEY,
		use_case TEXT NOT NULL,
		input TEXT NOT NULL,
		label TEXT NOT NULL,
		who TEXT NOT NULL,
		state TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed', 'stopped')),
		result TEXT,
		error TEXT,
		attempts INTEGER NOT NULL DEFAULT 0,
		began_at TEXT NOT NULL,
		ended_at TEXT,
		noticed_at TEXT
	) STRICT`,
	`CREATE INDEX job_by_state ON job (state, id)`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
