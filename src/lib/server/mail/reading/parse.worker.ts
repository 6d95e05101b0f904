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

/* Without pauses: the pool sends many tasks at once, and side by side all would finish only at the end. */
function each<T>({ messages, clock }: ParseTask, read: (bytes: Uint8Array) => T): T[] {
	try {
		return messages.map((bytes) => {
			Atomics.store(clock, 0, clockSecond());
			return read(bytes);
		});
	} finally {
		Atomics.store(clock, 0, 0);
	}
}

/** Reads the ways to unsubscribe, from one message of each list. */
export function readAllWays(task: ParseTask): MessageWays[] {
	return each(task, readMessageWays);
}

/** Reads stored messages again. */
export function readAllAgain(task: ParseTask): (MessageRows | undefined)[] {
	return each(task, readAgain);
}

/** Reads, hashes and compresses messages, without a database. */
export default function parseAll(task: ParseTask): ParsedMessage[] {
	return each(task, parse);
}
