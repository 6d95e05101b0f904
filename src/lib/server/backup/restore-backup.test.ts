import { createHash } from 'node:crypto';
import {
	copyFileSync,
	existsSync,
	linkSync,
	mkdirSync,
	readdirSync,
	readFileSync,
	renameSync,
	rmSync,
	statSync,
	writeFileSync
} from 'node:fs';
import path from 'node:path';
import BetterSqlite3 from 'better-sqlite3';
import { describe, expect, it } from 'vitest';
import { readMark, writeMark } from '../database/data-folder.ts';
import { databaseFile, openDatabase } from '../database/open.ts';
import { type FileSteps, finishPuttingInPlace, noteReady, workplaceOf } from '../database/put-in-place.ts';
import type { Grant } from '../access/grants-store.ts';
import { addJob, getJob, runningJobs } from '../queue/jobs-store.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { change, row } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { itemsIn, largeOffice } from '../testing/large-office.ts';
import { temporaryFolder } from '../testing/office.ts';
import { bytesOf, destroy, idOf, opened, smallOffice, SUBJECTS } from '../testing/small-office.ts';
import { backUp, backupsIn, backupStanding } from './back-up.ts';
import { emptyDueBins, prepareEmptying, setClearing } from '../archive/bin.ts';
import { carryOut } from '../docket/carry-out.ts';
import { actingAs, type Context } from '../context/context.ts';
import { find } from '../find/find.ts';
import { releaseHold, listedHolds, placeHold } from '../retention/holds.ts';
import { addPerson, changeGroup, changePerson, grant, listPeople, revoke, setOwner } from '../people/people.ts';
import { openUpToDate, prepareDataFolder } from '../process/open-context.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { readRaw } from '../find/read-message.ts';
import { listedDockets } from '../docket/show-docket.ts';
import { changePassword, signInByLink, linkForFirst, signIn, personOfToken } from '../access/sign-in.ts';
import { restoreBackup } from './restore-backup.ts';
import { verify } from './verify-archive.ts';

