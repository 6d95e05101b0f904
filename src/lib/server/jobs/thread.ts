import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import type { Actor } from '../../../core/access/roles.ts';
import type { Progress } from '../work/context.ts';
import { Refusal, type RefusalCode } from '../refusal.ts';
import type { InputOf, OutputOf, StreamName, streams, UseCaseName } from '../work/use-cases.ts';
import officeWorker from './office.worker.ts?nodeworker';

/** What a thread is started with. */
export interface ThreadData {
	dataFolder: string;
	readonly: boolean;
	/** How far it stands behind other threads, see {@link letOthersGoFirst}. */
	nice?: number;
}

/** What a thread is told. */
export type Question =
	| { id: number; useCase: string; input: unknown; actor: Actor }
	| { stop: number }
	/** The next bytes of a stream, or an end to it. */
	| { next: number }
	| { cancel: number }
	| { close: true };

/** What a thread tells. */
export type Answer = { id: number } & (
	| { result: unknown }
	| { progress: Progress }
	| { bytes: Uint8Array }
	| { refused: { code: RefusalCode; message: string } }
	| { failed: string }
);

/** How a use case is carried out. */
export interface CallOptions {
	actor: Actor;
	signal?: AbortSignal;
	onProgress?: (progress: Progress) => void;
}

interface Waiting {
	resolve(result: unknown): void;
	reject(error: Error): void;
	onProgress: ((progress: Progress) => void) | undefined;
}

const ENDED = 'The worker thread has ended';

/** A worker thread with its own database connection, asked by the names of use cases. */
export class OfficeThread {
	#worker: Worker;
	#waiting = new Map<number, Waiting>();
	#lastId = 0;
	#hasEnded = false;

	constructor(data: ThreadData) {
		this.#worker = new Worker(officeWorker, { workerData: data });
		this.#worker.on('message', (answer: Answer) => this.#take(answer));
		this.#worker.on('error', (error) => this.#fail(error instanceof Error ? error : new Error(String(error))));
		this.#worker.on('exit', () => {
			this.#hasEnded = true;
			this.#fail(new Error(ENDED));
		});
	}

	/** Has a use case carried out. @throws Refusal, or Error for what nobody foresaw */
	call<N extends UseCaseName>(
		useCase: N,
		input: InputOf<N>,
		{ actor, signal, onProgress }: CallOptions
	): Promise<OutputOf<N>> {
		if (this.#hasEnded) return Promise.reject(new Error(ENDED));
		const id = ++this.#lastId;
		const stop = () => this.#worker.postMessage({ stop: id } satisfies Question);
		signal?.addEventListener('abort', stop, { once: true });
		return new Promise<unknown>((resolve, reject) => {
			this.#waiting.set(id, { resolve, reject, onProgress });
			this.#worker.postMessage({ id, useCase, input, actor } satisfies Question);
			if (signal?.aborted) stop();
		}).finally(() => signal?.removeEventListener('abort', stop)) as Promise<OutputOf<N>>;
	}

	/**
	 * Has a use case carried out that answers with bytes, as a stream; it goes no further than it is read.
	 *
	 * @throws Refusal where it refuses before its first bytes
	 */
	async stream<N extends StreamName>(
		useCase: N,
		input: Parameters<(typeof streams)[N]>[1],
		{ actor }: Pick<CallOptions, 'actor'>
	): Promise<ReadableStream<Uint8Array>> {
		const id = ++this.#lastId;
		const next = (question: Question): Promise<Uint8Array | undefined> =>
			new Promise<unknown>((resolve, reject) => {
				this.#waiting.set(id, { resolve, reject, onProgress: undefined });
				this.#worker.postMessage(question);
			}) as Promise<Uint8Array | undefined>;
		let ahead: Promise<Uint8Array | undefined> | undefined = Promise.resolve(
			await next({ id, useCase, input, actor } satisfies Question)
		);
		return new ReadableStream<Uint8Array>(
			{
				pull: async (controller) => {
					const bytes = await (ahead ?? next({ next: id }));
					ahead = undefined;
					if (bytes) controller.enqueue(bytes);
					else controller.close();
				},
				cancel: () => this.#worker.postMessage({ cancel: id } satisfies Question)
			},
			{ highWaterMark: 0 }
		);
	}

	/** Stops what is running between two steps, closes the connection and ends the thread. */
	async close(): Promise<void> {
		if (this.#hasEnded) return;
		const ended = once(this.#worker, 'exit');
		this.#worker.postMessage({ close: true } satisfies Question);
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
