import { MOST_NAME_BYTES } from './export-names.ts';
import type { Flags } from '../message/summary.ts';

/* `:2,FLAGS` after the unique name; systems that forbid the colon use `;` or `!`. */
const INFO = /[:;!]2,([A-Za-z]*)$/;

/** Whether the name of a file says flags as in a Maildir. */
export const hasMaildirInfo = (name: string): boolean => INFO.test(name);

/**
 * The flags in the name of a Maildir file (common practice after the Maildir page: D draft, F flagged, P passed, R
 * replied, S seen, T trashed).
 *
 * @param name the file's name
 * @param inNew whether it lies in `new/`, where nothing has been seen yet
 */
export function readMaildirFlags(name: string, inNew: boolean): Flags {
	const flags = INFO.exec(name)?.[1] ?? '';
	return {
		seen: !inNew && flags.includes('S'),
		answered: flags.includes('R'),
		flagged: flags.includes('F'),
		draft: flags.includes('D')
	};
}

/** Whether a Maildir file is marked as deleted. */
export function isMaildirTrashed(name: string): boolean {
	return (INFO.exec(name)?.[1] ?? '').includes('T');
}

/** The info part of a Maildir name for these flags. */
export function maildirInfo({ seen, answered, flagged, draft }: Flags): string {
	return `:2,${draft ? 'D' : ''}${flagged ? 'F' : ''}${answered ? 'R' : ''}${seen ? 'S' : ''}`;
}

const utf16 = new TextDecoder('utf-16be', { fatal: true });

/* RFC 3501 section 5.1.3: `&` begins base64 of UTF-16 in which `,` stands for `/`; `&-` is `&`. */
function decodeMailboxName(name: string): string {
	return name.replace(/&([A-Za-z0-9+,]*)-/g, (whole, encoded: string) => {
		if (encoded === '') return '&';
		try {
			return utf16.decode(Uint8Array.from(atob(encoded.replaceAll(',', '/')), (c) => c.charCodeAt(0)));
		} catch {
			return whole;
		}
	});
}

function encodeMailboxName(name: string): string {
	return name.replace(/&|[^\x20-\x7e]+/g, (run) => {
		if (run === '&') return '&-';
		let bytes = '';
		for (let at = 0; at < run.length; at++)
			bytes += String.fromCharCode(run.charCodeAt(at) >> 8, run.charCodeAt(at) & 255);
		return `&${btoa(bytes).replaceAll('/', ',').replace(/=+$/, '')}-`;
	});
}

/**
 * The folder path behind the name of a Maildir++ folder: `.Projects.Slipway` is `Projects/Slipway`.
 *
 * @param directory name of the directory, with its leading dot
 */
export function maildirFolderPath(directory: string): string {
	return directory
		.slice(1)
		.split('.')
		.filter((name) => name !== '')
		.map((name) => decodeMailboxName(name).replaceAll('/', '_'))
		.join('/');
}

/* More have no room, with a letter each. */
const MOST_LEVELS = MOST_NAME_BYTES / 2;

/**
 * The name of the Maildir++ directory for a folder path; dots in names become `_`, as the dot divides them. The path is one
 * name: where it has no room, its longest names are cut, and then its last levels.
 */
export function maildirDirectory(path: string): string {
	const names = path.split('/', MOST_LEVELS).map((name) => [...name.replaceAll('.', '_')]);
	for (;;) {
		const directory = names.map((name) => `.${encodeMailboxName(name.join(''))}`).join('');
		if (directory.length <= MOST_NAME_BYTES) return directory;
		const longest = names.reduce((long, name) => (name.length > long.length ? name : long));
		if (longest.length > 1) longest.pop();
		else names.pop();
	}
}
