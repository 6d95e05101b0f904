import { type MessageWays, readMessageWays } from '../../../../core/lists/message-ways.ts';
import type { MessageRows } from '../message-rows.ts';
import { parse, type ParsedMessage, readAgain } from './parse-message.ts';
import { lowerPriority } from '../../priority.ts';

lowerPriority(10);

/** Messages for a thread, and which of them it reads now, from 1; 0: none. */
export interface ParseTask {
	messages: readonly Uint8Array[];
	present: Int32Array;
}

/* Without pauses: the pool sends many tasks at once, and side by side all would finish only at the end. */
function each<T>({ messages, present }: ParseTask, read: (bytes: Uint8Array) => T): T[] {
	try {
		return messages.map((bytes, at) => {
			Atomics.store(present, 0, at + 1);
			return read(bytes);
		});
	} finally {
		Atomics.store(present, 0, 0);
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
