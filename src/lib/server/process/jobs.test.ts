import { describe, expect, it } from 'vitest';
import { openOffice } from '../testing/office.ts';
import type { Context } from '../context/context.ts';
import { beginJob, finishJob, jobsToResume, listJobs, noteJobsProgressed, retryEndedJob } from './jobs.ts';
import { useCase } from './use-cases.ts';

describe('jobs that are cut off', () => {
	const begin = async (context: Context) =>
		(await beginJob(context, useCase('importMailbox'), { path: 'x.mbox', mailbox: 'Office' })).id;
	const newest = async (context: Context) => (await listJobs(context, { limit: 1 }))[0];

	it('go on as often as it takes while they come further, however often the server ends', async () => {
		const context = await openOffice();
		const id = await begin(context);
		for (let end = 0; end < 12; end++) {
			await noteJobsProgressed(context, { ids: [id] });
			expect((await jobsToResume(context)).map((job) => job.id)).toEqual([id]);
		}
	});

	it('are given up after three times in vain, and can be tried again', async () => {
		const context = await openOffice();
		const id = await begin(context);
		const resumed = [];
		for (let end = 0; end < 3; end++) resumed.push((await jobsToResume(context)).length);
		expect(resumed).toEqual([1, 1, 0]);
		expect(await newest(context)).toMatchObject({
			state: 'failed',
			error: 'It was cut off 3 times without coming any further. What it had done is kept; it can be tried again.'
		});
		expect(await retryEndedJob(context, { id })).toMatchObject({ id, state: 'running', attempts: 1, error: null });
		expect((await jobsToResume(context)).map((job) => job.id)).toEqual([id]);
		await finishJob(context, { id, state: 'done' });
		await expect(retryEndedJob(context, { id })).rejects.toThrow('has not failed');
	});
});
