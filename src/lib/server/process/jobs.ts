import { inTransaction } from '../database/open.ts';
import {
	addJob,
	endJob,
	getJob,
	type Job,
	type JobState,
	listJobs as storedJobs,
	noteProgressed,
	noticeJobs,
	reopenJob,
	retryJob,
	runningJobs
} from '../queue/jobs-store.ts';
import { docketStates, type DocketState } from '../docket/dockets-store.ts';
import { Refusal } from '../refusal.ts';
import type { Context } from '../context/context.ts';

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

/* A job that is cut off this often without having come further is what cuts the server off. */
const MOST_ATTEMPTS = 3;

/** Notes that jobs have come further, or that the server ends in good order: neither is an attempt that failed. */
export async function noteJobsProgressed(context: Context, input: { ids: number[] }): Promise<void> {
	await inTransaction(context.db, (db) => noteProgressed(db, input.ids));
}

/** Begins a job again that failed, was stopped or was given up: it goes on where it was. @throws Refusal */
export async function retryEndedJob(context: Context, input: { id: number }): Promise<Job> {
	return inTransaction(context.db, async (db) => {
		if (!(await reopenJob(db, input.id)))
			throw new Refusal('not-possible', `Job ${input.id} has not failed, so there is nothing to try again.`);
		return (await getJob(db, input.id)) as Job;
	});
}

/** The jobs that were cut off, to be gone on with; one that was begun too often in vain is given up, and can be tried again. */
export async function jobsToResume(context: Context): Promise<Job[]> {
	return inTransaction(context.db, async (db) => {
		const resumed: Job[] = [];
		for (const job of await runningJobs(db)) {
			if (job.attempts >= MOST_ATTEMPTS) {
				await endJob(
					db,
					job.id,
					{
						state: 'failed',
						error: `It was cut off ${job.attempts} times without coming any further. What it had done is kept; it can be tried again.`
					},
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

/* A result of a night that waited for a person, as it stands by now. */
interface Waited {
	docket?: number | undefined;
	asks: boolean;
	became?: DocketState;
}

const isWaited = (entry: unknown): entry is Waited & { docket: number } =>
	typeof entry === 'object' && entry !== null && (entry as Waited).asks && typeof (entry as Waited).docket === 'number';

/*
 * What a night's result says of dockets was true when it ended: one that was carried out or discarded since waits for nobody.
 */
async function bringUpToDate({ db }: Context, jobs: Job[]): Promise<void> {
	const waited = jobs
		.filter(({ useCase }) => useCase === 'runNight' || useCase === 'letDaysPass')
		.flatMap(({ result }) => Object.values((result ?? {}) as Record<string, unknown>))
		.filter(Array.isArray)
		.flat()
		.filter(isWaited);
	const states = await docketStates(
		db,
		waited.map(({ docket }) => docket)
	);
	for (const entry of waited) {
		const state = states.get(entry.docket);
		if (state === undefined || state === 'drafted') continue;
		entry.asks = false;
		entry.became = state;
	}
}

/** The newest jobs. */
export async function listJobs(context: Context, input: { limit: number }): Promise<Job[]> {
	const jobs = await storedJobs(context.db, input.limit);
	await bringUpToDate(context, jobs);
	return jobs;
}

/** Notes that the results of ended jobs were seen. */
export async function noticeResults(context: Context): Promise<void> {
	await inTransaction(context.db, (db) => noticeJobs(db, context.now()));
}
