import {
	existsSync,
	mkdirSync,
	readdirSync,
	readFileSync,
	renameSync,
	rmSync,
	truncateSync,
	writeFileSync
} from 'node:fs';
import path from 'node:path';
import BetterSqlite3 from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { linkFile } from '../database/copy.ts';
import { readMark } from '../database/data-folder.ts';
import { holdDataFolder } from '../database/server-lock.ts';
import { databaseFile } from '../database/open.ts';
import { change } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { largeOffice, statesOf } from '../testing/large-office.ts';
import { letter, mboxFile, temporaryFolder } from '../testing/office.ts';
import { opened } from '../testing/small-office.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { prepareDataFolder, openContext } from './open-context.ts';
import { verify } from '../backup/verify-archive.ts';

afterAll(closeParsePool);

/* A data folder with 200 messages, closed. */
async function folderWithMail(): Promise<string> {
	const { dataFolder, db } = await largeOffice({ Inbox: 200 });
	await db.destroy();
	return dataFolder;
}

describe('a data folder (invariant 17)', () => {
	it.each<[string, (folder: string) => Promise<void> | void, RegExp]>([
		['is missing', (folder) => rmSync(databaseFile(folder)), /is missing\. No new archive is begun/],
		[
			'is missing with its mark, while older data lie there',
			(folder) => {
				rmSync(path.join(folder, 'kovrel-data.json'));
				renameSync(databaseFile(folder), `${databaseFile(folder)}.before-20260101T000000Z`);
			},
			/is missing/
		],
		['is empty', (folder) => truncateSync(databaseFile(folder), 0), /is empty\. No new archive is begun/],
		[
			'is empty and has no mark',
			(folder) => {
				rmSync(path.join(folder, 'kovrel-data.json'));
				truncateSync(databaseFile(folder), 0);
			},
			/is empty/
		],
		[
			'is some other database',
			(folder) => {
				rmSync(databaseFile(folder));
				const other = new BetterSqlite3(databaseFile(folder));
				other.exec('CREATE TABLE mailbox (a)');
				other.close();
			},
			/is no data file of Kovrel/
		],
		[
			'was made by a newer Kovrel',
			(folder) => {
				const other = new BetterSqlite3(databaseFile(folder));
				other.exec(`INSERT INTO knex_migrations (name, batch) VALUES ('999_of_next_year', 9)`);
				other.close();
			},
			/made by a newer Kovrel \(it has "999_of_next_year"\)/
		],
		[
			'is that of another archive',
			async (folder) => {
				renameSync(databaseFile(await folderWithMail()), databaseFile(folder));
			},
			/belongs to another archive/
		],
		[
			'has a mark that cannot be read',
			(folder) => writeFileSync(path.join(folder, 'kovrel-data.json'), '{'),
			/mark of this folder cannot be read/
		]
	])('whose data file %s is not taken for a new one, also not at a first start', async (_what, spoil, why) => {
		const folder = await folderWithMail();
		await spoil(folder);
		const before = readdirSync(folder).sort();
		for (const isFirst of [false, true]) await expect(prepareDataFolder(folder, { isFirst })).rejects.toThrow(why);
		expect(
			readdirSync(folder)
				.filter((name) => !/-(wal|shm)$/.test(name))
				.sort()
		).toEqual(before.filter((name) => !/-(wal|shm)$/.test(name)));
	});

	it('has one server, until that is ended; the terminal works beside it', async () => {
		const folder = await folderWithMail();
		const release = holdDataFolder(folder, new Date('2026-11-29T10:00:00Z'));
		expect(() => holdDataFolder(folder, new Date())).toThrow(
			/Another Kovrel server works in .* \(process \d+ on .+, since 2026-11-29T10:00:00.000Z\)/
		);
		expect(await prepareDataFolder(folder)).toEqual({ isNew: false, canWrite: true });
		release();
		holdDataFolder(folder, new Date())();
	});

	it('is made by a first start alone, and by no other', async () => {
		for (const folder of [temporaryFolder(), path.join(temporaryFolder(), 'new')]) {
			await expect(prepareDataFolder(folder)).rejects.toThrow('There is no archive in');
			expect(existsSync(folder) ? readdirSync(folder) : []).toEqual([]);
			expect(await prepareDataFolder(folder, { isFirst: true })).toEqual({ isNew: true, canWrite: true });
			expect(await prepareDataFolder(folder)).toEqual({ isNew: false, canWrite: true });
			expect(readMark(folder)).toMatch(/^[0-9a-f-]{36}$/);
			const { db } = await openContext(folder);
			expect(await listLedger(db)).toMatchObject([
				{ number: 1, action: 'archive-begun', details: { identity: readMark(folder) } }
			]);
			await db.destroy();
		}
	});

	it('of before there were marks gets one, and keeps its mail', async () => {
		const folder = await folderWithMail();
		rmSync(path.join(folder, 'kovrel-data.json'));
		await opened(folder, (context) => change(context.db, sql`DELETE FROM setting WHERE key = 'data-id'`));
		await prepareDataFolder(folder);
		expect(readMark(folder)).toBeDefined();
		expect(await opened(folder, statesOf)).toEqual({ live: 200 });
	});

	it('is made where files have no second names, whole, and never over one that is there', () => {
		const folder = temporaryFolder();
		const [file, again] = [path.join(folder, 'made'), path.join(folder, 'kept')];
		writeFileSync(file, 'words '.repeat(100_000));
		const noLinks = () => {
			throw Object.assign(new Error('operation not permitted'), { code: 'EPERM' });
		};
		expect(linkFile(file, again, noLinks)).toBe(true);
		expect(readFileSync(again).equals(readFileSync(file))).toBe(true);
		writeFileSync(file, 'others');
		for (const link of [noLinks, undefined]) expect(linkFile(file, again, link)).toBe(false);
		expect(readFileSync(again, 'utf8')).toHaveLength(600_000);
		expect(readdirSync(folder).sort()).toEqual(['kept', 'made']);
	});

	it('that lies in a folder with other things is made all the same', async () => {
		const folder = temporaryFolder();
		mkdirSync(path.join(folder, 'lost+found'));
		expect(await prepareDataFolder(folder, { isFirst: true })).toEqual({ isNew: true, canWrite: true });
	});
});

