import { existsSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { flush, nameAgain } from './copy.ts';
import { writeMark } from './data-folder.ts';
import { databaseFile } from './open.ts';

/** The steps by which files change; a test has each of them be the last one before the power fails. */
export interface FileSteps {
	/** Gives a file a second name, which stands when this returns. */
	name(file: string, again: string): void;
	remove(place: string): void;
	rename(from: string, to: string): void;
	mark(folder: string, id: string): void;
}

const FILES: FileSteps = {
	name: nameAgain,
	remove: (place) => rmSync(place, { recursive: true, force: true }),
	rename(from, to) {
		renameSync(from, to);
		flush(path.dirname(to));
	},
	mark: writeMark
};

/** Where a data file is made ready that is to take the place of another one. */
export const workplaceOf = (dataFolder: string) => path.join(dataFolder, '.restoring');
const noteOf = (dataFolder: string) => path.join(workplaceOf(dataFolder), 'ready.json');

interface Ready {
	/** Which archive it is. */
	id: string;
	/** Name that the data file before it gets; null: there was none. */
	former: string | null;
}

/**
 * Notes that the data file in the workplace is whole and on disk, by itself: from here on it takes its place, whatever happens.
 */
export function noteReady(dataFolder: string, ready: Ready): void {
	const note = noteOf(dataFolder);
	writeFileSync(`${note}.new`, JSON.stringify(ready), { mode: 0o600 });
	flush(`${note}.new`);
	renameSync(`${note}.new`, note);
	flush(path.dirname(note));
}

/**
 * Puts a data file that is ready into its place by one rename, keeping the one before under another name. What was cut off
 * half-way is finished when the folder is opened the next time: each step can be done again.
 *
 * @returns whether anything was to be done
 */
export function finishPuttingInPlace(dataFolder: string, steps: FileSteps = FILES): boolean {
	const note = noteOf(dataFolder);
	if (!existsSync(note)) return false;
	const { id, former } = JSON.parse(readFileSync(note, 'utf8')) as Ready;
	const target = databaseFile(dataFolder);
	const ready = databaseFile(workplaceOf(dataFolder));
	if (existsSync(ready)) {
		for (const end of ['', '-wal'])
			if (former !== null && existsSync(target + end) && !existsSync(former + end))
				steps.name(target + end, former + end);
		// the log of the file before would be read into the one that takes its place
		for (const end of ['-wal', '-shm']) steps.remove(target + end);
		steps.rename(ready, target);
	}
	steps.mark(dataFolder, id);
	steps.remove(workplaceOf(dataFolder));
	return true;
}
