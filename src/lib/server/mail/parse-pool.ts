import { availableParallelism } from 'node:os';
import { Tinypool } from 'tinypool';
import parseWorker from './parse.worker.ts?nodeworker';
import type { MessageWays } from '../../../core/lists/message-ways.ts';
import type { ParsedMessage } from './parse.worker.ts';

let pool: Tinypool | undefined;
let warm: Promise<unknown> | undefined;

/*
 * A pool with all threads started: one that queues tasks before then gives each thread only one at a time (tinypool
 * 2.1).
 */
async function warmPool(alone = false): Promise<Tinypool> {
	// the storing thread is as busy as a parsing one; if nobody else waits, no processor has to be spared
	const threads = Math.max(1, Math.min(8, availableParallelism() - (alone ? 0 : 1)));
	pool ??= new Tinypool({
		filename: parseWorker,
		minThreads: threads,
		maxThreads: threads,
		// the storing thread also writes to the database: each parsing thread has tasks waiting meanwhile
		concurrentTasksPerWorker: 200,
		// a bundle's objects are short-lived: a smaller nursery promotes many of them, a larger one only takes memory
		resourceLimits: { maxYoungGenerationSizeMb: 24 }
	});
	const made = pool;
	warm ??= Promise.all(Array.from({ length: threads }, () => made.run([])));
	await warm;
	return made;
}

/**
 * Starts the threads while other work goes on.
 *
 * @param alone nobody else waits for this process
 */
export function warmParsePool(alone = false): void {
	// threads ended before they were ready have nobody waiting
	warmPool(alone).catch(() => {});
}

/**
 * Reads messages in a thread, some at a time, as handing over costs as much as reading a small one. The bytes are
 * transferred and cannot be used here afterwards.
 */
export async function parseInThread(messages: readonly Uint8Array[]): Promise<ParsedMessage[]> {
	return (await runInThread('default', messages)) as ParsedMessage[];
}

/** Reads the ways to unsubscribe in a thread, from one message of each list; the bytes are transferred. */
export async function readWaysInThread(messages: readonly Uint8Array[]): Promise<MessageWays[]> {
	return (await runInThread('readAllWays', messages)) as MessageWays[];
}

async function runInThread(name: 'default' | 'readAllWays', messages: readonly Uint8Array[]): Promise<unknown> {
	const threads = await warmPool();
	// a slice of a larger buffer is copied first
	const own = messages.map((bytes) => (bytes.byteLength === bytes.buffer.byteLength ? bytes : new Uint8Array(bytes)));
	return threads.run(own, { name, transferList: own.map(({ buffer }) => buffer as ArrayBuffer) });
}

/** Ends the threads. */
export async function closeParsePool(): Promise<void> {
	const made = pool;
	pool = undefined;
	warm = undefined;
	await made?.destroy();
}
