import type { By, Role } from '../../../core/access/roles.ts';
import type { JobAbout } from '../../../core/jobs/about.ts';
import { change, type Condition, type Db, idOf, inList, row, rows, sql } from '../database/index.ts';

export type JobState = 'running' | 'done' | 'failed' | 'stopped';

/** A job in the background. */
export interface Job {
	id: number;
	/** The name of its use case. */
	useCase: string;
	input: unknown;
	/** Its subject; null for jobs of an earlier version. */
	about: JobAbout | null;
	/** The subject in words. */
	label: string;
	/** The name of the person who began it. */
	who: string;
	/** Their number; null if no person began it. */
	personId: number | null;
	/** Their present role; null if their access has ended. */
	role: Role | null;
	state: JobState;
	result: unknown;
	error: string | null;
	attempts: number;
	beganAt: string;
	endedAt: string | null;
	noticedAt: string | null;
}

type JobRow = Omit<Job, 'input' | 'result' | 'about'> & { input: string; result: string | null; about: string | null };

const parsed = <T>(text: string | null): T | null => (text === null ? null : (JSON.parse(text) as T));

async function jobsWhere(db: Db, condition: Condition): Promise<Job[]> {
	const found = await rows<JobRow>(
		db,
		sql`SELECT job.id, use_case AS useCase, input, about, label, who, person_id AS personId,
			CASE WHEN person_id IS NULL THEN 'administrator' WHEN person.ended_at IS NULL THEN person.role END AS role,
			state, result, error, attempts, began_at AS beganAt, job.ended_at AS endedAt, noticed_at AS noticedAt
		 FROM job LEFT JOIN person ON person.id = job.person_id WHERE ${condition}`
	);
	return found.map(({ input, result, about, ...job }) => ({
		...job,
		input: JSON.parse(input) as unknown,
		result: parsed(result),
		about: parsed<JobAbout>(about)
	}));
}

/** A job to be stored. */
export interface NewJob {
	useCase: string;
	input: unknown;
	about: JobAbout;
	label: string;
	by: By;
	/** Whether it begins now; else it waits for {@link takeNoted}. */
	isBegun: boolean;
}

/** Stores a job. @returns its number */
export async function addJob(db: Db, job: NewJob, at: Date): Promise<number> {
	const { useCase, input, about, label, by, isBegun } = job;
	return idOf(
		db('job').insert({
			use_case: useCase,
			input: JSON.stringify(input ?? null),
			about: JSON.stringify(about),
			label,
			who: by.name,
			person_id: by.personId,
			state: 'running',
			attempts: 1,
			is_begun: Number(isBegun),
			began_at: at.toISOString()
		})
	);
}

/** Whether a job of this kind is waiting. */
export async function isNoted(db: Db, useCase: string): Promise<boolean> {
	const found = await row(
		db,
		sql`SELECT 1 FROM job WHERE use_case = ${useCase} AND state = 'running' AND is_begun = 0 LIMIT 1`
	);
	return found !== undefined;
}

/** Takes the enqueued jobs, to begin them. */
export async function takeNoted(db: Db): Promise<Job[]> {
	const noted = await jobsWhere(db, sql`state = 'running' AND is_begun = 0 ORDER BY job.id`);
	await change(db, sql`UPDATE job SET is_begun = 1 WHERE id IN ${inList(noted.map(({ id }) => id))}`);
	return noted;
}

/** Stores the end of a job. */
export async function endJob(
	db: Db,
	id: number,
	{ state, result, error = null }: { state: JobState; result?: unknown; error?: string | null },
	at: Date
): Promise<void> {
	await db('job')
		.where({ id })
		.update({ state, result: result === undefined ? null : JSON.stringify(result), error, ended_at: at.toISOString() });
}

/** Stops jobs that were running or enqueued in a backup that is restored. @param spared use cases that go on */
export async function stopRestoredJobs(db: Db, spared: readonly string[], at: Date): Promise<void> {
	await db('job')
		.where({ state: 'running' })
		.whereNotIn('use_case', [...spared])
		.update({
			state: 'stopped',
			error:
				'A backup was restored. This work may have been stopped or taken back since: begin it again if it is still wanted.',
			ended_at: at.toISOString()
		});
}

/** Records another attempt at a job. */
export async function retryJob(db: Db, id: number): Promise<void> {
	await change(db, sql`UPDATE job SET attempts = attempts + 1, is_begun = 1 WHERE id = ${id}`);
}

/** Records that jobs have progressed: an interruption from here on is not their fault. */
export async function noteProgressed(db: Db, ids: readonly number[]): Promise<void> {
	await change(db, sql`UPDATE job SET attempts = 0 WHERE state = 'running' AND id IN ${inList(ids)}`);
}

/** Restarts a job that failed or was given up. @returns whether there was one */
export async function reopenJob(db: Db, id: number): Promise<boolean> {
	const opened = await change(
		db,
		sql`UPDATE job SET state = 'running', attempts = 1, error = NULL, result = NULL, ended_at = NULL, noticed_at = NULL
		 WHERE id = ${id} AND state IN ('failed', 'stopped')`
	);
	return opened > 0;
}

/** Running, interrupted and enqueued jobs. */
export async function runningJobs(db: Db): Promise<Job[]> {
	return jobsWhere(db, sql`state = 'running' ORDER BY job.id`);
}

/** The newest jobs. */
export async function listJobs(db: Db, limit: number): Promise<Job[]> {
	return jobsWhere(db, sql`1 ORDER BY job.id DESC LIMIT ${limit}`);
}

/** The job with that number. */
export async function getJob(db: Db, id: number): Promise<Job | undefined> {
	return (await jobsWhere(db, sql`job.id = ${id}`))[0];
}

/** Records that the results of ended jobs were seen. */
export async function noticeJobs(db: Db, at: Date): Promise<void> {
	await db('job').whereNull('noticed_at').whereNot('state', 'running').update({ noticed_at: at.toISOString() });
}
