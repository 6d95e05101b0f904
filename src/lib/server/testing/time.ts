import { expect } from 'vitest';

/* Shorter times are not compared: a pause of the machine takes longer. */
const FLOOR_MS = 25;
const TRIES = 4;

async function timeOf(work: () => unknown): Promise<number> {
	const began = performance.now();
	await work();
	return performance.now() - began;
}

/**
 * Checks that the time of some work is linear in the length of its input, not quadratic. The best of a few attempts
 * counts, so that nothing depends on other load.
 *
 * @param small,large the same work on input of length 1 and of length `times`
 */
export async function expectLinearTime(small: () => unknown, large: () => unknown, times: number): Promise<void> {
	await small();
	let best = Infinity;
	for (let tried = 0; tried < TRIES && best > 3 * times; tried++)
		best = Math.min(best, (await timeOf(large)) / Math.max(FLOOR_MS, await timeOf(small)));
	expect(best).toBeLessThan(3 * times);
}
