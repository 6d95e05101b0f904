import { headerStart, lineEnd, markLength, readHeader } from '../message/header.ts';
import { isMessage } from '../message/summary.ts';
import { INDEX_COLUMNS } from './export-names.ts';
import { isSeparator } from './mbox.ts';

/** The format of a file, by its first bytes; its name tells only what a system writes for itself. */
export type FileFormat = 'mbox' | 'eml' | 'index' | 'system' | 'tar' | 'unknown';

/* AppleDouble (RFC 1740 appendix B): what macOS lays beside each file in a zip or on a disk of another system. */
const APPLE_DOUBLE = [0x00, 0x05, 0x16, 0x07];
/* The magic of a tar file (POSIX pax, ustar interchange format), and where it stands. */
const TAR = { magic: 'ustar', at: 257 };
/* What systems write into folders for themselves (common practice). */
const SYSTEM_NAMES = new Set(['.ds_store', 'thumbs.db', 'desktop.ini']);

const latin1 = new TextDecoder('windows-1252');

/**
 * Tells an mbox file from a single message, from the list of messages of an export, from a tar file, and from what an
 * operating system writes into folders for itself.
 *
 * @param head the first bytes of the file, some kilobytes
 * @param name its name
 * @returns `unknown` where it is neither: such a file is kept raw
 */
export function detectFormat(head: Uint8Array, name: string): FileFormat {
	const eol = lineEnd(head) === 10 ? '\n' : '\r';
	const [first = '', second] = latin1
		.decode(head.subarray(markLength(head), 4_000))
		.trimStart()
		.split(eol);
	if (first.trimEnd() === INDEX_COLUMNS.join(',')) return 'index';
	if (first.startsWith('From ') && isSeparator(first, true, second)) return 'mbox';
	if (isMessage(readHeader(head, headerStart(head), head.length, lineEnd(head)))) return 'eml';
	if (APPLE_DOUBLE.every((byte, at) => head[at] === byte) || SYSTEM_NAMES.has(name.toLowerCase())) return 'system';
	const magic = latin1.decode(head.subarray(TAR.at, TAR.at + TAR.magic.length));
	return magic === TAR.magic ? 'tar' : 'unknown';
}
