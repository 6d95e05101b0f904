import { inTransaction } from '../database/open.ts';
import {
	addJob,
	endJob,
	getJob,
	type Job,
	type JobState,
	listJobs as storedJobs,
	noticeJobs,
	retryJob,
	runningJobs
} from '../stores/jobs.ts';
import type { Context } from './context.ts';

/** Notes that a job begins, and returns it. */
export async function beginJob(
	context: Context,
	input: { useCase: string; input: unknown; label: string }
): Promise<Job> {
	return inTransaction(context.db, async (db) => {
		const id = await addJob(db, { ...input, who: context.who }, context.now());
		return (await getJob(db, id)) as Job;
	});
}

/** Notes how a job ended, and returns it. */
export async function finishJob(
	context: Context,
	input: { id: number; state: JobState; result?: unknown; error?: string }
): Promise<Job> {
	return inTransaction(context.db, async (db) => {
		await endJob(db, input.id, input, context.now());
		return (await getJob(db, input.id)) as Job;
	});
}

/* A job that is cut off this often is what cuts the server off. */
const MOST_ATTEMPTS = 3;

/** The jobs that were cut off, to be gone on with; one that was begun too often fails for good. */
export async function jobsToResume(context: Context): Promise<Job[]> {
	return inTransaction(context.db, async (db) => {
		const resumed: Job[] = [];
		for (const job of await runningJobs(db)) {
			if (job.attempts >= MOST_ATTEMPTS) {
				await endJob(
					db,
					job.id,
					{ state: 'failed', error: `It was cut off ${job.attempts} times. What it had done by then is kept.` },
					context.now()
				);
				continue;
			}
			await retryJob(db, job.id);
			resumed.push(job);
		}
		return resumed;
	});
}

/** The newest jobs. */
export async function listJobs({ db }: Context, input: { limit: number }): Promise<Job[]> {
	return storedJobs(db, input.limit);
}

/** Notes that the results of ended jobs were seen. */
export async function noticeResults(context: Context): Promise<void> {
	await inTransaction(context.db, (db) => noticeJobs(db, context.now()));
}