describe('restoring a backup', () => {
	it('brings everything back on an empty machine, byte by byte, to be searched', async () => {
		const context = await smallOffice();
		const from = { device: 'a browser', address: '192.0.2.1' };
		const link = (await linkForFirst(context)) as string;
		const password = 'four ferries to Torsay';
		const { token } = await signInByLink(context, { token: link, name: 'Ylva', address: 'y', password, from });
		const { file } = await backUp(context, { out: temporaryFolder() });
		const dataFolder = path.join(temporaryFolder(), 'empty', 'machine');
		expect(await restoreBackup({ file, dataFolder, replace: false }, openUpToDate)).toMatchObject({
			messages: 4,
			destroyedAgain: 0,
			former: undefined
		});
		await opened(dataFolder, async (restored) => {
			for (const subject of SUBJECTS) {
				const { hits } = await find(restored, { query: `zanzibar ${subject}`, limit: 9 });
				expect(hits).toHaveLength(1);
				const read = await readRaw(restored, { id: hits[0]?.id as number });
				expect(Buffer.from(read.content).toString('latin1')).toBe(bytesOf(subject));
			}
			expect(await verify(restored)).toMatchObject({ ok: true, messages: 4 });
			expect((await listLedger(restored.db))[0]).toMatchObject({ action: 'backup-restored' });
			// people are restored as well, and sign in again
			expect(await personOfToken(restored, { token })).toBeUndefined();
			expect((await signIn(restored, { address: 'y', password, from })).actor.name).toBe('Ylva');
		});
		expect(readdirSync(dataFolder)).not.toContain('.restoring');
	});

	it('destroys again also from a backup that is older than a clock is trusted for', async () => {
		const context = await smallOffice();
		await change(context.db, sql`INSERT INTO setting (key, value) VALUES ('clock-mark', '2026-11-25T12:00:00.000Z')`);
		const { file } = await backUp(context, { out: temporaryFolder() });
		await destroy(context, 'Bravo');
		const { dataFolder } = context;
		await context.db.destroy();
		const monthsLater: typeof openUpToDate = async (folder, actor) => ({
			...(await openUpToDate(folder, actor)),
			clockIsGiven: false,
			now: () => new Date('2027-03-01T12:00:00Z')
		});
		const done = await restoreBackup({ file, dataFolder, replace: true }, monthsLater);
		expect(done).toMatchObject({ destroyedAgain: 1 });
	});

	it('destroys again what was destroyed since, as the data that are put aside know, also what is held by then', async () => {
		const context = await smallOffice();
		await placeHold(context, { name: 'Old', because: 'x', from: 'y', query: 'subject:charlie' });
		const { file } = await backUp(context, { out: temporaryFolder() });
		await change(context.db, sql`DELETE FROM hold_item`);
		await change(context.db, sql`UPDATE hold SET released_on = '2026-11-25'`);
		await destroy(context, 'Bravo');
		await destroy(context, 'Charlie');
		const { dataFolder } = context;
		await expect(restoreBackup({ file, dataFolder, replace: false }, openUpToDate)).rejects.toThrow(
			'There are data in'
		);
		await expect(restoreBackup({ file, dataFolder, replace: true }, openUpToDate)).rejects.toThrow(
			'Something works on the data'
		);
		await context.db.destroy();
		const done = await restoreBackup({ file, dataFolder, replace: true }, openUpToDate);
		expect(done).toMatchObject({ destroyedAgain: 2 });
		expect(existsSync(done.former as string)).toBe(true);
		const bytes = readFileSync(databaseFile(dataFolder));
		await opened(dataFolder, async (restored) => {
			expect((await find(restored, { query: 'zanzibar', limit: 9 })).hits.map(({ subject }) => subject).sort()).toEqual(
				['Alpha', 'Delta']
			);
			expect((await verify(restored)).ok).toBe(true);
		});
		for (const [subject, isThere] of [
			['Alpha', true],
			['Bravo', false],
			['Charlie', false]
		] as const)
			expect(bytes.includes(`<${subject}@x.example>`), subject).toBe(isThere);
	});

	it('destroys again what a later backup beside it knows of', async () => {
		const context = await smallOffice();
		const out = temporaryFolder();
		const { file } = await backUp(context, { out });
		await destroy(context, 'Bravo');
		await backUp({ ...context, now: () => new Date('2026-11-26T12:00:00Z') }, { out });
		const dataFolder = path.join(temporaryFolder(), 'fresh');
		expect(await restoreBackup({ file, dataFolder, replace: false }, openUpToDate)).toMatchObject({
			destroyedAgain: 1
		});
	});

	it.each([
		['at their beginning', 0],
		['in their middle', 6 * 16_384]
	])('takes the place of data that are damaged %s', async (_where, at) => {
		const context = await smallOffice();
		const { file } = await backUp(context, { out: temporaryFolder() });
		const { dataFolder } = context;
		await context.db.destroy();
		const bytes = readFileSync(databaseFile(dataFolder));
		writeFileSync(databaseFile(dataFolder), bytes.fill(0xff, at, at + 16_384));
		const done = await restoreBackup({ file, dataFolder, replace: true }, openUpToDate);
		// the header's journal mode, which can be changed without damage
		expect(
			readFileSync(done.former as string)
				.subarray(100)
				.equals(bytes.subarray(100))
		).toBe(true);
		await opened(dataFolder, async (restored) => {
			expect(await verify(restored)).toMatchObject({ ok: true, messages: 4 });
		});
	});

	it('leaves everything as it was where the backup is none', async () => {
		const context = await smallOffice();
		const { dataFolder } = context;
		await context.db.destroy();
		const file = path.join(temporaryFolder(), 'x.sqlite');
		writeFileSync(file, 'words '.repeat(5_000));
		const before = createHash('sha256')
			.update(readFileSync(databaseFile(dataFolder)))
			.digest('hex');
		await expect(restoreBackup({ file, dataFolder, replace: true }, openUpToDate)).rejects.toThrow(
			'is no backup of Kovrel'
		);
		expect(
			createHash('sha256')
				.update(readFileSync(databaseFile(dataFolder)))
				.digest('hex')
		).toBe(before);
	});
});

