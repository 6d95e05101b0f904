import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { networkDrive } from '../database/drives.ts';
import { openDatabase } from '../database/open.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { change, row } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { damageRows } from '../testing/damage.ts';
import { largeOffice } from '../testing/large-office.ts';
import { temporaryFolder } from '../testing/office.ts';
import { destroy, smallOffice } from '../testing/small-office.ts';
import { backUp, backupsIn, backupStanding, checkBackup, setBackupFolder } from './back-up.ts';
import type { Context } from '../context/context.ts';
import { useCase } from '../process/use-cases.ts';
import { runNight } from '../process/night.ts';

describe('a backup', () => {
	it('shows one moment, whatever is written meanwhile, and has its name only once it is checked', async () => {
		const context = await smallOffice();
		const out = path.join(temporaryFolder(), 'new', 'folder');
		const seen: string[] = [];
		let written = 0;
		const busy: Context = {
			...context,
			report: () => {
				seen.push(...readdirSync(out));
				written++;
				// another connection, as in another thread
				const other = openDatabase(context.dataFolder);
				void other.raw(`UPDATE mailbox SET name = ?`, [`Renamed ${written}`]).finally(() => void other.destroy());
			}
		};
		const backup = await backUp(busy, { out });
		expect(written).toBeGreaterThan(0);
		expect(seen.every((name) => name.includes('.unfinished'))).toBe(true);
		expect(readdirSync(out).sort()).toEqual([path.basename(backup.file), `${path.basename(backup.file)}.json`]);
		expect(backup).toMatchObject({ messages: 4, items: 4, madeAt: '2026-11-25T12:00:00.000Z' });
		const bytes = readFileSync(backup.file);
		expect(createHash('sha256').update(bytes).digest('hex')).toBe(backup.sha256);
		expect(JSON.parse(readFileSync(`${backup.file}.json`, 'utf8'))).toMatchObject({
			sha256: backup.sha256,
			messages: 4
		});
		expect(statSync(backup.file).mode & 0o077).toBe(0);
		const copy = openDatabase(out, { file: backup.file, readonly: true });
		expect(await row(copy, sql`SELECT name FROM mailbox`)).toEqual({ name: 'Office' });
		await copy.destroy();
		expect((await listLedger(context.db))[0]).toMatchObject({
			action: 'backed-up',
			details: { sha256: backup.sha256 }
		});
	});

	it('writes over no other, also where two begin in the same second', async () => {
		const context = await smallOffice();
		const out = temporaryFolder();
		const together = await Promise.all([backUp(context, { out }), backUp(context, { out })]);
		const last = await backUp(context, { out });
		expect(backupsIn(out)).toHaveLength(3);
		expect(backupsIn(out)[0]?.file).toBe(last.file);
		for (const { file, sha256 } of [...together, last])
			expect(createHash('sha256').update(readFileSync(file)).digest('hex')).toBe(sha256);
	});

	it('is refused in the data folder, and leaves nothing where it is stopped', async () => {
		const context = await smallOffice();
		for (const out of [context.dataFolder, path.join(context.dataFolder, 'backups')])
			await expect(backUp(context, { out })).rejects.toThrow('lost together with it');
		// it would lie wherever Kovrel was started
		await expect(backUp(context, { out: 'backups' })).rejects.toThrow('whole path');
		const out = temporaryFolder();
		await expect(backUp({ ...context, signal: AbortSignal.abort() }, { out })).rejects.toThrow('was stopped');
		expect(readdirSync(out)).toEqual([]);
		const file = path.join(out, 'file');
		writeFileSync(file, '');
		await expect(backUp(context, { out: path.join(file, 'below') })).rejects.toThrow('cannot be made');
	});

	it.each([
		['no file', () => path.join(temporaryFolder(), 'none'), 'There is no file'],
		[
			'no database',
			() => {
				const file = path.join(temporaryFolder(), 'x.sqlite');
				writeFileSync(file, 'words '.repeat(5_000));
				return file;
			},
			'cannot be opened'
		]
	])('that is %s is told', async (_, made, why) => {
		await expect(checkBackup(made())).rejects.toThrow(why);
	});

	it('whose bytes or ledger were changed is told', async () => {
		const context = await smallOffice();
		const backup = await backUp(context, { out: temporaryFolder() });
		const changed = path.join(temporaryFolder(), 'changed.sqlite');
		const bytes = readFileSync(backup.file);
		bytes.fill(0xff, 4 * 16_384, 7 * 16_384);
		writeFileSync(changed, bytes);
		expect((await checkBackup(changed)).damage.join()).toMatch(/btreeInitPage.*the bytes of 4 contents/s);
		const forged = path.join(temporaryFolder(), 'forged.sqlite');
		writeFileSync(forged, readFileSync(backup.file));
		const db = openDatabase(path.dirname(forged), { file: forged });
		await change(db, sql`DROP TRIGGER ledger_is_not_changed`);
		await change(db, sql`UPDATE ledger SET who = 'somebody else' WHERE number = 2`);
		await db.raw('PRAGMA wal_checkpoint(TRUNCATE)');
		await db.destroy();
		expect((await checkBackup(forged)).damage).toEqual(['its ledger is broken at line 2']);
	});

	it('that lacks mail which the one before had asks a person, and is compared with that one until it is answered', async () => {
		const context = await largeOffice({ Inbox: 20 });
		const out = temporaryFolder();
		const at = (minute: number): Context => ({ ...context, now: () => new Date(Date.UTC(2026, 10, 25, 13, minute)) });
		const standing = async () => (await backupStanding(context)).last?.lacks;
		// a backup that was cut off long ago, and one that another process makes now
		const [old, young] = [
			'kovrel-20260101T000000Z.sqlite.unfinished',
			'kovrel-20261125T125900Z.sqlite.unfinished'
		] as const;
		for (const name of [old, young]) writeFileSync(path.join(out, name), 'x');
		utimesSync(path.join(out, old), 0, 0);
		const { file } = await backUp(at(0), { out });
		expect(readdirSync(out).filter((name) => name.includes('unfinished'))).toEqual([young]);
		expect(await standing()).toBeUndefined();
		for (const subject of ['Inbox 3', 'Inbox 4']) await destroy(at(1), subject);
		await backUp(at(2), { out, isNightly: true });
		expect(await standing()).toBeUndefined(); // 2 have a certificate
		damageRows(context.dataFolder, 'DELETE FROM item WHERE id IN (11, 12, 13)');
		await backUp(at(3), { out, isNightly: true });
		expect(await standing()).toMatchObject({ items: 3, destroyed: 0, itemsBefore: 18 });
		expect((await backupStanding(context)).isWanted).toBe(true);
		await backUp(at(4), { out, isNightly: true });
		expect(await standing()).toMatchObject({ items: 3, since: '2026-11-25T13:02:00.000Z' });
		expect(file).toContain(out);
		const { run } = useCase('confirmBackup');
		await (run as (within: Context) => Promise<void>)(context);
		expect(await standing()).toBeUndefined();
		await backUp(at(5), { out, isNightly: true });
		expect(await standing()).toBeUndefined();
		await expect((run as (within: Context) => Promise<void>)(context)).rejects.toThrow('lacks nothing');
	});

	it('is asked for after a week, wanted by night where a folder is set, and named where it holds what was destroyed since', async () => {
		const context = await smallOffice();
		const on = (day: string): Context => ({ ...context, now: () => new Date(`${day}T12:00:00Z`) });
		expect(await backupStanding(context)).toMatchObject({ isWanted: true, last: undefined });
		const followed: unknown[] = [];
		const night = { ...context, follow: async (_db: unknown, next: unknown) => void followed.push(next) };
		await runNight(night);
		expect(followed).toEqual([]);
		const folder = temporaryFolder();
		await setBackupFolder(context, { folder });
		await expect(setBackupFolder(context, { folder: context.dataFolder })).rejects.toThrow('lost together');
		await expect(setBackupFolder(context, { folder: 'backups' })).rejects.toThrow('whole path');
		await runNight(night);
		expect(followed).toMatchObject([{ useCase: 'backUp', input: { out: folder } }]);
		await backUp(on('2026-11-25'), { out: folder });
		expect(await backupStanding(on('2026-12-02'))).toMatchObject({
			isWanted: false,
			backups: [{ holdsDestroyed: false }]
		});
		expect(await backupStanding(on('2026-12-03'))).toMatchObject({ isWanted: true });
		await destroy(on('2026-11-26'), 'Bravo');
		await backUp(on('2026-11-27'), { out: folder });
		expect((await backupStanding(context)).backups.map(({ holdsDestroyed }) => holdsDestroyed)).toEqual([false, true]);
	});
});

describe('a network drive', () => {
	// magic numbers of linux/magic.h
	it.each([
		['NFS', 0x6969, 'NFS'],
		['CIFS, as a negative number', 0xff534d42 | 0, 'CIFS'],
		['SMB2', 0xfe534d42, 'SMB2'],
		['ext4', 0xef53, undefined],
		['XFS', 0x58465342, undefined],
		['tmpfs', 0x01021994, undefined],
		['overlay', 0x794c7630, undefined]
	])('%s is told', (_, type, by) => expect(networkDrive('/', () => type)).toBe(by));

	it('is none where nobody knows', () => {
		expect(
			networkDrive('/', () => {
				throw new Error('no such call');
			})
		).toBeUndefined();
		const folder = path.join(temporaryFolder(), 'x');
		mkdirSync(folder);
		expect(networkDrive(folder)).toBeUndefined();
	});
});
