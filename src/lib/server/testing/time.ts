import { expect } from 'vitest';

/* A pause of the machine lasts longer than a small reading: below this, nothing is compared. */
const FLOOR_MS = 25;
const TRIES = 4;

async function timeOf(work: () => unknown): Promise<number> {
	const began = performance.now();
	await work();
	return performance.now() - began;
}

/**
 * Checks that the time of a piece of work follows the length of what it works on, and not the square of it. The best of a few
 * tries counts, so that nothing depends on what else the machine does.
 *
 * @param small,large the same work on something that is `times` as long
 */
export async function expectTimeFollowsLength(
	small: () => unknown,
	large: () => unknown,
	times: number
): Promise<void> {
	await small();
	let best = Infinity;
	for (let tried = 0; tried < TRIES && best > 3 * times; tried++)
		best = Math.min(best, (await timeOf(large)) / Math.max(FLOOR_MS, await timeOf(small)));
	expect(best).toBeLessThan(3 * times);
}
