import { platform, setPriority } from 'node:os';

/**
 * Lets other threads go first: a page that is asked for, while this one fills a processor. On Linux a priority set from within
 * a thread is that thread's own; elsewhere it would be the whole process's, and nothing is done.
 *
 * @param nice how far behind the others, from 0 to 19 (POSIX nice)
 */
export function letOthersGoFirst(nice: number): void {
	if (platform() === 'linux') setPriority(nice);
}