describe('restoring that is cut off', () => {
	/* Every step that changes a file is once the last before the power fails. */
	class PowerFails extends Error {}
	function failingBehind(step: number): FileSteps {
		let done = 0;
		const taken =
			<A extends unknown[]>(work: (...args: A) => void) =>
			(...args: A) => {
				if (done++ === step) throw new PowerFails();
				work(...args);
			};
		return {
			name: taken((file: string, again: string) => linkSync(file, again)),
			remove: taken((place: string) => rmSync(place, { recursive: true, force: true })),
			rename: taken((before: string, after: string) => renameSync(before, after)),
			mark: taken(writeMark)
		};
	}

	it.each([0, 1, 2, 3, 4, 5, 6])(
		'after %i steps is finished at the next start, and the former data stay',
		async (step) => {
			const context = await largeOffice({ Inbox: 300 });
			const { dataFolder } = context;
			const { file } = await backUp(context, { out: temporaryFolder() });
			await placeHold(context, { name: 'Claim', because: 'x', from: 'y', query: 'subject:inbox' });
			await context.db.destroy();
			// prepared as restoring does, in a folder of its own
			const other = temporaryFolder();
			await restoreBackup({ file, dataFolder: other, replace: false }, openUpToDate);
			const workplace = workplaceOf(dataFolder);
			mkdirSync(workplace);
			copyFileSync(databaseFile(other), databaseFile(workplace));
			const former = `${databaseFile(dataFolder)}.before-test`;
			noteReady(dataFolder, { id: readMark(other) as string, former });
			let isCutOff = false;
			try {
				finishPuttingInPlace(dataFolder, failingBehind(step));
			} catch (error) {
				if (!(error instanceof PowerFails)) throw error;
				isCutOff = true;
			}
			expect(isCutOff).toBe(step < 6);
			// there is a data file at every moment
			expect(statSync(databaseFile(dataFolder)).size).toBeGreaterThan(0);
			await prepareDataFolder(dataFolder);
			await opened(dataFolder, async (restored) => {
				expect(await verify(restored)).toMatchObject({ ok: true, messages: 300 });
				expect((await listLedger(restored.db))[0]).toMatchObject({ action: 'backup-restored' });
				expect(await listedHolds(restored, { released: false })).toEqual([]);
			});
			expect(readdirSync(dataFolder)).not.toContain('.restoring');
			const aside = openDatabase(dataFolder, { file: former, readonly: true });
			expect(await row(aside, sql`SELECT name FROM hold`)).toEqual({ name: 'Claim' });
			await aside.destroy();
		}
	);

	it('before it is ready changes nothing', async () => {
		const context = await largeOffice({ Inbox: 200 });
		const { dataFolder } = context;
		await context.db.destroy();
		const workplace = workplaceOf(dataFolder);
		mkdirSync(workplace);
		writeFileSync(databaseFile(workplace), 'half a copy');
		await prepareDataFolder(dataFolder);
		await opened(dataFolder, async (there) => {
			expect(await verify(there)).toMatchObject({ ok: true, messages: 200 });
		});
	});

	it('and done again destroys again what the data put aside know of', async () => {
		const context = await largeOffice({ Inbox: 300 });
		const { dataFolder } = context;
		const { file } = await backUp(context, { out: temporaryFolder() });
		const line = {
			decision: 'delete' as const,
			options: {},
			scope: { kind: 'items' as const, ids: await itemsIn(context, 'Inbox', 250) }
		};
		const bin = await prepareDocket(context, { mailboxId: 1, lines: [line] });
		await carryOut(context, { id: bin.id });
		const emptying = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await carryOut(context, { id: emptying.id, confirm: 'Office' });
		await context.db.destroy();
		// the state left by an interrupted restore of an earlier version: the data file renamed, none in its place
		renameSync(databaseFile(dataFolder), `${databaseFile(dataFolder)}.before-20261124T120000Z`);
		expect(await restoreBackup({ file, dataFolder, replace: true }, openUpToDate)).toMatchObject({
			destroyedAgain: 250
		});
	});
});

