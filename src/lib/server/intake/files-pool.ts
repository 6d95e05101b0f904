import { Tinypool } from 'tinypool';
import type { FilesText } from './text-of-files.ts';
import filesWorker from './files.worker.ts?nodeworker';

let pool: Tinypool | undefined;

/* A document that takes longer was made to be slow. */
const LONGEST_MS = 20_000;

/**
 * Reads the words inside the files of a message in a thread of its own, which is stopped if it takes too long or too
 * much memory. The bytes are copied.
 *
 * @throws Error where the pool is closed meanwhile
 */
export async function filesTextInThread(bytes: Uint8Array): Promise<FilesText> {
	const made = (pool ??= new Tinypool({
		filename: filesWorker,
		minThreads: 0,
		maxThreads: 1,
		idleTimeout: 5_000,
		resourceLimits: { maxOldGenerationSizeMb: 512 }
	}));
	const stop = AbortSignal.timeout(LONGEST_MS);
	try {
		return (await made.run(new Uint8Array(bytes), { signal: stop })) as FilesText;
	} catch (error) {
		// the thread was stopped from outside: the files have still to be read
		if (pool !== made) throw error;
		return { text: '', outcome: stop.aborted ? 'took-too-long' : 'unreadable' };
	}
}

/** Ends the thread. */
export async function closeFilesPool(): Promise<void> {
	const made = pool;
	pool = undefined;
	await made?.destroy();
}
