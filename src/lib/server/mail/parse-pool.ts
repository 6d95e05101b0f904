import { availableParallelism } from 'node:os';
import { Tinypool } from 'tinypool';
import parseWorker from './parse.worker.ts?nodeworker';
import type { MessageWays } from '../../../core/lists/message-ways.ts';
import type { ParsedMessage } from './parse.worker.ts';

let pool: Tinypool | undefined;
let warm: Promise<unknown> | undefined;

/* A pool whose threads are all there: one that has to queue tasks until then gives each thread only one at a time from
   then on (tinypool 2.1). */
async function warmPool(alone = false): Promise<Tinypool> {
	// the thread that hands out and stores is as busy as one that reads; where nobody else waits, none has to be idle
	const threads = Math.max(1, Math.min(8, availableParallelism() - (alone ? 0 : 1)));
	pool ??= new Tinypool({
		filename: parseWorker,
		minThreads: threads,
		maxThreads: threads,
		// the thread that hands out bundles also writes to the database: each has some waiting meanwhile
		concurrentTasksPerWorker: 200,
		// what a bundle needs is short-lived: with less, much of it outlives a collection; with more, it would only be memory
		resourceLimits: { maxYoungGenerationSizeMb: 24 }
	});
	const made = pool;
	warm ??= Promise.all(Array.from({ length: threads }, () => made.run([])));
	await warm;
	return made;
}

/**
 * Has the threads started while something else is done.
 *
 * @param alone nobody else waits for this process
 */
export function warmParsePool(alone = false): void {
	// where they are ended before they have come up, nobody waits for them
	warmPool(alone).catch(() => {});
}

/**
 * Reads messages in a thread of its own, some at a time: handing over costs as much as reading a small one. The bytes are
 * handed over and cannot be used here afterwards.
 */
export async function parseInThread(messages: readonly Uint8Array[]): Promise<ParsedMessage[]> {
	return (await runInThread('default', messages)) as ParsedMessage[];
}

/** Reads in a thread of its own how lists can be left, off one message of each; the bytes are handed over. */
export async function readWaysInThread(messages: readonly Uint8Array[]): Promise<MessageWays[]> {
	return (await runInThread('readAllWays', messages)) as MessageWays[];
}

async function runInThread(name: 'default' | 'readAllWays', messages: readonly Uint8Array[]): Promise<unknown> {
	const threads = await warmPool();
	// what does not own its whole buffer is copied first
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
