import { summarise } from '../../../../core/message/summary.ts';
import { scanStructure } from '../../../../core/message/structure.ts';
import { type PackedContent, pack } from '../contents-store.ts';
import { type MessageRows, messageRows } from '../message-rows.ts';

/** The result of parsing a message. */
export interface ParsedMessage {
	packed: PackedContent;
	/** Undefined if the bytes are no message. */
	read: MessageRows | undefined;
	/** The error if reading failed: the message is kept raw. */
	failure: string | undefined;
}

/** A message that could not be read: it is kept raw and listed. */
export function unread(bytes: Uint8Array, error: unknown): ParsedMessage {
	return {
		packed: pack(bytes),
		read: undefined,
		failure: `could not be read (${error instanceof Error ? error.message : String(error)})`
	};
}

/**
 * Reads a stored message again, without packing it. @returns undefined if it cannot be read
 */
export function readAgain(bytes: Uint8Array): MessageRows | undefined {
	try {
		const summary = summarise(bytes, scanStructure(bytes));
		return summary && messageRows(summary);
	} catch {
		return undefined;
	}
}

/** Reads, hashes and compresses a message. One that breaks our parser must not stop an import. */
export function parse(bytes: Uint8Array): ParsedMessage {
	const root = scanStructure(bytes);
	const packed = pack(bytes, root);
	try {
		const summary = summarise(bytes, root);
		return { packed, read: summary && messageRows(summary), failure: undefined };
	} catch (error) {
		return { ...unread(bytes, error), packed };
	}
}
