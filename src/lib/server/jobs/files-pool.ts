import { Tinypool } from 'tinypool';
import type { FilesText } from '../files/text-of-files.ts';
import filesWorker from './files.worker.ts?nodeworker';

let pool: Tinypool | undefined;

/* A document that takes longer is made to take long. */
const LONGEST_MS = 20_000;

/**
 * Reads the words inside the files of a message in a thread of its own, which is ended where that takes too long or too much
 * memory. The bytes are copied.
 */
export async function filesTextInThread(bytes: Uint8Array): Promise<FilesText> {
	pool ??= new Tinypool({
		filename: filesWorker,
		minThreads: 0,
		maxThreads: 1,
		idleTimeout: 5_000,
		resourceLimits: { maxOldGenerationSizeMb: 512 }
	});
	const stop = AbortSignal.timeout(LONGEST_MS);
	try {
		return (await pool.run(new Uint8Array(bytes), { signal: stop })) as FilesText;
	} catch {
		return { text: '', outcome: stop.aborted ? 'took-too-long' : 'unreadable' };
	}
}

/** Ends the thread. */
export async function closeFilesPool(): Promise<void> {
	await pool?.destroy();
	pool = undefined;
}
