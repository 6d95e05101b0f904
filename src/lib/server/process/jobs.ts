import { jobWords } from '../../../core/jobs/about.ts';
import { type AnyUseCase, type Context, count, defineUseCase, type Following, id, text } from '../context/index.ts';
import { type Db, inTransaction } from '../database/index.ts';
import {
	addJob,
	endJob,
	getJob,
	isNoted,
	type Job,
	type JobState,
	listJobs as storedJobs,
	noteProgressed,
	noticeJobs,
	reopenJob,
	retryJob,
	runningJobs,
	takeNoted
} from '../queue/index.ts';
import { type DocketState, docketStates } from '../docket/index.ts';
import { Refusal } from '../refusal.ts';
import Joi from 'joi';

/** Stores that a job of a use case begins, and returns it. @throws Refusal if it cannot begin */
export async function beginJob(
	context: Context,
	{ name, job }: Pick<AnyUseCase, 'name' | 'job'>,
	input: unknown
): Promise<Job> {
	if (!job) throw new Error(`"${name}" is no job`);
	return inTransaction(context.db, async (db) => {
		const about = await job.about({ ...context, db }, input as never);
		const begun = { useCase: name, input, about, label: jobWords(about), by: context.actor, isBegun: true };
		return (await getJob(db, await addJob(db, begun, context.now()))) as Job;
	});
}

/** Enqueues a job in the transaction that it follows; {@link takeNotedJobs} begins it. */
export async function noteFollowing(context: Context, db: Db, { once, ...next }: Following): Promise<void> {
	if (once && (await isNoted(db, next.useCase))) return;
	await addJob(db, { ...next, label: jobWords(next.about), by: context.actor, isBegun: false }, context.now());
}

/** Takes the enqueued jobs, to begin them. */
async function takeNotedJobs(context: Context): Promise<Job[]> {
	return inTransaction(context.db, (db) => takeNoted(db));
}

/** Stores the end of a job, and returns it. */
export async function finishJob(
	context: Context,
	input: { id: number; state: JobState; result?: unknown; error?: string }
): Promise<Job> {
	return inTransaction(context.db, async (db) => {
		await endJob(db, input.id, input, context.now());
		return (await getJob(db, input.id)) as Job;
	});
}

/* A job interrupted this often without progress is assumed to cause the interruption. */
const MOST_ATTEMPTS = 3;

/** Records that jobs have progressed, or that the server ends normally: neither counts as a failed attempt. */
export async function noteJobsProgressed(context: Context, input: { ids: number[] }): Promise<void> {
	await inTransaction(context.db, (db) => noteProgressed(db, input.ids));
}

/** Restarts a job that failed, was stopped or was given up, from where it was. @throws Refusal */
export async function retryEndedJob(context: Context, input: { id: number }): Promise<Job> {
	return inTransaction(context.db, async (db) => {
		if (!(await reopenJob(db, input.id)))
			throw new Refusal('not-possible', `Job ${input.id} has not failed, so there is nothing to try again.`);
		return (await getJob(db, input.id)) as Job;
	});
}

/* Continues an interrupted job; after too many failed attempts it is given up, and can be restarted by a person. */
async function resume(context: Context, db: Db, job: Job): Promise<boolean> {
	if (job.attempts < MOST_ATTEMPTS) {
		await retryJob(db, job.id);
		return true;
	}
	const error = `It was cut off ${job.attempts} times without coming any further. What it had done is kept; it can be tried again.`;
	await endJob(db, job.id, { state: 'failed', error }, context.now());
	return false;
}

/** The interrupted and enqueued jobs. */
export async function jobsToResume(context: Context): Promise<Job[]> {
	return inTransaction(context.db, async (db) => {
		const resumed: Job[] = [];
		for (const job of await runningJobs(db)) if (await resume(context, db, job)) resumed.push(job);
		return resumed;
	});
}

/** Continues a job whose thread has died. @returns its present state: running again, or given up */
async function resumeJob(context: Context, input: { id: number }): Promise<Job> {
	return inTransaction(context.db, async (db) => {
		await resume(context, db, (await getJob(db, input.id)) as Job);
		return (await getJob(db, input.id)) as Job;
	});
}

/* The present state of a scheduled run's docket that waited for a person. */
interface Waited {
	docket?: number | undefined;
	asks: boolean;
	became?: DocketState;
}

const isWaited = (entry: unknown): entry is Waited & { docket: number } =>
	typeof entry === 'object' && entry !== null && (entry as Waited).asks && typeof (entry as Waited).docket === 'number';

/*
 * A scheduled run's result describes its dockets at its end: those carried out or discarded since do not wait any
 * more.
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

/** Records that the results of ended jobs were seen. */
async function noticeResults(context: Context): Promise<void> {
	await inTransaction(context.db, (db) => noticeJobs(db, context.now()));
}

/** The use cases of this file. */
export const jobsUseCases = [
	defineUseCase({
		name: 'listJobs',
		input: () => Joi.object({ limit: count.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: listJobs
	}),
	defineUseCase({
		name: 'resumeJob',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: resumeJob
	}),
	defineUseCase({
		name: 'takeNotedJobs',
		thread: 'writer',
		right: 'administrator',
		run: takeNotedJobs
	}),
	defineUseCase({
		name: 'finishJob',
		input: () =>
			Joi.object({
				id: id.required(),
				state: Joi.valid('running', 'done', 'failed', 'stopped').required(),
				result: Joi.any(),
				error: text
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: finishJob
	}),
	defineUseCase({
		name: 'jobsToResume',
		thread: 'writer',
		right: 'administrator',
		run: jobsToResume
	}),
	defineUseCase({
		name: 'noteJobsProgressed',
		input: () => Joi.object({ ids: Joi.array().items(id).required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: noteJobsProgressed
	}),
	defineUseCase({
		name: 'retryEndedJob',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: retryEndedJob
	}),
	defineUseCase({
		name: 'noticeResults',
		thread: 'writer',
		right: 'administrator',
		run: noticeResults
	})
] as const;
