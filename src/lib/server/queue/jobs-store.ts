import type { Db } from '../database/open.ts';
import { change, insert, row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';

export type JobState = 'running' | 'done' | 'failed' | 'stopped';

/** Work that goes on in the background. */
export interface Job {
	id: number;
	useCase: string;
	input: unknown;
	/** What it does, for the person who waits for it. */
	label: string;
	who: string;
	state: JobState;
	result: unknown;
	error: string | null;
	attempts: number;
	beganAt: string;
	endedAt: string | null;
	noticedAt: string | null;
}

type JobRow = Omit<Job, 'input' | 'result'> & { input: string; result: string | null };

const COLUMNS = sql`id, use_case AS useCase, input, label, who, state, result, error, attempts, began_at AS beganAt,
	ended_at AS endedAt, noticed_at AS noticedAt`;

function toJob(found: JobRow): Job {
	return { ...found, input: JSON.parse(found.input), result: found.result === null ? null : JSON.parse(found.result) };
}

/** Notes that a job begins. */
export async function addJob(db: Db, job: Pick<Job, 'useCase' | 'input' | 'label' | 'who'>, at: Date): Promise<number> {
	return insert(
		db,
		sql`INSERT INTO job (use_case, input, label, who, state, attempts, began_at) VALUES (${job.useCase}, ${JSON.stringify(job.input ?? null)}, ${job.label}, ${job.who}, 'running', 1, ${at.toISOString()})`
	);
}

/** Notes how a job ended. */
export async function endJob(
	db: Db,
	id: number,
	end: { state: JobState; result?: unknown; error?: string },
	at: Date
): Promise<void> {
	await change(
		db,
		sql`UPDATE job SET state = ${end.state}, result = ${end.result === undefined ? null : JSON.stringify(end.result)}, error = ${end.error ?? null}, ended_at = ${at.toISOString()} WHERE id = ${id}`
	);
}

/** Notes that a job is begun once more. */
export async function retryJob(db: Db, id: number): Promise<void> {
	await change(db, sql`UPDATE job SET attempts = attempts + 1 WHERE id = ${id}`);
}

/** Notes that jobs have come further since they were begun: what cuts them off from here on is not their doing. */
export async function noteProgressed(db: Db, ids: readonly number[]): Promise<void> {
	await change(
		db,
		sql`UPDATE job SET attempts = 0 WHERE state = 'running' AND id IN (SELECT value FROM json_each(${JSON.stringify(ids)}))`
	);
}

/** Begins a job that failed or was given up once more. @returns whether there was one */
export async function reopenJob(db: Db, id: number): Promise<boolean> {
	const opened = await change(
		db,
		sql`UPDATE job SET state = 'running', attempts = 1, error = NULL, result = NULL, ended_at = NULL, noticed_at = NULL
		 WHERE id = ${id} AND state IN ('failed', 'stopped')`
	);
	return opened > 0;
}

/** Jobs that were cut off. */
export async function runningJobs(db: Db): Promise<Job[]> {
	return (await rows<JobRow>(db, sql`SELECT ${COLUMNS} FROM job WHERE state = 'running' ORDER BY id`)).map(toJob);
}

/** The newest jobs. */
export async function listJobs(db: Db, limit: number): Promise<Job[]> {
	return (await rows<JobRow>(db, sql`SELECT ${COLUMNS} FROM job ORDER BY id DESC LIMIT ${limit}`)).map(toJob);
}

/** The job with that number. */
export async function getJob(db: Db, id: number): Promise<Job | undefined> {
	const found = await row<JobRow>(db, sql`SELECT ${COLUMNS} FROM job WHERE id = ${id}`);
	return found && toJob(found);
}

/** Notes that the results of ended jobs were seen. */
export async function noticeJobs(db: Db, at: Date): Promise<void> {
	await change(
		db,
		sql`UPDATE job SET noticed_at = ${at.toISOString()} WHERE noticed_at IS NULL AND state <> 'running'`
	);
}
