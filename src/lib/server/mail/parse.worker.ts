import { type MessageWays, readMessageWays } from '../../../core/lists/message-ways.ts';
import { summarise } from '../../../core/message/summary.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { type PackedContent, pack } from './contents-store.ts';
import { type MessageRows, messageRows } from './message-rows.ts';
import { lowerPriority } from '../priority.ts';

/** The result of parsing a message. */
export interface ParsedMessage {
	packed: PackedContent;
	/** Undefined if the bytes are no message. */
	read: MessageRows | undefined;
	/** The error if reading failed: the message is kept raw. */
	failure: string | undefined;
}

lowerPriority(10);

async function parse(bytes: Uint8Array): Promise<ParsedMessage> {
	const root = scanStructure(bytes);
	const packed = pack(bytes, root);
	try {
		const summary = await summarise(bytes, root);
		return { packed, read: summary && messageRows(summary), failure: undefined };
	} catch (error) {
		// a message that breaks our parser must not stop an import: it is kept raw and listed
		return {
			packed,
			read: undefined,
			failure: `could not be read (${error instanceof Error ? error.message : String(error)})`
		};
	}
}

async function parseAll(messages: readonly Uint8Array[]): Promise<ParsedMessage[]> {
	const parsed: ParsedMessage[] = [];
	for (const bytes of messages) parsed.push(await parse(bytes));
	return parsed;
}

/** Reads the ways to unsubscribe, from one message of each list. */
export async function readAllWays(messages: readonly Uint8Array[]): Promise<MessageWays[]> {
	const read: MessageWays[] = [];
	for (const bytes of messages) read.push(await readMessageWays(bytes));
	return read;
}

let before: Promise<unknown> = Promise.resolve();

/**
 * Reads, hashes and compresses messages, without a database. Calls run one after the other: the pool sends many at
 * once, and in parallel all would finish only at the end.
 */
export default function parseInOrder(messages: readonly Uint8Array[]): Promise<ParsedMessage[]> {
	const parsing = before.then(() => parseAll(messages));
	before = parsing;
	return parsing;
}
