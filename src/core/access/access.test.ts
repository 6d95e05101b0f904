import { describe, expect, it } from 'vitest';
import { allows, type Right, type Role } from './roles.ts';
import { type Failures, isOver, oneMore, waitSeconds } from './throttle.ts';

describe('roles', () => {
	it.each<[Right, (Role | undefined)[]]>([
		['anybody', ['administrator', 'auditor', 'colleague', undefined]],
		['person', ['administrator', 'auditor', 'colleague']],
		['finder', ['administrator', 'colleague']],
		['oversight', ['administrator', 'auditor']],
		['administrator', ['administrator']]
	])('%s is for %j', (right, roles) => {
		const all: (Role | undefined)[] = ['administrator', 'auditor', 'colleague', undefined];
		expect(all.filter((role) => allows(right, role))).toEqual(roles);
	});
});

describe('throttling', () => {
	/* Worked by hand: five are free; then 15 s, doubled each time, a quarter of an hour at most. */
	it.each([
		[0, 0],
		[4, 0],
		[5, 15],
		[6, 30],
		[8, 120],
		[10, 480],
		[11, 900],
		[1000, 900]
	])('after %i failures, waits %i seconds', (failures, seconds) => {
		expect(waitSeconds({ failures, lastAt: 1_000 }, 1_000)).toBe(seconds);
		// nobody is locked out for good: the wait ends
		expect(waitSeconds({ failures, lastAt: 1_000 }, 1_000 + seconds)).toBe(0);
	});

	it('lets fewer than a hundred attempts through in an hour (OWASP ASVS 4.0.3, 2.2.1)', () => {
		let before: Failures | undefined;
		let attempts = 0;
		for (let now = 0; now < 3_600; now++) {
			if (waitSeconds(before, now) > 0) continue;
			attempts++;
			before = oneMore(before, now);
		}
		expect(attempts).toBeLessThan(100);
	});

	it('forgets after a day', () => {
		expect(oneMore({ failures: 50, lastAt: 0 }, 86_400)).toEqual({ failures: 1, lastAt: 86_400 });
		expect(oneMore({ failures: 50, lastAt: 0 }, 86_399)).toEqual({ failures: 51, lastAt: 86_399 });
	});
});

describe('sessions', () => {
	const HOUR = 3_600;
	const WEEK = 7 * 24 * HOUR;
	it.each([
		['used just now', 0, 0, true, false],
		['unused for twelve hours', 12 * HOUR, 12 * HOUR, true, false],
		['unused for longer', 13 * HOUR, 12 * HOUR + 1, true, true],
		['used, and a week old', WEEK, 0, true, false],
		['used, and older', WEEK + 1, 0, true, true],
		['half-way in for ten minutes', 600, 600, false, false],
		['half-way in for longer', 601, 0, false, true]
	])('%s', (_, sinceBegun, sinceSeen, whole, over) => {
		const now = 10_000_000;
		expect(isOver({ beganAt: now - sinceBegun, seenAt: now - sinceSeen }, whole, now)).toBe(over);
	});
});
