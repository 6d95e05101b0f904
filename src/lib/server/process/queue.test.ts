import { describe, expect, it, vi } from 'vitest';
import { type Actor, KOVREL } from '../../../core/access/roles.ts';
import type { Progress } from '../context/context.ts';
import { type JobStatus, JobQueue } from './queue.ts';
import { type CallOptions, type OfficeThread, ThreadEndedError } from './thread.ts';

type Work = (tell: (progress: Progress) => void) => Promise<unknown>;
interface Told {
	name: string;
	input: unknown;
	actor: Actor;
	resumes?: boolean;
}

const YLVA = { personId: 4, who: 'Ylva', role: 'administrator' };

/* A queue over a thread without a database: calls are recorded, and the test does the work. */
function queueFor(work: Record<string, Work>, answers: Record<string, (input: never) => unknown> = {}) {
	const asked: Told[] = [];
	let jobs = 0;
	const thread = {
		onNoted: () => {},
		async begin(useCase: string, input: unknown, { actor }: { actor: Actor }) {
			asked.push({ name: `begin ${useCase}`, input, actor });
			return { id: ++jobs, useCase, input, ...YLVA, state: 'running', attempts: 1 };
		},
		async call(name: string, input: never, { actor, onProgress, resumes }: CallOptions) {
			asked.push({ name, input, actor, ...(resumes && { resumes }) });
			const answer = answers[name];
			if (answer) return answer(input);
			if (name === 'finishJob') return input;
			return work[name]?.(onProgress ?? (() => {}));
		}
	};
	const queue = new JobQueue({ writer: thread as unknown as OfficeThread, checker: thread as unknown as OfficeThread });
	const ends: JobStatus[] = [];
	queue.events.on('job', (job: JobStatus) => job.state !== 'running' && ends.push(job));
	const ended = (count = 1) => vi.waitFor(() => (expect(ends).toHaveLength(count), ends.at(-1) as JobStatus));
	return { queue, asked, ended, thread };
}
const names = (asked: readonly Told[]) => asked.map(({ name }) => name);
const job = (id: number, useCase: string, more: object = {}) => ({
	id,
	useCase,
	input: {},
	...YLVA,
	state: 'running',
	attempts: 1,
	...more
});

describe('the queue', () => {
	it('begins what a docket has noted to follow it; where that cannot be, the docket is done all the same', async () => {
		const done = { docket: 7, messages: 300, toAsk: 12 };
		let noted: unknown[] = [job(8, 'leaveLists')];
		const { queue, asked, ended, thread } = queueFor(
			{
				carryOut: async () => (thread.onNoted(), done),
				leaveLists: async () => ({ asked: 12 })
			},
			{
				takeNotedJobs: () => {
					if (noted.length === 0) throw new Error('The disk is full');
					return noted.splice(0);
				}
			}
		);
		await queue.start('carryOut', { id: 7 }, KOVREL);
		expect(await ended(2)).toMatchObject({ id: 8, state: 'done', result: { asked: 12 } });
		noted = [];
		await queue.start('carryOut', { id: 7 }, KOVREL);
		expect(await ended(3)).toMatchObject({ state: 'done', result: done });
		expect(names(asked).filter((name) => name === 'leaveLists')).toHaveLength(1);
	});

	it('has a job done by who began it, with what they may do by now', async () => {
		const begun = [
			job(1, 'verifyArchive', { role: 'colleague' }),
			job(2, 'verifyArchive', { role: null }),
			job(3, 'anotherKovrelsWork')
		];
		const { queue, asked, ended } = queueFor({ verifyArchive: async () => 'all there' }, { jobsToResume: () => begun });
		await queue.resume();
		await ended(3);
		expect(asked.filter(({ name }) => name === 'verifyArchive').map(({ actor }) => actor)).toEqual([
			{ personId: 4, name: 'Ylva', role: 'colleague' }
		]);
		const ends = asked.filter(({ name }) => name === 'finishJob').map(({ input }) => input);
		expect(ends).toContainEqual({
			id: 2,
			state: 'failed',
			error: 'Ylva, who began it, has no access any more. What was done by then is kept.'
		});
		expect(ends).toContainEqual(expect.objectContaining({ id: 3, state: 'failed' }));
	});

	it('goes on with a job whose thread ended under it, until that was in vain too often', async () => {
		let ends = 0;
		const { queue, asked, ended } = queueFor(
			{ verifyArchive: async () => Promise.reject(new ThreadEndedError()) },
			{
				resumeJob: () =>
					++ends < 3 ? job(1, 'verifyArchive') : job(1, 'verifyArchive', { state: 'failed', error: 'cut off 3 times' })
			}
		);
		await queue.start('verifyArchive', undefined, KOVREL);
		expect(await ended()).toMatchObject({ id: 1, state: 'failed', error: 'cut off 3 times' });
		const tries = asked.filter(({ name }) => name === 'verifyArchive');
		expect(tries.map(({ resumes = false }) => resumes)).toEqual([false, true, true]);
		expect(queue.running()).toEqual([]);
	});

	it('notes once that a job has come further, and again nothing of it', async () => {
		const { queue, asked, ended } = queueFor({
			importMailbox: async (tell) => {
				for (let done = 0; done <= 500; done += 100) tell({ done, total: 500, note: '' });
			}
		});
		await queue.start('importMailbox', { path: 'x', mailbox: 'Office' }, KOVREL);
		await ended();
		expect(asked.filter(({ name }) => name === 'noteJobsProgressed').map(({ input }) => input)).toEqual([{ ids: [1] }]);
	});

	it('does not count an end of the server in good order as an attempt', async () => {
		let cutOff = () => {};
		const { queue, asked } = queueFor({
			importMailbox: () => new Promise<unknown>((_resolve, reject) => (cutOff = () => reject(new Error('ended'))))
		});
		await queue.start('importMailbox', { path: 'x', mailbox: 'Office' }, KOVREL);
		await queue.start('importMailbox', { path: 'y', mailbox: 'Office' }, KOVREL);
		await queue.close();
		cutOff();
		expect(asked.at(-1)).toMatchObject({ name: 'noteJobsProgressed', input: { ids: [1, 2] } });
		expect(names(asked)).not.toContain('finishJob');
	});
});
