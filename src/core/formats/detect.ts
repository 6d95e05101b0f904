import { lineEnd, readHeader } from '../message/header.ts';
import { isMessage } from '../message/summary.ts';
import { INDEX_COLUMNS } from './export-names.ts';
import { isSeparator } from './mbox.ts';

/** The format of a file, by its first bytes and not by its name. */
export type FileFormat = 'mbox' | 'eml' | 'index' | 'unknown';

const latin1 = new TextDecoder('windows-1252');

/**
 * Tells an mbox file from a single message, and from the list of messages of an export.
 *
 * @param head the first bytes of the file, some kilobytes
 * @returns `unknown` where it is neither: such a file is kept raw
 */
export function detectFormat(head: Uint8Array): FileFormat {
	const eol = lineEnd(head) === 10 ? '\n' : '\r';
	const [first = '', second] = latin1.decode(head.subarray(0, 4_000)).trimStart().split(eol);
	if (first.trimEnd() === INDEX_COLUMNS.join(',')) return 'index';
	if (first.startsWith('From ') && isSeparator(first, true, second)) return 'mbox';
	return isMessage(readHeader(head, 0, head.length, lineEnd(head))) ? 'eml' : 'unknown';
}
