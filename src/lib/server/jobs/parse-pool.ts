import { availableParallelism } from 'node:os';
import { Tinypool } from 'tinypool';
import parseWorker from './parse.worker.ts?nodeworker';
import type { ParsedMessage } from './parse.worker.ts';

let pool: Tinypool | undefined;

/**
 * Reads messages in a thread of its own, some at a time: handing over costs as much as reading a small one. The bytes are
 * handed over and cannot be used here afterwards.
 */
export async function parseInThread(messages: readonly Uint8Array[]): Promise<ParsedMessage[]> {
	pool ??= new Tinypool({
		filename: parseWorker,
		minThreads: 0,
		maxThreads: Math.max(1, Math.min(8, availableParallelism())),
		idleTimeout: 5_000
	});
	// what does not own its whole buffer is copied first
	const own = messages.map((bytes) => (bytes.byteLength === bytes.buffer.byteLength ? bytes : new Uint8Array(bytes)));
	return (await pool.run(own, { transferList: own.map(({ buffer }) => buffer as ArrayBuffer) })) as ParsedMessage[];
}

/** Ends the threads. */
export async function closeParsePool(): Promise<void> {
	await pool?.destroy();
	pool = undefined;
}
