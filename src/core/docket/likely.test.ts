import { expect, it } from 'vitest';
import { likelyOf } from './likely.ts';

/* The newest decision first; A and D are two decisions. */
it.each<[string, string | undefined]>([
	['', undefined],
	['DDDD', undefined],
	['DDDDD', 'D'],
	['ADDDD', 'D'],
	['DDADD', 'D'],
	['AADDD', undefined],
	['DADAD', undefined],
	// only the last five count
	['ADDDDAAAA', 'D'],
	['AAAADDDDD', 'A']
])('of %j the likely next one is %s', (last, expected) => {
	expect(likelyOf([...last])).toBe(expected);
});
