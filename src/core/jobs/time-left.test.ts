import { describe, expect, it } from 'vitest';
import { timeLeftWords } from './time-left.ts';

describe('the time that is left', () => {
	it.each<[number, number, number, string]>([
		// passed (ms), done of 1,000 at the beginning and now
		[2_999, 0, 500, ''],
		[10_000, 0, 0, ''],
		[10_000, 0, 1_000, ''],
		[10_000, 0, 500, 'less than a minute left'],
		[60_000, 0, 500, 'about 1 minute left'],
		[60_000, 400, 500, 'about 5 minutes left'],
		[600_000, 0, 100, 'about 2 hours left'],
		[60_000, 500, 400, '']
	])('after %d ms, from %d to %d of 1,000: "%s"', (passed, from, now, words) => {
		expect(timeLeftWords({ at: 5, done: from }, { at: 5 + passed, done: now }, 1_000)).toBe(words);
	});
});
