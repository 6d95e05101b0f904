import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { networkDrive } from '../database/drives.ts';
import { databaseFile, openDatabase } from '../database/open.ts';
import { listLedger } from '../stores/ledger.ts';
import { change, row } from '../stores/rows.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { backUp, backupStanding, checkBackup, setBackupFolder } from './back-up.ts';
import { prepareEmptying } from './bin.ts';
import { carryOut } from './carry-out.ts';
import type { Context } from './context.ts';
import { find } from './find.ts';
import { placeHold } from './holds.ts';
import { importMailbox } from './import-mailbox.ts';
import { runNight } from './night.ts';
import { administratorNamed } from '../../../core/access/roles.ts';
import { openContext } from './open-context.ts';
import { prepareDocket } from './prepare-docket.ts';
import { readRaw } from './read-message.ts';
import { comeIn, linkForFirst, signIn, whoIs } from './sign-in.ts';
import { restoreBackup } from './restore-backup.ts';
import { verifyArchive } from './verify-archive.ts';

const DATE = 'Fri, 31 May 2019 10:00:00 +0000';
const SUBJECTS = ['Alpha', 'Bravo', 'Charlie', 'Delta'];
const raw = (subject: string) => letter(subject, DATE, `The words of ${subject}: zanzibar.`);

async function office(): Promise<Context> {
	const context = await openOffice();
	await importMailbox(context, { path: mboxFile(SUBJECTS.map(raw)), mailbox: 'Office' });
	return context;
}

const idOf = async ({ db }: Context, subject: string) =>
	(
		await row<{ id: number }>(
			db,
			`SELECT item.id FROM item JOIN message ON message.id = item.message_id WHERE subject = ?`,
			[subject]
		)
	)?.id as number;

async function destroy(context: Context, subject: string): Promise<void> {
	const scope = { kind: 'items' as const, ids: [await idOf(context, subject)] };
	const bin = await prepareDocket(context, { mailboxId: 1, lines: [{ decision: 'delete', options: {}, scope }] });
	await carryOut(context, { id: bin.id });
	const empty = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
	await carryOut(context, { id: empty.id });
}

async function opened<T>(dataFolder: string, work: (context: Context) => Promise<T>): Promise<T> {
	const context = await openContext(dataFolder, { actor: administratorNamed('tester') });
	try {
		return await work(context);
	} finally {
		await context.db.destroy();
	}
}