describe('damaged bytes that come in again (invariant 18)', () => {
	const PDF = Buffer.from('scan of a berth permit '.repeat(4_000)).toString('base64').replace(/.{76}/g, '$&\n');
	const withFile = (n: number) =>
		letter(`Permit ${n}`, 'Mon, 02 Mar 2020 10:00:00 +0000').replace(
			/\n\n[\s\S]*$/,
			`\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\n\nPermit ${n}\n--b\nContent-Type: application/pdf; name="p.pdf"\nContent-Disposition: attachment; filename="p.pdf"\nContent-Transfer-Encoding: base64\n\n${PDF}\n--b--\n`
		);

	it.each([
		['into the same folder', undefined],
		['into another mailbox', 'Other']
	])('are healed, %s: texts, and the file that they share', async (_where, mailbox) => {
		const context = await largeOffice({});
		const path = mboxFile([
			...Array.from({ length: 250 }, (_, n) => withFile(n)),
			...Array.from({ length: 250 }, (_, n) => letter(`Plain ${n}`, 'Mon, 02 Mar 2020 10:00:00 +0000', `Words ${n}`))
		]);
		await importMailbox(context, { path, mailbox: 'Office' });
		await change(
			context.db,
			sql`UPDATE content SET data = zeroblob(length(data)) WHERE id % 2 = 0 OR id IN (SELECT part_id FROM content_part)`
		);
		expect((await verify(context)).damaged.length).toBeGreaterThan(250);
		const again = await importMailbox(context, { path, mailbox: mailbox ?? 'Office' });
		expect(again).toMatchObject(mailbox ? { added: 500, already: 0 } : { added: 0, already: 500 });
		expect(await verify(context)).toMatchObject({ ok: true, damaged: [], messages: 500 });
	});
});
