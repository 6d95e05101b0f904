import { showBytes } from '../../../core/weigh/units.ts';
import { Refusal } from '../refusal.ts';
import type { Context } from './context.ts';

/* A docket over a large mailbox, and the log of SQLite, need some hundred megabytes for a moment. */
const SHORT_BYTES = 1_000_000_000;
const LEAST_BYTES = 250_000_000;

type Disk = Pick<Context, 'freeBytes' | 'dataFolder'>;

/** A sentence where room on the disk of the data folder gets short; '': there is enough. */
export function roomSentence(disk: Disk): string {
	const free = disk.freeBytes();
	if (free >= SHORT_BYTES) return '';
	return `${showBytes(free)} are left on the disk of ${disk.dataFolder}. Make room: ${
		free < LEAST_BYTES
			? 'mail is not imported until there is more.'
			: `mail is imported as long as ${showBytes(LEAST_BYTES)} are left.`
	}`;
}

/** Checks that there is room for more mail, before the disk is full and nothing works any more. @throws Refusal */
export function requireRoom(disk: Disk): void {
	const free = disk.freeBytes();
	if (free >= LEAST_BYTES) return;
	throw new Refusal(
		'not-possible',
		`${showBytes(free)} are left on the disk of ${disk.dataFolder}, so importing stopped before it is full. What came in is kept. Make room, and import the same again: it goes on from there.`
	);
}
