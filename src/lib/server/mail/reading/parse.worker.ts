import { type MessageWays, readMessageWays } from '../../../../core/lists/message-ways.ts';
import type { MessageRows } from '../message-rows.ts';
import { clockSecond, parse, type ParsedMessage, readAgain } from './parse-message.ts';
import { lowerPriority } from '../../priority.ts';

lowerPriority(10);

/** Messages for a thread, and its clock: the second in which it began with the present one, 0 while it does nothing. */
export interface ParseTask {
	messages: readonly Uint8Array[];
	clock: Int32Array;
}

async function each<T>({ messages, clock }: ParseTask, read: (bytes: Uint8Array) => Promise<T>): Promise<T[]> {
	const results: T[] = [];
	try {
		for (const bytes of messages) {
			Atomics.store(clock, 0, clockSecond());
			results.push(await read(bytes));
		}
	} finally {
		Atomics.store(clock, 0, 0);
	}
	return results;
}

/** Reads the ways to unsubscribe, from one message of each list. */
export function readAllWays(task: ParseTask): Promise<MessageWays[]> {
	return each(task, readMessageWays);
}

let before: Promise<unknown> = Promise.resolve();

/* One call after the other: the pool sends many at once, and in parallel all would finish only at the end. */
function inOrder<T>(work: () => Promise<T>): Promise<T> {
	const working = before.then(work);
	before = working.catch(() => {});
	return working;
}

/** Reads, hashes and compresses messages, without a database. */
export default function parseInOrder(task: ParseTask): Promise<ParsedMessage[]> {
	return inOrder(() => each(task, parse));
}

/** Reads stored messages again. */
export function readAllAgain(task: ParseTask): Promise<(MessageRows | undefined)[]> {
	return inOrder(() => each(task, readAgain));
}
