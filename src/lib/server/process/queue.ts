import { EventEmitter } from 'node:events';
import { type Actor, administratorNamed, KOVREL } from '../../../core/access/roles.ts';
import type { Job } from '../queue/jobs-store.ts';
import type { Progress } from '../context/context.ts';
import { Refusal } from '../refusal.ts';
import type { InputOf, JobName } from './use-cases.ts';
import { log } from '../log.ts';
import type { DocketOutcome } from '../docket/carry-out.ts';
import type { NightRun } from './night.ts';
import type { OfficeThread } from './thread.ts';

/** A job with how far it has come. */
export interface JobStatus extends Omit<Job, 'input'> {
	progress: Progress | undefined;
}

/* Jobs of one lane wait for each other; those of different lanes share their thread, transaction by transaction. */
type Lane = 'import' | 'docket' | 'check' | 'look' | 'outside' | 'files';
/* Lanes of the thread that reads everything: what parses mail, or goes through all of it, holds up no change. */
const READS_ALL: readonly Lane[] = ['check', 'look'];
const LANES: Record<JobName, Lane> = {
	importMailbox: 'import',
	carryOut: 'docket',
	takeBack: 'docket',
	rereadMail: 'import',
	readFiles: 'files',
	findProposals: 'look',
	leaveLists: 'outside',
	makeDigests: 'docket',
	recalculateDue: 'docket',
	runSchedule: 'docket',
	runNight: 'docket',
	letDaysPass: 'docket',
	verifyArchive: 'check',
	exportMail: 'check',
	backUp: 'check'
};

/* Whether they may was asked when the job was begun. */
const actorOf = ({ who }: Job): Actor => administratorNamed(who);

/* After these there may be attachments that nobody has looked into. */
const BRINGS_MAIL: readonly JobName[] = ['importMailbox', 'letDaysPass', 'runNight'];

interface JobEnd {
	state: 'done' | 'failed' | 'stopped';
	result?: unknown;
	error?: string;
}

interface Running {
	status: JobStatus;
	stop: AbortController;
	/** Whether it has come further since it was begun. */
	hasProgressed?: boolean;
}

/** Work in the background: begun, followed, stopped, gone on with after a crash. */
export class JobQueue {
	/** Emits `job` with a {@link JobStatus} whenever one begins, moves or ends. */
	readonly events = new EventEmitter();
	#writer: OfficeThread;
	#checker: OfficeThread;
	#running = new Map<number, Running>();
	#lanes = new Map<Lane, Promise<unknown>>();
	#closing = false;

	constructor(threads: { writer: OfficeThread; checker: OfficeThread }) {
		this.#writer = threads.writer;
		this.#checker = threads.checker;
		this.events.setMaxListeners(0);
	}

	/** Begins a job and returns its number at once. */
	async start<N extends JobName>(useCase: N, input: InputOf<N>, label: string, actor: Actor): Promise<number> {
		const job = await this.#writer.call('beginJob', { useCase, input, label }, { actor });
		this.#run(job);
		return job.id;
	}

