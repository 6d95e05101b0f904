import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

const statements = [
	// counts are those of the draft until it is carried out, and of what was done from then on
	`CREATE TABLE docket (
		id INTEGER PRIMARY KEY,
		mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
		state TEXT NOT NULL CHECK (state IN ('drafted', 'carrying-out', 'carried-out', 'taking-back', 'taken-back', 'dropped')),
		drafted_at TEXT NOT NULL,
		drafted_by TEXT NOT NULL,
		carried_out_at TEXT,
		carried_out_by TEXT,
		taken_back_at TEXT,
		taken_back_by TEXT,
		messages INTEGER NOT NULL,
		bytes INTEGER NOT NULL,
		progress_item_id INTEGER NOT NULL DEFAULT 0,
		taken_back_messages INTEGER NOT NULL DEFAULT 0
	) STRICT`,
	`CREATE INDEX docket_by_mailbox ON docket (mailbox_id, state, id)`,

	// scope: which items are meant, as JSON (stores/scope.ts)
	`CREATE TABLE docket_line (
		id INTEGER PRIMARY KEY,
		docket_id INTEGER NOT NULL REFERENCES docket (id),
		position INTEGER NOT NULL,
		decision TEXT NOT NULL CHECK (decision IN ('archive', 'restore')),
		scope TEXT NOT NULL,
		messages INTEGER NOT NULL,
		bytes INTEGER NOT NULL,
		folders INTEGER NOT NULL,
		oldest TEXT,
		newest TEXT,
		"left" TEXT NOT NULL,
		UNIQUE (docket_id, position)
	) STRICT`,

	// the items, frozen when carrying out begins: what each was, and what it becomes
	`CREATE TABLE docket_item (
		docket_id INTEGER NOT NULL REFERENCES docket (id),
		item_id INTEGER NOT NULL REFERENCES item (id),
		line_id INTEGER NOT NULL REFERENCES docket_line (id),
		from_state TEXT NOT NULL,
		from_folder_id INTEGER NOT NULL,
		from_origin_folder_id INTEGER,
		from_binned_on TEXT,
		from_docket_id INTEGER,
		to_state TEXT NOT NULL,
		to_folder_id INTEGER NOT NULL,
		to_origin_folder_id INTEGER,
		PRIMARY KEY (docket_id, item_id)
	) STRICT, WITHOUT ROWID`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
