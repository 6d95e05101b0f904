import { EventEmitter } from 'node:events';
import { type Actor, KOVREL } from '../../../core/access/roles.ts';
import type { Lane, Progress } from '../context/index.ts';
import { log } from '../log.ts';
import type { Job } from '../queue/index.ts';
import { Refusal } from '../refusal.ts';
import { type OfficeThread, ThreadEndedError } from './thread.ts';
import { type InputOf, type JobName, USE_CASE_NAMES, useCase } from './use-cases.ts';

/** A job with its progress. */
export interface JobStatus extends Omit<Job, 'input'> {
	progress: Progress | undefined;
}

/* The actor: the person who began it, with their present rights. */
function actorOf({ personId, who, role }: Job): Actor {
	if (role === null)
		throw new Refusal('forbidden', `${who}, who began it, has no access any more. What was done by then is kept.`);
	return { personId, name: who, role };
}

/* A use case of an earlier version may be unknown: its job fails when it begins. */
const laneOf = ({ useCase: name }: Job): Lane | undefined =>
	USE_CASE_NAMES.includes(name) ? useCase(name).job?.lane : undefined;

interface JobEnd {
	state: 'done' | 'failed' | 'stopped';
	result?: unknown;
	error?: string;
}

interface Running {
	status: JobStatus;
	stop: AbortController;
	/** Whether it has progressed since it began. */
	hasProgressed?: boolean;
}

/** Background work: begun, followed, stopped, continued after a crash. */
export class JobQueue {
	/** Emits `job` with a {@link JobStatus} whenever one begins, progresses or ends. */
	readonly events = new EventEmitter();
	#writer: OfficeThread;
	#checker: OfficeThread;
	#running = new Map<number, Running>();
	#lanes = new Map<Lane | undefined, Promise<unknown>>();
	#closing = false;

	constructor(threads: { writer: OfficeThread; checker: OfficeThread }) {
		this.#writer = threads.writer;
		this.#checker = threads.checker;
		this.events.setMaxListeners(0);
		for (const thread of [threads.writer, threads.checker])
			thread.onNoted = () =>
				void this.#takeNoted().catch((error: unknown) => {
					// it stays enqueued, and begins at the next start
					if (!this.#closing) log.error({ error }, 'a job that was noted could not be begun');
				});
	}

	/** Begins a job and returns its number at once. */
	async start<N extends JobName>(name: N, input: InputOf<N>, actor: Actor): Promise<number> {
		const job = await this.#writer.begin(name, input, { actor });
		this.#run(job);
		return job.id;
	}

	/** Continues interrupted jobs. */
	async resume(): Promise<void> {
		for (const job of await this.#writer.call('jobsToResume', undefined, { actor: KOVREL })) this.#run(job, true);
	}

	/* Begins enqueued jobs. */
	async #takeNoted(): Promise<void> {
		if (this.#closing) return;
		for (const job of await this.#writer.call('takeNotedJobs', undefined, { actor: KOVREL })) this.#run(job);
	}

	/** Jobs that are running now. */
	running(): JobStatus[] {
		return [...this.#running.values()].map(({ status }) => status);
	}

	/** Stops a job between two steps; what it has done stays. */
	stop(id: number): boolean {
		const running = this.#running.get(id);
		running?.stop.abort();
		return running !== undefined;
	}

	/** Restarts a job that failed, was stopped or was given up. @throws Refusal if it has not ended so */
	async retry(id: number): Promise<void> {
		this.#run(await this.#writer.call('retryEndedJob', { id }, { actor: KOVREL }), true);
	}

	/**
	 * Begins no more jobs, as the server ends. Interrupted jobs continue at the next start, and such an end does not
	 * count as an attempt.
	 */
	async close(): Promise<void> {
		this.#closing = true;
		const ids = [...this.#running.keys()];
		if (ids.length > 0) await this.#noteProgressed(ids);
	}

	/* If it cannot be recorded, the attempt counts: neither the job nor the end of the server depends on it. */
	async #noteProgressed(ids: number[]): Promise<void> {
		await this.#writer
			.call('noteJobsProgressed', { ids }, { actor: KOVREL })
			.catch((error: unknown) => log.warn({ error }, 'how far jobs have come could not be noted'));
	}

	#run(job: Job, resumes = false): void {
		const running: Running = { status: { ...job, progress: undefined }, stop: new AbortController() };
		this.#running.set(job.id, running);
		this.events.emit('job', running.status);
		const lane = laneOf(job);
		const work = (this.#lanes.get(lane) ?? Promise.resolve()).then(() => this.#carryThrough(job, running, resumes));
		this.#lanes.set(lane, work);
	}

	/* If even that cannot be written, the job stays "running" in the database, and continues at the next start. */
	async #finish(job: Job, end: JobEnd): Promise<Job> {
		try {
			return await this.#writer.call('finishJob', { id: job.id, ...end }, { actor: KOVREL });
		} catch (error) {
			if (!this.#closing) log.error({ error, job: job.id }, 'how a job ended could not be noted');
			return { ...job, state: end.state, error: end.error ?? null };
		}
	}

	/* Once for each start: from then on an interruption is not the job's fault. */
	#hasProgressed(job: Job, running: Running): void {
		if (running.hasProgressed) return;
		running.hasProgressed = true;
		void this.#noteProgressed([job.id]);
	}

	/* Its thread died and is started again; so is the job, unless it failed too often. */
	async #goOn(job: Job): Promise<boolean> {
		try {
			const now = await this.#writer.call('resumeJob', { id: job.id }, { actor: KOVREL });
			log.warn({ job: job.id, useCase: job.useCase, state: now.state }, 'the thread of a job ended');
			if (now.state === 'running') this.#run(now, true);
			else this.#tellEnd(now);
			return true;
		} catch (error) {
			log.error({ error, job: job.id }, 'a job whose thread ended could not go on');
			return false;
		}
	}

	#tellEnd(ended: Job): void {
		this.#running.delete(ended.id);
		this.events.emit('job', { ...ended, progress: undefined } satisfies JobStatus);
	}

	async #carryThrough(job: Job, running: Running, resumes: boolean): Promise<void> {
		let end: JobEnd;
		try {
			const thread = useCase(job.useCase).thread === 'checker' ? this.#checker : this.#writer;
			const result = await thread.call(job.useCase as JobName, job.input as never, {
				actor: actorOf(job),
				signal: running.stop.signal,
				resumes,
				onProgress: (progress) => {
					const before = running.status.progress?.done ?? 0;
					running.status = { ...running.status, progress };
					this.events.emit('job', running.status);
					if (progress.done > before) this.#hasProgressed(job, running);
				}
			});
			end = { state: running.stop.signal.aborted ? 'stopped' : 'done', result };
		} catch (error) {
			// the server is ending: the job stays "running" in the database and continues at the next start
			if (this.#closing) return;
			if (error instanceof ThreadEndedError && (await this.#goOn(job))) return;
			if (!(error instanceof Refusal)) log.error({ error, job: job.id, useCase: job.useCase }, 'a job failed');
			end = {
				state: 'failed',
				error:
					error instanceof Refusal
						? error.message
						: 'Kovrel made a mistake here; the log has the details. What was done by then is kept. Try it again.'
			};
		}
		if (this.#closing) return;
		const ended = await this.#finish(job, end);
		this.#tellEnd(ended);
	}
}
