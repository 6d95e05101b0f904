import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import type { Actor } from '../../../core/access/roles.ts';
import type { Progress } from '../context/index.ts';
import { Refusal, type RefusalCode } from '../refusal.ts';
import type { Job } from '../queue/index.ts';
import type { InputOf, JobName, OutputOf, StreamName, UseCaseName } from './use-cases.ts';
import officeWorker from './office.worker.ts?nodeworker';

/** The start data of a thread. */
export interface ThreadData {
	dataFolder: string;
	readonly: boolean;
	/** How far its priority is below that of others, see {@link lowerPriority}. */
	nice?: number;
}

/** Runs a use case. */
export interface Asking {
	id: number;
	useCase: string;
	input: unknown;
	actor: Actor;
	/** Whether an interrupted job goes on. */
	resumes?: boolean;
}

/** Stores that a job of a use case begins. */
export type Beginning = Asking & { begins: true };

/** Messages to a thread. */
export type Question =
	| Asking
	| Beginning
	| (Asking & { streams: true })
	| { stop: number }
	/** The next bytes of a stream, or its cancellation. */
	| { next: number }
	| { cancel: number }
	| { close: true };

/** Messages from a thread. */
export type Answer = { id: number } & (
	| { result: unknown }
	| { progress: Progress }
	| { bytes: Uint8Array }
	| { refused: { code: RefusalCode; message: string } }
	| { failed: string }
);

/** Sent if a use case may have enqueued a job. */
export interface Noted {
	hasNoted: true;
}

/** The way a use case is run. */
export interface CallOptions {
	actor: Actor;
	signal?: AbortSignal;
	onProgress?: (progress: Progress) => void;
	/** Whether an interrupted job goes on. */
	resumes?: boolean;
}

interface Waiting {
	resolve(result: unknown): void;
	reject(error: Error): void;
	onProgress: ((progress: Progress) => void) | undefined;
}

/** A thread died during a question; the next question starts it again. */
export class ThreadEndedError extends Error {
	constructor() {
		super('The worker thread has ended');
	}
}

/**
 * A worker thread with its own database connection; use cases are called by name. If it dies (parsing mail can run
 * out of memory), pending calls are told, and the next one starts it again. It starts when it is first asked.
 */
export class OfficeThread {
	readonly #data: ThreadData;
	readonly #script: string | URL;
	#worker: Worker | undefined;
	#waiting = new Map<number, Waiting>();
	#lastId = 0;
	#isClosed = false;
	/** Called when a job may have been enqueued. */
	onNoted: () => void = () => {};

	/** @param script what the thread runs; a test has its own */
	constructor(data: ThreadData, script: string | URL = officeWorker) {
		this.#data = data;
		this.#script = script;
	}

	/** Starts the thread before it is asked, so that the first question does not wait for it. */
	start(): void {
		if (!this.#isClosed) this.#worker ??= this.#begin();
	}

	#begin(): Worker {
		const worker = new Worker(this.#script, { workerData: this.#data });
		worker.on('message', (told: Answer | Noted) => ('hasNoted' in told ? this.onNoted() : this.#take(told)));
		worker.on('error', (error) => this.#fail(error instanceof Error ? error : new Error(String(error))));
		worker.on('exit', () => {
			if (this.#worker === worker) this.#worker = undefined;
			this.#fail(new ThreadEndedError());
		});
		return worker;
	}

	/* The thread, started again if it has died, but not after it was closed. */
	#running(): Worker {
		if (this.#isClosed) throw new ThreadEndedError();
		this.#worker ??= this.#begin();
		return this.#worker;
	}

	/** Runs a use case. @throws Refusal, or Error for an unexpected failure */
	async call<N extends UseCaseName>(useCase: N, input: InputOf<N>, options: CallOptions): Promise<OutputOf<N>> {
		return (await this.#ask({ useCase, input }, options)) as OutputOf<N>;
	}

	/** Stores that a job begins. @throws Refusal */
	async begin<N extends JobName>(useCase: N, input: InputOf<N>, options: CallOptions): Promise<Job> {
		return (await this.#ask({ useCase, input, begins: true }, options)) as Job;
	}

	async #ask(
		what: { useCase: string; input: unknown; begins?: true },
		{ actor, signal, onProgress, resumes = false }: CallOptions
	): Promise<unknown> {
		const worker = this.#running();
		const id = ++this.#lastId;
		const stop = () => worker.postMessage({ stop: id } satisfies Question);
		signal?.addEventListener('abort', stop, { once: true });
		try {
			return await new Promise<unknown>((resolve, reject) => {
				this.#waiting.set(id, { resolve, reject, onProgress });
				worker.postMessage({ id, ...what, actor, resumes } satisfies Question);
				if (signal?.aborted) stop();
			});
		} finally {
			signal?.removeEventListener('abort', stop);
		}
	}

	/**
	 * Runs a use case that returns bytes, as a stream, which advances only as it is read.
	 *
	 * @throws Refusal where it refuses before its first bytes
	 */
	async stream<N extends StreamName>(
		useCase: N,
		input: InputOf<N>,
		{ actor }: Pick<CallOptions, 'actor'>
	): Promise<ReadableStream<Uint8Array>> {
		const worker = this.#running();
		const id = ++this.#lastId;
		const next = (question: Question): Promise<Uint8Array | undefined> =>
			new Promise<unknown>((resolve, reject) => {
				// a thread started since does not know this stream
				if (this.#worker !== worker) {
					reject(new ThreadEndedError());
					return;
				}
				this.#waiting.set(id, { resolve, reject, onProgress: undefined });
				worker.postMessage(question);
			}) as Promise<Uint8Array | undefined>;
		let ahead: Promise<Uint8Array | undefined> | undefined = Promise.resolve(
			await next({ id, useCase, input, actor, streams: true } satisfies Question)
		);
		return new ReadableStream<Uint8Array>(
			{
				pull: async (controller) => {
					const bytes = await (ahead ?? next({ next: id }));
					ahead = undefined;
					if (bytes) controller.enqueue(bytes);
					else controller.close();
				},
				cancel: () => worker.postMessage({ cancel: id } satisfies Question)
			},
			{ highWaterMark: 0 }
		);
	}

	/** Stops running work between two steps, closes the connection and ends the thread. */
	async close(): Promise<void> {
		this.#isClosed = true;
		const worker = this.#worker;
		if (!worker) return;
		const ended = once(worker, 'exit');
		worker.postMessage({ close: true } satisfies Question);
		await ended;
	}

	#take(answer: Answer): void {
		const waiting = this.#waiting.get(answer.id);
		if (!waiting) return;
		if ('progress' in answer) {
			waiting.onProgress?.(answer.progress);
			return;
		}
		this.#waiting.delete(answer.id);
		if ('bytes' in answer) waiting.resolve(answer.bytes);
		else if ('result' in answer) waiting.resolve(answer.result);
		else if ('refused' in answer) waiting.reject(new Refusal(answer.refused.code, answer.refused.message));
		else waiting.reject(new Error(answer.failed));
	}

	#fail(error: Error): void {
		for (const waiting of this.#waiting.values()) waiting.reject(error);
		this.#waiting.clear();
	}
}
