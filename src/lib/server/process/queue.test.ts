import { describe, expect, it } from 'vitest';
import { KOVREL } from '../../../core/access/roles.ts';
import type { Progress } from '../context/context.ts';
import { type JobStatus, JobQueue } from './queue.ts';
import type { OfficeThread } from './thread.ts';

type Work = (tell: (progress: Progress) => void) => Promise<unknown>;

/* A queue over a thread that has no database: what it is asked is written down, and the work is the test's. */
function queueFor(work: Record<string, Work>, refuses: readonly string[] = []) {
	const asked: [name: string, input: unknown][] = [];
	let jobs = 0;
	const thread = {
		async call(name: string, input: unknown, { onProgress }: { onProgress?: (progress: Progress) => void }) {
			asked.push([name, input]);
			const begun = input as { useCase?: string; id?: number; state?: string };
			if (name === 'beginJob') {
				if (refuses.includes(begun.useCase ?? '')) throw new Error('The disk is full');
				return { id: ++jobs, ...begun, who: 'Ylva', state: 'running', attempts: 1 };
			}
			if (name === 'finishJob') return { ...begun };
			return work[name]?.(onProgress ?? (() => {}));
		}
	} as unknown as OfficeThread;
	const queue = new JobQueue({ writer: thread, checker: thread });
	const ended = new Promise<JobStatus>((resolve) =>
		queue.events.on('job', (job: JobStatus) => job.state !== 'running' && resolve(job))
	);
	return { queue, asked, ended };
}
const names = (asked: readonly [string, unknown][]) => asked.map(([name]) => name);

describe('the queue', () => {
	it('calls a docket that was carried out done, also where what follows cannot begin', async () => {
		const done = { docket: 7, messages: 300, toAsk: 12 };
		const { queue, asked, ended } = queueFor({ carryOut: async () => done }, ['leaveLists']);
		await queue.start('carryOut', { id: 7 }, 'Docket 7', KOVREL);
		expect(await ended).toMatchObject({ state: 'done', result: done });
		expect(names(asked)).toEqual(['beginJob', 'carryOut', 'beginJob', 'finishJob']);
	});

	it('notes once that a job has come further, and again nothing of it', async () => {
		const { queue, asked, ended } = queueFor({
			importMailbox: async (tell) => {
				for (let done = 0; done <= 500; done += 100) tell({ done, total: 500, note: '' });
			}
		});
		await queue.start('importMailbox', { path: 'x', mailbox: 'Office' }, 'An import', KOVREL);
		await ended;
		expect(asked.filter(([name]) => name === 'noteJobsProgressed')).toEqual([['noteJobsProgressed', { ids: [1] }]]);
	});

	it('does not count an end of the server in good order as an attempt', async () => {
		let cutOff = () => {};
		const { queue, asked } = queueFor({
			importMailbox: () => new Promise<unknown>((_resolve, reject) => (cutOff = () => reject(new Error('ended'))))
		});
		await queue.start('importMailbox', { path: 'x', mailbox: 'Office' }, 'An import', KOVREL);
		await queue.start('importMailbox', { path: 'y', mailbox: 'Office' }, 'Another', KOVREL);
		await queue.close();
		cutOff();
		expect(asked.at(-1)).toEqual(['noteJobsProgressed', { ids: [1, 2] }]);
		expect(names(asked)).not.toContain('finishJob');
	});
});