describe('a backup', () => {
	it('shows one moment, whatever is written meanwhile, and has its name only once it is checked', async () => {
		const context = await office();
		const out = path.join(temporaryFolder(), 'new', 'folder');
		const seen: string[] = [];
		let written = 0;
		const busy: Context = {
			...context,
			report: () => {
				seen.push(...readdirSync(out));
				written++;
				// another connection, as another thread has it
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
		expect(await row(copy, `SELECT name FROM mailbox`)).toEqual({ name: 'Office' });
		await copy.destroy();
		expect((await listLedger(context.db))[0]).toMatchObject({
			action: 'backed-up',
			details: { sha256: backup.sha256 }
		});
	});

	it('is refused in the data folder, and leaves nothing where it is stopped', async () => {
		const context = await office();
		await expect(backUp(context, { out: context.dataFolder })).rejects.toThrow('lost together with it');
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
		const context = await office();
		const backup = await backUp(context, { out: temporaryFolder() });
		const changed = path.join(temporaryFolder(), 'changed.sqlite');
		const bytes = readFileSync(backup.file);
		bytes.fill(0xff, 3 * 16_384, 6 * 16_384);
		writeFileSync(changed, bytes);
		await expect(checkBackup(changed)).rejects.toThrow('is no whole backup');
		const forged = path.join(temporaryFolder(), 'forged.sqlite');
		writeFileSync(forged, readFileSync(backup.file));
		const db = openDatabase(path.dirname(forged), { file: forged });
		await change(db, `DROP TRIGGER ledger_is_not_changed`);
		await change(db, `UPDATE ledger SET who = 'somebody else' WHERE number = 2`);
		await db.raw('PRAGMA wal_checkpoint(TRUNCATE)');
		await db.destroy();
		await expect(checkBackup(forged)).rejects.toThrow('ledger is broken at line 2');
	});

	it('is asked for after a week, wanted by night where a folder is set, and named where it holds what was destroyed since', async () => {
		const context = await office();
		const on = (day: string): Context => ({ ...context, now: () => new Date(`${day}T12:00:00Z`) });
		expect(await backupStanding(context)).toMatchObject({ isWanted: true, last: undefined });
		expect((await runNight(context)).backupTo).toBeUndefined();
		const folder = temporaryFolder();
		await setBackupFolder(context, { folder });
		await expect(setBackupFolder(context, { folder: context.dataFolder })).rejects.toThrow('lost together');
		expect((await runNight(context)).backupTo).toBe(folder);
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

describe('restoring a backup', () => {
	it('brings everything back on an empty machine, byte by byte, to be searched', async () => {
		const context = await office();
		const from = { device: 'a browser', address: '192.0.2.1' };
		const link = (await linkForFirst(context)) as string;
		const password = 'four ferries to Torsay';
		const { token } = await comeIn(context, { token: link, name: 'Ylva', address: 'y', password, from });
		const { file } = await backUp(context, { out: temporaryFolder() });
		const dataFolder = path.join(temporaryFolder(), 'empty', 'machine');
		expect(await restoreBackup({ file, dataFolder, replace: false })).toMatchObject({
			messages: 4,
			destroyedAgain: 0,
			former: undefined
		});
		await opened(dataFolder, async (restored) => {
			for (const subject of SUBJECTS) {
				const { hits } = await find(restored, { query: `zanzibar ${subject}`, limit: 9 });
				expect(hits).toHaveLength(1);
				const read = await readRaw(restored, { id: hits[0]?.id as number });
				expect(Buffer.from(read.content).toString('latin1')).toBe(raw(subject));
			}
			expect(await verifyArchive(restored)).toMatchObject({ ok: true, messages: 4 });
			expect((await listLedger(restored.db))[0]).toMatchObject({ action: 'backup-restored' });
			// people are back as well, and sign in again
			expect(await whoIs(restored, { token })).toBeUndefined();
			expect((await signIn(restored, { address: 'y', password, from })).actor.name).toBe('Ylva');
		});
		expect(readdirSync(dataFolder)).not.toContain('.restoring');
	});

	it('destroys again what was destroyed since, as the data that are put aside know, also what is held by then', async () => {
		const context = await office();
		await placeHold(context, { name: 'Old', because: 'x', from: 'y', query: 'subject:charlie' });
		const { file } = await backUp(context, { out: temporaryFolder() });
		await change(context.db, `DELETE FROM hold_item`);
		await change(context.db, `UPDATE hold SET released_on = '2026-11-25'`);
		await destroy(context, 'Bravo');
		await destroy(context, 'Charlie');
		const { dataFolder } = context;
		await expect(restoreBackup({ file, dataFolder, replace: false })).rejects.toThrow('There are data in');
		await expect(restoreBackup({ file, dataFolder, replace: true })).rejects.toThrow('Something works on the data');
		await context.db.destroy();
		const done = await restoreBackup({ file, dataFolder, replace: true });
		expect(done).toMatchObject({ destroyedAgain: 2 });
		expect(existsSync(done.former as string)).toBe(true);
		const bytes = readFileSync(databaseFile(dataFolder));
		await opened(dataFolder, async (restored) => {
			expect((await find(restored, { query: 'zanzibar', limit: 9 })).hits.map(({ subject }) => subject).sort()).toEqual(
				['Alpha', 'Delta']
			);
			expect((await verifyArchive(restored)).ok).toBe(true);
		});
		for (const [subject, isThere] of [
			['Alpha', true],
			['Bravo', false],
			['Charlie', false]
		] as const)
			expect(bytes.includes(`<${subject}@x.example>`), subject).toBe(isThere);
	});

	it('destroys again what a later backup beside it knows of', async () => {
		const context = await office();
		const out = temporaryFolder();
		const { file } = await backUp(context, { out });
		await destroy(context, 'Bravo');
		await backUp({ ...context, now: () => new Date('2026-11-26T12:00:00Z') }, { out });
		const dataFolder = path.join(temporaryFolder(), 'fresh');
		expect(await restoreBackup({ file, dataFolder, replace: false })).toMatchObject({ destroyedAgain: 1 });
	});

	it('leaves everything as it was where the backup is none', async () => {
		const context = await office();
		const { dataFolder } = context;
		await context.db.destroy();
		const file = path.join(temporaryFolder(), 'x.sqlite');
		writeFileSync(file, 'words '.repeat(5_000));
		const before = createHash('sha256')
			.update(readFileSync(databaseFile(dataFolder)))
			.digest('hex');
		await expect(restoreBackup({ file, dataFolder, replace: true })).rejects.toThrow('is no whole backup');
		expect(
			createHash('sha256')
				.update(readFileSync(databaseFile(dataFolder)))
				.digest('hex')
		).toBe(before);
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