describe('a backup with damage', () => {
	/* A backup of 300 messages with some damage. */
	async function damaged(damage: (db: BetterSqlite3.Database) => void) {
		const context = await largeOffice({ Inbox: 300 });
		const { file } = await backUp(context, { out: temporaryFolder() });
		await context.db.destroy();
		const opened = new BetterSqlite3(file);
		opened.unsafeMode(true);
		opened.pragma('writable_schema = ON');
		damage(opened);
		opened.close();
		return { file, dataFolder: temporaryFolder() };
	}
	const content = (db: BetterSqlite3.Database) =>
		db.exec(`UPDATE content SET data = zeroblob(length(data)) WHERE id IN (7, 8, 9)`);
	/* Entries of an index are missing, as if one of its pages had not been written. */
	const index = (db: BetterSqlite3.Database) => {
		const { rootpage } = db.prepare(`SELECT rootpage FROM sqlite_master WHERE name = 'item_by_message'`).get() as {
			rootpage: number;
		};
		db.exec(`CREATE TABLE empty_one (a); CREATE INDEX empty_index ON empty_one (a)`);
		const { rootpage: other } = db.prepare(`SELECT rootpage FROM sqlite_master WHERE name = 'empty_index'`).get() as {
			rootpage: number;
		};
		db.exec(
			`UPDATE sqlite_master SET rootpage = ${other} WHERE name = 'item_by_message'; UPDATE sqlite_master SET rootpage = ${rootpage} WHERE name = 'empty_index'`
		);
	};

	it.each([
		['contents', content, /the bytes of 3 contents are not what came in \(7, 8, 9\)/, [7, 8, 9]],
		['an index', index, /item_by_message/, []]
	])('in %s is named, and the rest restored where a person says so', async (_what, damage, named, left) => {
		const { file, dataFolder } = await damaged(damage);
		await expect(restoreBackup({ file, dataFolder, replace: false }, openUpToDate)).rejects.toThrow(named);
		await expect(restoreBackup({ file, dataFolder, replace: false }, openUpToDate)).rejects.toThrow('--despite-damage');
		expect(readdirSync(dataFolder)).toEqual([]);
		const done = await restoreBackup({ file, dataFolder, replace: false, despiteDamage: true }, openUpToDate);
		expect(done.damage.join()).toMatch(named);
		await opened(dataFolder, async (restored) => {
			const { messages, damaged: found } = await verify(restored);
			expect(messages).toBe(300);
			expect(found.map(({ what, id }) => (what === 'content' ? id : what))).toEqual(left);
		});
	});

	it('is named as such when it is made: the same checks on both sides', async () => {
		const context = await largeOffice({ Inbox: 300 });
		await change(context.db, sql`UPDATE content SET data = zeroblob(length(data)) WHERE id <= 250`);
		const backup = await backUp(context, { out: temporaryFolder() });
		expect(backup.damage).toEqual([expect.stringMatching(/^the bytes of 250 contents/)]);
		expect((await backupStanding(context)).last?.damage).toEqual(backup.damage);
		await expect(
			restoreBackup({ file: backup.file, dataFolder: temporaryFolder(), replace: false }, openUpToDate)
		).rejects.toThrow('the bytes of 250 contents');
	});
});

const PASSWORD = 'four ferries to Torsay';
const from = { device: 'a browser', address: '192.0.2.1' };

/* Ylva runs the office; Jonas may find in its mailbox, Tove as one of the crew, and a hold is placed on Charlie. */
async function peopledOffice(): Promise<Context> {
	const context = await smallOffice();
	const token = (await linkForFirst(context)) as string;
	await signInByLink(context, { token, name: 'Ylva', address: 'ylva', password: PASSWORD, from });
	for (const name of ['Jonas', 'Tove', 'Ruben']) {
		const { link } = await addPerson(context, { name, address: name, role: 'colleague' });
		await signInByLink(context, { token: link, password: PASSWORD, from });
	}
	await changeGroup(context, { group: 'Crew', members: ['Tove'] });
	for (const to of ['Jonas', 'Crew']) await grant(context, { to, mailbox: 'Office', find: true, restore: false });
	await placeHold(context, { name: 'Old', because: 'x', from: 'y', query: 'subject:charlie' });
	return context;
}

