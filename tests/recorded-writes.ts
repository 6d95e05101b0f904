import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Dice } from '../demo/random.ts';

/*
 * The writes of a program as the system saw them (strace, from Debian's packages), to be made again up to any of them: what
 * was written and not synced yet may be there, may be there in part, or may be missing, as after a power cut. Names in a
 * folder are taken to be kept in their order, as journalling file systems keep them.
 */

/** A call that changes files of a folder, or `said`: something was written to the standard output. */
export type Recorded =
	| { call: 'write'; file: string; at: number; bytes: Buffer }
	| { call: 'truncate'; file: string; length: number }
	| { call: 'sync'; file: string }
	| { call: 'make'; file: string }
	| { call: 'remove'; file: string }
	| { call: 'rename'; file: string; to: string }
	| { call: 'said' };

const CALLS =
	'openat,pwrite64,write,ftruncate,fsync,fdatasync,unlink,unlinkat,rename,renameat,renameat2,link,linkat,mmap';
/* The shared memory of the log is made anew by whoever opens the file first. */
const isKept = (file: string) => !file.endsWith('-shm');

/** Whether programs can be recorded here. */
export const canRecord = (): boolean => spawnSync('strace', ['-qq', '-o', '/dev/null', 'true']).status === 0;

const decoded = (hex: string) => Buffer.from(hex.replaceAll('\\x', ''), 'hex');
const hexOf = (text: string) => Buffer.from(text).toString('hex').replaceAll(/../g, '\\x$&');
const textOf = (quoted: string) => decoded(quoted).toString();

/*
 * What several threads do at a time is written as two lines: `123 fsync(19<\x2f…> <unfinished ...>` and, once it is done,
 * `123 <... fsync resumed>) = 0`. They become one, where the call ended.
 */
function joined(lines: readonly string[]): string[] {
	const begun = new Map<string, string>();
	return lines.flatMap((line) => {
		const [, before] = /^(\d+ +\w+\(.*) <unfinished \.\.\.>$/.exec(line) ?? [];
		const thread = /^\d+/.exec(line)?.[0] ?? '';
		if (before !== undefined) {
			begun.set(thread, before);
			return [];
		}
		const [, rest] = /^\d+ +<\.\.\. \w+ resumed>(.*)$/.exec(line) ?? [];
		return [rest === undefined ? line : (begun.get(thread) ?? '') + rest];
	});
}

/* A line of strace with all strings in hexadecimal: `123 pwrite64(19<\x2f…>, "\x37…", 32, 0) = 32`. */
function recordedIn(line: string, folder: string): Recorded | undefined {
	const found = /^\d+ +(\w+)\((.*)\) += (-?\d+)/.exec(line);
	// a write that is missed would look like one that Kovrel did not sync
	if (!found && line.includes(hexOf(folder))) throw new Error(`Not read: ${line.slice(0, 100)} … ${line.slice(-50)}`);
	if (!found || Number(found[3]) < 0) return undefined;
	const [, call = '', words = ''] = found;
	const open = /^(\d+)<([^>]*)>/.exec(words);
	const file = open ? textOf(open[2] as string) : '';
	const named = [...words.matchAll(/"([^"]*)"/g)].map((one) => textOf(one[1] as string));
	const within = (name: string | undefined): name is string =>
		name?.startsWith(folder + path.sep) === true && isKept(name);
	if (call === 'write' && open?.[1] === '1') return { call: 'said' };
	if (call === 'openat')
		return within(named[0]) && words.includes('O_CREAT') ? { call: 'make', file: named[0] } : undefined;
	if (call.startsWith('unlink')) return within(named[0]) ? { call: 'remove', file: named[0] } : undefined;
	if (call.startsWith('rename'))
		return within(named[0]) && within(named[1]) ? { call: 'rename', file: named[0], to: named[1] } : undefined;
	if (!within(file)) return undefined;
	if (call === 'fsync' || call === 'fdatasync') return { call: 'sync', file };
	if (call === 'ftruncate') return { call: 'truncate', file, length: Number(/, (\d+)$/.exec(words)?.[1]) };
	if (call !== 'pwrite64') throw new Error(`Not recorded whole: ${line.slice(0, 100)}`);
	const [, hex = '', length, at] = /"([^"]*)", (\d+), (\d+)$/.exec(words) ?? [];
	const bytes = decoded(hex);
	if (bytes.length !== Number(length)) throw new Error(`Not recorded whole: ${line.slice(0, 100)}`);
	return { call: 'write', file, at: Number(at), bytes };
}

