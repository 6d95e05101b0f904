import { getPriority, platform, setPriority } from 'node:os';

/**
 * Lowers the priority of this thread below others, so that it does not slow pages down. On Linux a priority set in a
 * thread applies to that thread; elsewhere it would apply to the whole process, and nothing is done.
 *
 * @param nice how far behind the others, from 0 to 19 (POSIX nice)
 */
export function lowerPriority(nice: number): void {
	// raising it is not for everybody (EACCES), where all of Kovrel was begun at a low one
	if (platform() === 'linux' && getPriority() < nice) setPriority(nice);
}