/* Decisions after the backup. */
async function decideSince(context: Context): Promise<void> {
	await placeHold(context, { name: 'Slipway claim', because: 'x', from: 'y', query: 'subject:alpha' });
	await releaseHold(context, { name: 'Old', because: 'settled' });
	const { id } = (await listPeople(context)).grants.find(({ to }) => to === 'Jonas') as Grant;
	await revoke(context, { id });
	await changeGroup(context, { group: 'Crew', members: ['Ruben'] });
	await changePerson(context, { person: 'Tove', ended: true });
	const { link } = await addPerson(context, { name: 'Agnes', address: 'agnes', role: 'administrator' });
	await signInByLink(context, { token: link, password: PASSWORD, from });
	await setOwner(context, { mailbox: 'Office', owner: 'Agnes' });
	const ylva = await signIn(context, { address: 'ylva', password: PASSWORD, from });
	await changePassword(actingAs(context, ylva.actor), {
		before: PASSWORD,
		password: `${PASSWORD} and back`,
		sessionId: 0
	});
}

/* Which of them are in effect in some data. */
async function standing(context: Context) {
	const { people, groups, grants } = await listPeople(context);
	const comesIn = async (address: string, password: string) =>
		signIn(context, { address, password, from }).then(
			() => true,
			() => false
		);
	return {
		holds: (await listedHolds(context, { released: false })).map(({ name, messages }) => `${name} ${messages}`).sort(),
		grants: grants.map(({ to }) => to),
		crew: groups.find(({ name }) => name === 'Crew')?.members.map(({ name }) => name),
		owners: people.filter(({ owns }) => owns.length > 0).map(({ name }) => name),
		former: await comesIn('ylva', PASSWORD),
		ylva: await comesIn('ylva', `${PASSWORD} and back`),
		tove: await comesIn('tove', PASSWORD),
		agnes: await comesIn('agnes', PASSWORD)
	};
}

const NOW = {
	holds: ['Old 1', 'Slipway claim 1'],
	grants: ['Crew'],
	crew: ['Ruben'],
	owners: ['Agnes'],
	former: false,
	ylva: true,
	tove: false,
	agnes: true
};
const THEN = {
	holds: ['Old 1'],
	grants: ['Jonas', 'Crew'],
	crew: ['Tove'],
	owners: [],
	former: true,
	ylva: false,
	tove: true,
	agnes: false
};