	/** Goes on with the jobs that were cut off. */
	async resume(): Promise<void> {
		for (const job of await this.#writer.call('jobsToResume', undefined, { actor: KOVREL })) this.#run(job);
	}

	/** Has new attachments looked into, where there are any. */
	async lookIntoFiles(actor: Actor): Promise<void> {
		const isRunning = this.running().some(({ useCase }) => useCase === 'readFiles');
		if (!isRunning && (await this.#writer.call('filesWait', undefined, { actor })))
			await this.start('readFiles', undefined, 'Words inside attachments', actor);
	}

	/** Jobs that are running now. */
	running(): JobStatus[] {
		return [...this.#running.values()].map(({ status }) => status);
	}

	/** Stops a job between two of its steps; what it has done is kept. */
	stop(id: number): boolean {
		const running = this.#running.get(id);
		running?.stop.abort();
		return running !== undefined;
	}

	/** Begins a job again that failed, was stopped or was given up. @throws Refusal where it has not ended so */
	async retry(id: number): Promise<void> {
		this.#run(await this.#writer.call('retryEndedJob', { id }, { actor: KOVREL }));
	}

	/**
	 * Lets no job begin any more: the server ends. Jobs that are cut off go on at the next start, and such an end is none of their
	 * attempts.
	 */
	async close(): Promise<void> {
		this.#closing = true;
		const ids = [...this.#running.keys()];
		if (ids.length > 0) await this.#noteProgressed(ids);
	}

	/* Where it cannot be noted, the attempt counts: that is no reason to end a job, or not to end the server. */
	async #noteProgressed(ids: number[]): Promise<void> {
		await this.#writer
			.call('noteJobsProgressed', { ids }, { actor: KOVREL })
			.catch((error: unknown) => log.warn({ error }, 'how far jobs have come could not be noted'));
	}

	#run(job: Job): void {
		const running: Running = { status: { ...job, progress: undefined }, stop: new AbortController() };
		this.#running.set(job.id, running);
		this.events.emit('job', running.status);
		const lane = LANES[job.useCase as JobName];
		const work = (this.#lanes.get(lane) ?? Promise.resolve()).then(() => this.#carryThrough(job, running));
		this.#lanes.set(lane, work);
	}

	/* Where not even that can be written, the job stays "running" in the database, and goes on at the next start. */
	async #finish(job: Job, end: JobEnd): Promise<Job> {
		try {
			return await this.#writer.call('finishJob', { id: job.id, ...end }, { actor: KOVREL });
		} catch (error) {
			if (!this.#closing) log.error({ error, job: job.id }, 'how a job ended could not be noted');
			return { ...job, state: end.state, error: end.error ?? null };
		}
	}

	/* Once for each start: from then on, a cut is not the job's doing. */
	#hasProgressed(job: Job, running: Running): void {
		if (running.hasProgressed) return;
		running.hasProgressed = true;
		void this.#noteProgressed([job.id]);
	}

	/* What begins when a job is done: work of its own, so that it fails by itself. */
	async #followUp(job: Job, result: unknown): Promise<void> {
		// lists are asked apart: one that does not answer holds up no docket
		if (job.useCase === 'carryOut' && (result as DocketOutcome).toAsk > 0)
			await this.start(
				'leaveLists',
				{ docketId: (result as DocketOutcome).docket },
				'Asking lists to stop',
				actorOf(job)
			);
		if (BRINGS_MAIL.includes(job.useCase as JobName)) await this.lookIntoFiles(actorOf(job));
		// so that what the night did is in it; it reads everything, and nothing waits for it
		const { backupTo } = (result ?? {}) as Partial<NightRun>;
		if (backupTo) await this.start('backUp', { out: backupTo }, `The backup of the night to ${backupTo}`, actorOf(job));
	}

	async #carryThrough(job: Job, running: Running): Promise<void> {
		const thread = READS_ALL.includes(LANES[job.useCase as JobName]) ? this.#checker : this.#writer;
		let end: JobEnd;
		try {
			const result = await thread.call(job.useCase as JobName, job.input as never, {
				actor: actorOf(job),
				signal: running.stop.signal,
				onProgress: (progress) => {
					const before = running.status.progress?.done ?? 0;
					running.status = { ...running.status, progress };
					this.events.emit('job', running.status);
					if (progress.done > before) this.#hasProgressed(job, running);
				}
			});
			end = { state: running.stop.signal.aborted ? 'stopped' : 'done', result };
			await this.#followUp(job, result).catch((error: unknown) => {
				// what was done is done, whatever was to come after it
				if (!this.#closing)
					log.error({ error, job: job.id, useCase: job.useCase }, 'what follows a job could not begin');
			});
		} catch (error) {
			// the server is ending: the job stays "running" in the database and goes on at the next start
			if (this.#closing) return;
			if (!(error instanceof Refusal)) log.error({ error, job: job.id, useCase: job.useCase }, 'a job failed');
			end = {
				state: 'failed',
				error:
					error instanceof Refusal
						? error.message
						: 'Something went wrong that nobody foresaw; the log has the details. What was done by then is kept.'
			};
		}
		if (this.#closing) return;
		const ended = await this.#finish(job, end);
		this.#running.delete(job.id);
		this.events.emit('job', { ...ended, progress: undefined } satisfies JobStatus);
	}
}
