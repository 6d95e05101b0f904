import { existsSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { flush, linkFile } from './copy.ts';
import { writeMark } from './data-folder.ts';
import { databaseFile } from './open.ts';

/** The steps that change files; a test makes each the last one before the power fails. */
export interface FileSteps {
	/** Gives a file a second name, durable when this returns. */
	name(file: string, again: string): void;
	remove(place: string): void;
	rename(from: string, to: string): void;
	mark(folder: string, id: string): void;
}

const FILES: FileSteps = {
	name: linkFile,
	remove: (place) => rmSync(place, { recursive: true, force: true }),
	rename(from, to) {
		renameSync(from, to);
		flush(path.dirname(to));
	},
	mark: writeMark
};

/** The folder in which a replacement data file is prepared. */
export const workplaceOf = (dataFolder: string) => path.join(dataFolder, '.restoring');
const noteOf = (dataFolder: string) => path.join(workplaceOf(dataFolder), 'ready.json');

interface Ready {
	/** Its identity. */
	id: string;
	/** The new name of the earlier data file; null: there was none. */
	former: string | null;
}

/**
 * Notes that the prepared data file is complete and on disk: from here on it will be put in place, even after a
 * crash.
 */
export function noteReady(dataFolder: string, ready: Ready): void {
	const note = noteOf(dataFolder);
	writeFileSync(`${note}.new`, JSON.stringify(ready), { mode: 0o600 });
	flush(`${note}.new`);
	renameSync(`${note}.new`, note);
	flush(path.dirname(note));
}

/**
 * Puts a prepared data file in place by one rename and keeps the earlier one under another name. An interrupted
 * replacement is finished when the folder is next opened: each step can be repeated.
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
		// the earlier file's log would be applied to the new one
		for (const end of ['-wal', '-shm']) steps.remove(target + end);
		steps.rename(ready, target);
	}
	steps.mark(dataFolder, id);
	steps.remove(workplaceOf(dataFolder));
	return true;
}