describe('what was decided since the backup', () => {
	it('is brought forward from the data that are put aside: holds, and who comes in and reaches what', async () => {
		const context = await peopledOffice();
		const { file } = await backUp(context, { out: temporaryFolder() });
		await decideSince(context);
		const { dataFolder } = context;
		await context.db.destroy();
		const done = await restoreBackup({ file, dataFolder, replace: true }, openUpToDate);
		expect(done).toMatchObject({ holdsAgain: ['Slipway claim'], holdsReleasedSince: ['Old'] });
		expect(done.broughtForwardFrom).toBe(done.former);
		await opened(dataFolder, async (restored) => {
			expect(await standing(restored)).toEqual(NOW);
			await destroy(restored, 'Alpha');
			expect((await find(restored, { query: 'zanzibar alpha', limit: 9 })).hits).toHaveLength(1);
			expect((await listLedger(restored.db)).find(({ action }) => action === 'backup-restored')?.details).toMatchObject(
				{
					holdsAgain: ['Slipway claim'],
					broughtForwardFrom: done.former
				}
			);
			expect(await verify(restored)).toMatchObject({ ok: true });
		});
	});

	it('is brought forward from the last of the later backups beside it', async () => {
		const context = await peopledOffice();
		const out = temporaryFolder();
		const { file } = await backUp(context, { out });
		await backUp({ ...context, now: () => new Date('2026-11-26T12:00:00Z') }, { out });
		await decideSince(context);
		const last = await backUp({ ...context, now: () => new Date('2026-11-27T12:00:00Z') }, { out });
		const dataFolder = path.join(temporaryFolder(), 'fresh');
		expect(await restoreBackup({ file, dataFolder, replace: false }, openUpToDate)).toMatchObject({
			broughtForwardFrom: last.file
		});
		await opened(dataFolder, async (restored) => expect(await standing(restored)).toEqual(NOW));
	});

	it('a hold that took over the name of a released one stands beside it', async () => {
		const context = await smallOffice();
		const named = { name: 'Claim', because: 'x', from: 'y' };
		await placeHold(context, { ...named, query: 'subject:charlie' });
		const { file } = await backUp(context, { out: temporaryFolder() });
		await releaseHold(context, { name: 'Claim', because: 'settled' });
		await placeHold(context, { ...named, query: 'zanzibar' });
		const { dataFolder } = context;
		await context.db.destroy();
		const again = 'Claim (placed since the backup)';
		expect(await restoreBackup({ file, dataFolder, replace: true }, openUpToDate)).toMatchObject({
			holdsAgain: [again]
		});
		await opened(dataFolder, async (restored) =>
			expect((await standing(restored)).holds).toEqual([`${again} 4`, 'Claim 1'])
		);
	});

	it('is not taken from the data of another office, nor from what cannot be read', async () => {
		const context = await peopledOffice();
		const out = temporaryFolder();
		const { file } = await backUp(context, { out });
		const other = await peopledOffice();
		await decideSince(other);
		const { dataFolder } = other;
		await other.db.destroy();
		const unreadable = file.replace('20261125', '20261126');
		writeFileSync(unreadable, 'words '.repeat(5_000));
		writeFileSync(`${unreadable}.json`, '{}');
		expect(backupsIn(out)).toHaveLength(2);
		expect(await restoreBackup({ file, dataFolder, replace: true }, openUpToDate)).toMatchObject({
			broughtForwardFrom: undefined,
			holdsAgain: []
		});
		await opened(dataFolder, async (restored) => expect(await standing(restored)).toEqual(THEN));
	});

	it('is not known in full: what is done by itself asks once more', async () => {
		const context = await smallOffice();
		await setClearing(context, { mailbox: 'Office', emptiesBin: true });
		const after = (within: Context, days: number): Context => ({
			...within,
			now: () => new Date(Date.parse('2026-11-25T12:00:00Z') + days * 86_400_000)
		});
		const bin = async (subject: string) => {
			const scope = { kind: 'items' as const, ids: [await idOf(context, subject)] };
			const { id } = await prepareDocket(context, {
				mailboxId: 1,
				lines: [{ decision: 'delete', options: {}, scope }]
			});
			await carryOut(context, { id, confirm: 'destroy' });
		};
		await bin('Bravo');
		expect(await emptyDueBins(after(context, 31))).toMatchObject([{ messages: 1, asks: true }]);
		const [draft] = await listedDockets(context, { mailboxId: 1, limit: 1, drafts: true });
		await carryOut(after(context, 31), { id: draft?.id as number, confirm: 'Office' });
		await bin('Charlie');
		const { file } = await backUp(context, { out: temporaryFolder() });
		const dataFolder = path.join(temporaryFolder(), 'fresh');
		await restoreBackup({ file, dataFolder, replace: false }, openUpToDate);
		await opened(dataFolder, async (restored) => {
			expect(await emptyDueBins(after(restored, 62))).toMatchObject([{ messages: 1, asks: true }]);
		});
		expect(await emptyDueBins(after(context, 62))).toMatchObject([{ messages: 1, asks: false }]);
	});

	it('goes on with no job that decides something: it may have been stopped or taken back since', async () => {
		const context = await smallOffice();
		const running = async ({ db }: Context) => (await runningJobs(db)).map(({ useCase }) => useCase);
		const jobs = ['carryOut', 'takeBack', 'leaveLists', 'runNight', 'backUp', 'importMailbox', 'readFiles'];
		for (const [at, name] of jobs.entries())
			await addJob(
				context.db,
				{ useCase: name, input: {}, about: { kind: 'files' }, label: name, by: context.actor, isBegun: at % 2 === 0 },
				context.now()
			);
		expect(await running(context)).toEqual(jobs);
		const { file } = await backUp(context, { out: temporaryFolder() });
		const dataFolder = path.join(temporaryFolder(), 'fresh');
		await restoreBackup({ file, dataFolder, replace: false }, openUpToDate);
		await opened(dataFolder, async (restored) => {
			expect(await running(restored)).toEqual(['readFiles']);
			expect(await getJob(restored.db, 1)).toMatchObject({
				state: 'stopped',
				error: expect.stringMatching(/^A backup was restored/)
			});
		});
	});
});
