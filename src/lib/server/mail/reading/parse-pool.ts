import { availableParallelism } from 'node:os';
import type { Tinypool } from 'tinypool';
import type { ParseTask } from './parse.worker.ts';
import parseWorker from './parse.worker.ts?nodeworker';
import type { MessageWays } from '../../../../core/lists/message-ways.ts';
import type { MessageRows } from '../message-rows.ts';
import { type ParsedMessage, unread } from './parse-message.ts';
import { readApart, ReadingEndedError } from './reading-pool.ts';

interface Pool {
	threads: Promise<Tinypool>;
	/** Done once all of them are started. */
	warm: Promise<unknown>;
}

let pool: Pool | undefined;

/* Most commands read no mail: the package is loaded with the first pool. */
function begin(alone: boolean): Pool {
	// the storing thread is as busy as a parsing one; if nobody else waits, no processor has to be spared
	const count = Math.max(1, Math.min(8, availableParallelism() - (alone ? 0 : 1)));
	const threads = import('tinypool').then(
		({ Tinypool }) =>
			new Tinypool({
				filename: parseWorker,
				minThreads: count,
				maxThreads: count,
				// the storing thread also writes to the database: each parsing thread has tasks waiting meanwhile
				concurrentTasksPerWorker: 200,
				// a bundle's objects are short-lived: a smaller nursery promotes many of them, a larger one only takes memory
				resourceLimits: { maxYoungGenerationSizeMb: 24, maxOldGenerationSizeMb: 1_024 }
			})
	);
	const nothing = (): ParseTask => ({ messages: [], present: new Int32Array(1) });
	const warm = threads.then((made) => Promise.all(Array.from({ length: count }, () => made.run(nothing()))));
	return { threads, warm };
}

/*
 * A pool with all threads started: one that queues tasks before then gives each thread only one at a time (tinypool
 * 2.1).
 */
async function warmPool(alone = false): Promise<Tinypool> {
	const begun = (pool ??= begin(alone));
	await begun.warm;
	return begun.threads;
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
 * Reads messages in a thread, some at a time, as handing over costs as much as reading a small one. One that ends the
 * thread is read once more in a process of its own; what ends that too is kept raw.
 */
export function parseInThread(messages: readonly Uint8Array[], limits: Limits = LIMITS): Promise<ParsedMessage[]> {
	return inThread<ParsedMessage>('default', messages, limits, (bytes) =>
		readApart('parse', bytes, limits.aloneMs).catch((error: unknown) => {
			// where the process was ended from outside, as the server ends, it has still to be read
			if (!(error instanceof ReadingEndedError)) throw error;
			return unread(bytes, error);
		})
	);
}

/** Reads stored messages again in a thread; undefined for one that cannot be read. */
export function readAgainInThread(messages: readonly Uint8Array[]): Promise<(MessageRows | undefined)[]> {
	return inThread('readAllAgain', messages, LIMITS, async (bytes) => {
		try {
			return (await readApart('parse', bytes, LIMITS.aloneMs)).read;
		} catch (error) {
			if (!(error instanceof ReadingEndedError)) throw error;
			return undefined;
		}
	});
}

/** Reads the ways to unsubscribe in a thread, from one message of each list. */
export function readWaysInThread(messages: readonly Uint8Array[]): Promise<MessageWays[]> {
	return inThread<MessageWays>('readAllWays', messages, LIMITS, (bytes) =>
		readApart('ways', bytes, LIMITS.aloneMs).catch((error: unknown) => {
			if (!(error instanceof ReadingEndedError)) throw error;
			return { ways: [], noClick: error.message, sender: '', writesTo: '' };
		})
	);
}

async function inThread<T>(
	name: 'default' | 'readAllAgain' | 'readAllWays',
	messages: readonly Uint8Array[],
	{ seconds }: Limits,
	alone: (bytes: Uint8Array) => Promise<T>
): Promise<T[]> {
	const threads = await warmPool();
	// copies are handed over: what ends a thread has to be read again
	const own = messages.map((bytes) => new Uint8Array(bytes));
	const task: ParseTask = { messages: own, present: new Int32Array(new SharedArrayBuffer(4)) };
	const stop = watched(task.present, seconds);
	try {
		return (await threads.run(task, {
			name,
			signal: stop.signal,
			transferList: own.map(({ buffer }) => buffer)
		})) as T[];
	} catch (error) {
		// the threads were ended from outside
		if ((await pool?.threads) !== threads) throw error;
		const results: T[] = [];
		for (const bytes of messages) results.push(await alone(bytes));
		return results;
	} finally {
		underWay.delete(stop);
	}
}

/* ---- messages that take too long ---- */

/** How long a message may take: in a thread, and in a process of its own. */
export interface Limits {
	seconds: number;
	aloneMs: number;
}

/* A message of the largest size that mail servers take is read in two seconds. */
const LIMITS: Limits = { seconds: 20, aloneMs: 20_000 };

interface Watched {
	present: Int32Array;
	seconds: number;
	stop: AbortController;
	signal: AbortSignal;
	/* Which message it read at the last look, and for how many looks. */
	before: number;
	looks: number;
}

const underWay = new Set<Watched>();
let watch: NodeJS.Timeout | undefined;

/* Threads cannot be asked while they read: each says in shared memory which message it reads. */
function watched(present: Int32Array, seconds: number): Watched {
	const stop = new AbortController();
	const one = { present, seconds, stop, signal: stop.signal, before: 0, looks: 0 };
	underWay.add(one);
	watch ??= setInterval(lookAtThreads, 1_000).unref();
	return one;
}

/* Looks are counted, not seconds: a machine that stood still ends no thread. */
function lookAtThreads(): void {
	for (const one of underWay) {
		const now = Atomics.load(one.present, 0);
		one.looks = now > 0 && now === one.before ? one.looks + 1 : 0;
		one.before = now;
		if (now > 0 && one.looks >= one.seconds) one.stop.abort();
	}
	if (underWay.size > 0) return;
	clearInterval(watch);
	watch = undefined;
}

/** Ends the threads. */
export async function closeParsePool(): Promise<void> {
	const ended = pool;
	pool = undefined;
	await (await ended?.threads)?.destroy();
}
