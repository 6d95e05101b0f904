import { expect, it } from 'vitest';
import { isRightToLeft } from './text-direction.ts';

// UAX #9: the first strong letter; digits and signs before it decide nothing
it.each([
	['', false],
	['Berth permit', false],
	['رصيف العبّارة', true],
	['12: רציף', true],
	['"רציף" berth', true],
	['Re: رصيف', false],
	['岸壁使用許可', false],
	['12 – 34', false]
])('%j is written from right to left: %s', (text, expected) => expect(isRightToLeft(text)).toBe(expected));
