import { availableParallelism } from 'node:os';
import { Tinypool } from 'tinypool';
import type * as readers from './reading.worker.ts';
import readingWorker from './reading.worker.ts?nodeworker';

/** A message took longer to be read, or more memory, than mail takes that was not made to. */
export class ReadingEndedError extends Error {
	override name = 'ReadingEndedError';
	readonly why: 'took-too-long' | 'took-too-much';
	constructor(why: 'took-too-long' | 'took-too-much') {
		super(why === 'took-too-long' ? 'reading it takes too long' : 'reading it takes too much memory');
		this.why = why;
	}
}

type Readers = Omit<typeof readers, 'default'>;

let pool: Tinypool | undefined;

/* For a document; a page waits less long. */
const LONGEST_MS = 20_000;
/* Of several people who read, one who opens hostile mail does not hold up all. */
const PROCESSES = Math.min(4, availableParallelism()) + 1;

/** How many messages can be read at once while one process is left to people who read. */
export const READ_BESIDE_PEOPLE = PROCESSES - 1;

/* Several messages may end their process at the same time. */
const MOST_TRIES = 4;

/* The time of a message begins when it is its turn, not while it waits behind others. */
const waiting: (() => void)[] = [];
let underWay = 0;

async function inTurn<T>(work: () => Promise<T>): Promise<T> {
	if (underWay < PROCESSES) underWay++;
	else await new Promise<void>((resolve) => waiting.push(resolve));
	try {
		return await work();
	} finally {
		const next = waiting.shift();
		if (next) next();
		else underWay--;
	}
}

const begun = () =>
	new Tinypool({
		filename: readingWorker,
		runtime: 'child_process',
		serialization: 'advanced',
		// it knows nothing of the server's secrets
		env: {},
		execArgv: ['--max-old-space-size=512'],
		minThreads: 0,
		maxThreads: PROCESSES,
		// a person who reads does not wait for it to begin again
		idleTimeout: 600_000
	});

/**
 * Reads a message in a process of its own, which is ended if it takes too long or too much memory, buffers counted.
 *
 * @param name what to read of it (mail/reading/reading.worker)
 * @throws ReadingEndedError
 * @throws Error where the pool is closed meanwhile, or reading fails
 */
export function readApart<N extends keyof Readers>(
	name: N,
	bytes: Uint8Array,
	longestMs = LONGEST_MS
): Promise<Awaited<ReturnType<Readers[N]>>> {
	return inTurn(() => read(name, bytes, longestMs, MOST_TRIES));
}

async function read<N extends keyof Readers>(
	name: N,
	bytes: Uint8Array,
	longestMs: number,
	tries: number
): Promise<Awaited<ReturnType<Readers[N]>>> {
	const made = (pool ??= begun());
	const stop = AbortSignal.timeout(longestMs);
	try {
		return (await made.run(bytes, { name, signal: stop })) as Awaited<ReturnType<Readers[N]>>;
	} catch (error) {
		// the process was ended from outside: the message has still to be read
		if (pool !== made) throw error;
		if (stop.aborted) throw new ReadingEndedError('took-too-long');
		// it was given to a process that was just being ended because of another message
		if ((error as Error).message === 'Terminating worker thread' && tries > 1)
			return await read(name, bytes, longestMs, tries - 1);
		if ((error as Error).message === 'Worker exited unexpectedly') throw new ReadingEndedError('took-too-much');
		throw error;
	}
}

/** Ends the processes. */
export async function closeReadingPool(): Promise<void> {
	const made = pool;
	pool = undefined;
	await made?.destroy();
}
