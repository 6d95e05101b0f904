import { layoutBy } from '../../../core/archive/layout.ts';
import type { Knex } from 'knex';
import { describe, expect, it } from 'vitest';
import { change, row, rows } from './rows.ts';
import { raw, sql } from './sql.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { temporaryFolder } from '../testing/office.ts';
import { migrationSource } from './migrations/index.ts';
import { migrate, openDatabase } from './open.ts';

describe('migrations', () => {
	it('keep what a data folder of the first release holds', async () => {
		const db = openDatabase(temporaryFolder());
		const names = (await migrationSource.getMigrations([])).slice(0, 5);
		const first: Knex.MigrationSource<string> = { ...migrationSource, getMigrations: async () => names };
		await db.migrate.latest({ migrationSource: first });
		const statements = [
			`INSERT INTO mailbox (id, name, name_key, quota_bytes, made_at) VALUES (1, 'Office', 'office', 5000, '')`,
			`INSERT INTO folder (id, mailbox_id, tree, name, name_key, path) VALUES (1, 1, 'mailbox', 'Inbox', 'inbox', 'Inbox')`,
			`INSERT INTO organisation VALUES (1, 'x.example')`,
			`INSERT INTO correspondent VALUES (1, 'a@x.example', 'A', 1)`,
			...[1, 2, 3].flatMap((id) => [
				`INSERT INTO content VALUES (${id}, randomblob(32), 10, 10, 'identity', x'00')`,
				`INSERT INTO message VALUES (${id}, ${id}, '', '[]', '', '', 'a@x.example', '', NULL, '${id < 3 ? 'weekly.example' : ''}', 0, '${id === 1 ? '[{"name":"Ramp plan.pdf"}]' : '[]'}')`,
				`INSERT INTO item (id, mailbox_id, message_id, state, folder_id, imported_folder_id, received_on, date_in_doubt, bytes, seen, correspondent_id, organisation_id)
				 VALUES (${id}, 1, ${id}, 'live', 1, 1, '2020-0${id}-01', 0, ${id * 200_000}, ${id % 2}, 1, 1)`
			]),
			`INSERT INTO docket (id, mailbox_id, state, drafted_at, drafted_by, messages, bytes) VALUES (1, 1, 'drafted', '', '', 1, 1)`,
			`INSERT INTO docket_line VALUES (7, 1, 1, 'archive', '{}', 1, 1, 1, NULL, NULL, '[]')`
		];
		for (const statement of statements) await change(db, raw(statement));
		await migrate(db);
		expect(await compareWeights(db)).toBe(0);
		expect(
			await rows(db, sql`SELECT identifier, count(*) AS n FROM item JOIN list ON list.id = list_id GROUP BY 1`)
		).toEqual([{ identifier: 'weekly.example', n: 2 }]);
		expect(await rows(db, sql`SELECT rowid FROM file_names WHERE file_names MATCH '"mp pl"'`)).toEqual([{ rowid: 1 }]);
		expect(await row(db, sql`SELECT id, decision FROM docket_line`)).toEqual({ id: 7, decision: 'archive' });
		expect(await row(db, sql`SELECT quota_bytes, archive_levels, archives FROM mailbox`)).toEqual({
			quota_bytes: 5000,
			archive_levels: '["folder"]',
			archives: 1
		});
		expect(await rows(db, sql`PRAGMA foreign_key_check`)).toEqual([]);
		await db.destroy();
	});

	it.each([
		['keep', 'none'],
		['keep', 'year'],
		['keep', 'month'],
		['keep', 'financial-year'],
		['flat', 'none'],
		['flat', 'year'],
		['flat', 'month'],
		['flat', 'financial-year']
	] as const)('make the same layout of %s and %s as the terminal does', async (paths, divide) => {
		const db = openDatabase(temporaryFolder());
		const names = (await migrationSource.getMigrations([])).slice(0, 27);
		await db.migrate.latest({ migrationSource: { ...migrationSource, getMigrations: async () => names } });
		await change(
			db,
			sql`INSERT INTO mailbox (id, name, name_key, made_at, archive_paths, archive_divide) VALUES (1, 'Office', 'office', '', ${paths}, ${divide})`
		);
		await migrate(db);
		const stored = await row<{ archive_levels: string }>(db, sql`SELECT archive_levels FROM mailbox`);
		expect(JSON.parse(stored?.archive_levels ?? '')).toEqual(layoutBy(paths, divide));
		await db.destroy();
	});

	it('keep the quota and the periods of the classes that there were', async () => {
		const db = openDatabase(temporaryFolder());
		const names = (await migrationSource.getMigrations([])).slice(0, 29);
		await db.migrate.latest({ migrationSource: { ...migrationSource, getMigrations: async () => names } });
		for (const statement of [
			`INSERT INTO mailbox (id, name, name_key, made_at, working_quota_bytes) VALUES (1, 'Office', 'office', '', 5000), (2, 'Crew', 'crew', '', NULL)`,
			`INSERT INTO retention (id, terms) VALUES (9, 'received destroy P90D -')`,
			`INSERT INTO class_retention VALUES (1, 9)`
		])
			await change(db, raw(statement));
		await migrate(db);
		expect(await rows(db, sql`SELECT word, letter, is_protected AS p, retention_id AS r FROM record_class`)).toEqual([
			{ word: 'transitory', letter: 'T', p: 0, r: 9 },
			{ word: 'working', letter: 'W', p: 0, r: null },
			{ word: 'record', letter: 'R', p: 1, r: null }
		]);
		expect(await rows(db, sql`SELECT * FROM class_quota`)).toEqual([{ mailbox_id: 1, class: 2, bytes: 5000 }]);
		await db.destroy();
	});

	it('leave nothing proposed that was found by what would lose text', async () => {
		const db = openDatabase(temporaryFolder());
		const names = (await migrationSource.getMigrations([])).slice(0, 21);
		await db.migrate.latest({ migrationSource: { ...migrationSource, getMigrations: async () => names } });
		for (let item = 1; item <= 300; item++)
			await change(db, sql`INSERT INTO proposal_item VALUES (1, ${'thanks'}, ${item}, NULL, 'one line of thanks')`);
		await change(db, sql`INSERT INTO proposal_run VALUES (1, '2026-11-01T00:00:00Z')`);
		await migrate(db);
		expect(await rows(db, sql`SELECT mailbox_id FROM proposal_item UNION SELECT mailbox_id FROM proposal_run`)).toEqual(
			[]
		);
		await db.destroy();
	});
});