/** Runs a program and records what it does to the files of a folder. @throws Error where it fails */
export function record(folder: string, command: readonly string[], environment: Record<string, string>): Recorded[] {
	const trace = `${folder}.trace`;
	const trailing = [
		'strace',
		'-f',
		'-qq',
		'-y',
		'-xx',
		'-s',
		'4000000',
		'-e',
		`trace=${CALLS}`,
		'-o',
		trace,
		...command
	];
	execFileSync(trailing[0] as string, trailing.slice(1), { env: { ...process.env, ...environment }, stdio: 'ignore' });
	const recorded = joined(readFileSync(trace, 'latin1').split('\n')).flatMap((line) => recordedIn(line, folder) ?? []);
	rmSync(trace);
	return recorded;
}

/** Files of a folder, by their path. */
export type Files = Map<string, Buffer>;

/** What lies in a folder. */
export const filesIn = (folder: string): Files =>
	new Map(
		readdirSync(folder, { withFileTypes: true, recursive: true }).flatMap((entry) => {
			const file = path.join(entry.parentPath, entry.name);
			return entry.isFile() && isKept(file) ? [[file, readFileSync(file)] as const] : [];
		})
	);

function written(before: Buffer, at: number, bytes: Uint8Array): Buffer {
	const after = Buffer.alloc(Math.max(before.length, at + bytes.length));
	before.copy(after);
	after.set(bytes, at);
	return after;
}

const SECTOR = 512;

/* What of a write that was not synced has reached the disk: all, nothing, or some sectors from its beginning. */
function reached({ bytes }: { bytes: Buffer }, dice: Dice): Buffer | undefined {
	const which = dice.between(0, 2);
	if (which === 0) return undefined;
	return which === 1 ? bytes : bytes.subarray(0, dice.between(0, Math.floor(bytes.length / SECTOR)) * SECTOR);
}

/** The files after the first `count` calls, with what was not synced left out at random. */
export function after(before: Files, recorded: readonly Recorded[], count: number, dice: Dice): Files {
	const files = new Map(before);
	const calls = recorded.slice(0, count);
	calls.forEach((one, at) => {
		if (one.call === 'said' || one.call === 'sync') return;
		const now = files.get(one.file) ?? Buffer.alloc(0);
		if (one.call === 'make') files.set(one.file, now);
		else if (one.call === 'remove') files.delete(one.file);
		else if (one.call === 'rename') {
			files.delete(one.file);
			files.set(one.to, now);
		} else {
			const isSynced = calls.slice(at).some((later) => later.call === 'sync' && later.file === one.file);
			if (one.call === 'truncate') {
				if (isSynced || dice.between(0, 1))
					files.set(one.file, written(now.subarray(0, one.length), one.length, Buffer.alloc(0)));
				return;
			}
			const bytes = isSynced ? one.bytes : reached(one, dice);
			if (bytes) files.set(one.file, written(now, one.at, bytes));
		}
	});
	return files;
}

/** Puts files under another folder than they were recorded in. */
export function putFiles(files: Files, from: string, to: string): void {
	rmSync(to, { recursive: true, force: true });
	for (const [file, bytes] of files) {
		const place = path.join(to, path.relative(from, file));
		if (!existsSync(path.dirname(place))) mkdirSync(path.dirname(place), { recursive: true, mode: 0o700 });
		writeFileSync(place, bytes, { mode: 0o600 });
	}
}
