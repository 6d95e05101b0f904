import { availableParallelism } from 'node:os';
import type { Tinypool } from 'tinypool';
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

/* For a document; a page waits less long. */
const LONGEST_MS = 20_000;
/* Several messages may end their process at the same time. */
const MOST_TRIES = 4;

/** How many messages are read at once, of those for which nobody waits. */
export const READ_AT_ONCE = Math.min(4, availableParallelism());

/** Processes that read a message each, and are ended by what takes too long or too much memory. */
class ReadingProcesses {
	readonly #most: number;
	readonly #nice: number;
	#pool: Promise<Tinypool> | undefined;
	/* The time of a message begins when it is its turn, not while it waits behind others. */
	readonly #waiting: (() => void)[] = [];
	#underWay = 0;

	/** @param nice how far their priority is below that of the server (POSIX nice) */
	constructor({ most, nice }: { most: number; nice: number }) {
		this.#most = most;
		this.#nice = nice;
	}

	async #begin(): Promise<Tinypool> {
		// most commands read no mail
		const { Tinypool } = await import('tinypool');
		return new Tinypool({
			filename: readingWorker,
			runtime: 'child_process',
			serialization: 'advanced',
			// it knows nothing of the server's secrets
			env: { KOVREL_READING_NICE: String(this.#nice) },
			execArgv: ['--max-old-space-size=512'],
			minThreads: 0,
			maxThreads: this.#most,
			// a person who reads does not wait for it to begin again
			idleTimeout: 600_000
		});
	}

	async inTurn<T>(work: () => Promise<T>): Promise<T> {
		if (this.#underWay < this.#most) this.#underWay++;
		else await new Promise<void>((resolve) => this.#waiting.push(resolve));
		try {
			return await work();
		} finally {
			const next = this.#waiting.shift();
			if (next) next();
			else this.#underWay--;
		}
	}

	async read<N extends keyof Readers>(
		name: N,
		bytes: Uint8Array,
		longestMs: number,
		tries = MOST_TRIES
	): Promise<Awaited<ReturnType<Readers[N]>>> {
		const begun = (this.#pool ??= this.#begin());
		const made = await begun;
		const stop = AbortSignal.timeout(longestMs);
		try {
			return (await made.run(bytes, { name, signal: stop })) as Awaited<ReturnType<Readers[N]>>;
		} catch (error) {
			// the process was ended from outside: the message has still to be read
			if (this.#pool !== begun) throw error;
			if (stop.aborted) throw new ReadingEndedError('took-too-long');
			// it was given to a process that was just being ended because of another message
			if ((error as Error).message === 'Terminating worker thread' && tries > 1)
				return await this.read(name, bytes, longestMs, tries - 1);
			if ((error as Error).message === 'Worker exited unexpectedly') throw new ReadingEndedError('took-too-much');
			throw error;
		}
	}

	async close(): Promise<void> {
		const made = this.#pool;
		this.#pool = undefined;
		await (await made)?.destroy();
	}
}

/* Of several people who read, one who opens hostile mail does not hold up all. */
const forPeople = new ReadingProcesses({ most: READ_AT_ONCE + 1, nice: 5 });
const behind = new ReadingProcesses({ most: READ_AT_ONCE, nice: 15 });
const isForPeople = (name: keyof Readers) => name === 'body' || name === 'html' || name === 'texts';

/**
 * Reads a message in a process of its own, which is ended if it takes too long or too much memory, buffers counted. What
 * nobody waits for is read at a lower priority, in other processes.
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
	const processes = isForPeople(name) ? forPeople : behind;
	return processes.inTurn(() => processes.read(name, bytes, longestMs));
}

/** Ends the processes. */
export async function closeReadingPool(): Promise<void> {
	await Promise.all([forPeople.close(), behind.close()]);
}
