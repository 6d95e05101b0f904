import { describe, expect, it } from 'vitest';
import { administratorNamed } from '../../../core/access/roles.ts';
import { inTransaction, openDatabase } from '../database/open.ts';
import type { Context } from '../context/context.ts';
import { openOffice, temporaryFolder } from '../testing/office.ts';
import {
	addJob,
	endJob,
	getJob,
	isNoted,
	type JobState,
	listJobs,
	type NewJob,
	noteProgressed,
	noticeJobs,
	reopenJob,
	retryJob,
	runningJobs,
	takeNoted
} from './jobs-store.ts';

const at = new Date('2026-11-25T12:00:00Z');
const job = (useCase: string, isBegun = false): NewJob => ({
	useCase,
	input: { mailboxId: 1, words: ['ramp'] },
	about: { kind: 'proposals', mailboxId: 1 },
	label: 'Looking for mail that can be cleared',
	by: administratorNamed('Ylva'),
	isBegun
});

describe('a job', () => {
	it('is stored with its input, its subject and who began it', async () => {
		const { db } = await openOffice();
		const id = await addJob(db, job('findProposals'), at);
		expect(await getJob(db, id)).toMatchObject({
			useCase: 'findProposals',
			input: { mailboxId: 1, words: ['ramp'] },
			about: { kind: 'proposals', mailboxId: 1 },
			who: 'Ylva',
			personId: null,
			role: 'administrator',
			state: 'running',
			attempts: 1,
			beganAt: at.toISOString(),
			endedAt: null
		});
	});

	it('is enqueued with what it follows, or not at all', async () => {
		const { db } = await openOffice();
		const lost = inTransaction(db, async (trx) => {
			await addJob(trx, job('leaveLists'), at);
			expect(await isNoted(trx, 'leaveLists')).toBe(true);
			throw new Error('what it follows failed');
		});
		await expect(lost).rejects.toThrow('what it follows failed');
		expect(await isNoted(db, 'leaveLists')).toBe(false);
		expect(await takeNoted(db)).toEqual([]);
	});

	it('is taken once, whichever connection looks for work first', async () => {
		const folder = temporaryFolder();
		const { db } = await openOffice(folder);
		const ids: number[] = [];
		for (let n = 0; n < 20; n++) ids.push(await addJob(db, job(`work ${n}`), at));
		const others = [openDatabase(folder), openDatabase(folder), openDatabase(folder)];
		try {
			const taken = [];
			for (const each of [...others, db]) taken.push(await inTransaction(each, (trx) => takeNoted(trx)));
			expect(taken.map((jobs) => jobs.length)).toEqual([20, 0, 0, 0]);
			expect(
				taken
					.flat()
					.map(({ id }) => id)
					.sort((a, b) => a - b)
			).toEqual(ids);
		} finally {
			for (const other of others) await other.destroy();
		}
		expect(await takeNoted(db), 'nothing is left').toEqual([]);
	});

	it('that begins at once is never taken from the queue', async () => {
		const { db } = await openOffice();
		const id = await addJob(db, job('backUp', true), at);
		expect(await isNoted(db, 'backUp')).toBe(false);
		expect(await takeNoted(db)).toEqual([]);
		expect((await runningJobs(db)).map((running) => running.id)).toEqual([id]);
	});

	it('counts its attempts until it has progressed', async () => {
		const { db } = await openOffice();
		const id = await addJob(db, job('importMailbox', true), at);
		const attempts = async () => (await getJob(db, id))?.attempts;
		await retryJob(db, id);
		await retryJob(db, id);
		expect(await attempts()).toBe(3);
		await noteProgressed(db, [id]);
		expect(await attempts()).toBe(0);
		await retryJob(db, id);
		expect(await attempts()).toBe(1);
	});

	it.each<[JobState, boolean]>([
		['failed', true],
		['stopped', true],
		['done', false],
		['running', false]
	])('that is %s can be restarted: %s', async (state, can) => {
		const { db } = await openOffice();
		const id = await addJob(db, job('verifyArchive', true), at);
		if (state !== 'running') await endJob(db, id, { state, result: { lines: 1 }, error: 'stopped by hand' }, at);
		expect(await reopenJob(db, id)).toBe(can);
		const now = await getJob(db, id);
		expect(now?.state).toBe(can || state === 'running' ? 'running' : state);
		if (can) expect(now).toMatchObject({ result: null, error: null, endedAt: null, attempts: 1 });
	});

	it('stays under the bell until its result was seen; one that runs is not seen yet', async () => {
		const { db } = await openOffice();
		const ended = await addJob(db, job('exportMail', true), at);
		const running = await addJob(db, job('rereadMail', true), at);
		await endJob(db, ended, { state: 'done', result: { written: 12 } }, at);
		await noticeJobs(db, at);
		const [second, first] = await listJobs(db, 10);
		expect([second?.id, second?.noticedAt]).toEqual([running, null]);
		expect([first?.id, first?.noticedAt, first?.result]).toEqual([ended, at.toISOString(), { written: 12 }]);
	});
});

describe('whose name a job runs in', () => {
	async function addPerson({ db }: Context, role: string): Promise<number> {
		const [id] = await db('person').insert({
			name: 'Jonas',
			name_key: 'jonas',
			address: 'jonas@skerryline.example',
			address_key: 'jonas@skerryline.example',
			role: role as 'administrator',
			made_at: at.toISOString()
		});
		return Number(id);
	}

	it.each<[string, (context: Context, personId: number) => Promise<unknown>, string | null]>([
		['as they are', async () => undefined, 'administrator'],
		['with their present role', ({ db }, id) => db('person').where({ id }).update({ role: 'colleague' }), 'colleague'],
		[
			'no more once their access has ended',
			({ db }, id) => db('person').where({ id }).update({ ended_at: at.toISOString() }),
			null
		]
	])('%s', async (_what, happens, role) => {
		const context = await openOffice();
		const personId = await addPerson(context, 'administrator');
		const by = { personId, name: 'Jonas' };
		const id = await addJob(context.db, { ...job('backUp'), by: { ...administratorNamed('Jonas'), ...by } }, at);
		await happens(context, personId);
		expect((await getJob(context.db, id))?.role).toBe(role);
	});
});
