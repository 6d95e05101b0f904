import { describe, expect, it } from 'vitest';
import { showDate } from './calendar.ts';
import { readTypedDate } from './typed-date.ts';

const TODAY = '2026-11-30';

describe('a date as people type it', () => {
	it.each([
		['2024-03-04', '2024-03-04'],
		['2024-03', '2024-03-01'],
		['4 Mar 2024', '2024-03-04'],
		['4 march 2024', '2024-03-04'],
		['  4th  March 2024 ', '2024-03-04'],
		['March 4, 2024', '2024-03-04'],
		['Sept 2023', '2023-09-01'],
		['4 Mar', '2026-03-04'],
		['4/3/2024', '2024-03-04'],
		['04.03.2024', '2024-03-04'],
		['31-12-2024', '2024-12-31'],
		['29 Feb 2024', '2024-02-29'],
		['today', TODAY],
		['tomorrow', '2026-12-01'],
		['yesterday', '2026-11-29'],
		['6 months ago', '2026-05-30'],
		['1 year ago', '2025-11-30'],
		['2 weeks ago', '2026-11-16'],
		['in 3 weeks', '2026-12-21'],
		['in 3 months', '2027-02-28'],
		['10 days from now', '2026-12-10'],
		['end of last year', '2025-12-31'],
		['end of next year', '2027-12-31'],
		['end of this month', '2026-11-30'],
		['end of last month', '2026-10-31'],
		['end of next month', '2026-12-31']
	])('%j is %s', (text, date) => expect(readTypedDate(text, TODAY)).toBe(date));

	it.each([
		'',
		'soon',
		'31 Feb 2024',
		'4/13/2024',
		'32/1/2024',
		'Mai 2024',
		'4 M 2024',
		'2024-13',
		'99999 years ago',
		'4 Mar 24'
	])('%j is none', (text) => expect(readTypedDate(text, TODAY)).toBeUndefined());

	it.each([
		['24 months', 'past', '2024-11-30'],
		['24 months', 'future', '2028-11-30'],
		['in 24 months', 'past', '2028-11-30']
	] as const)('%j is an age in a field about the %s', (text, about, date) =>
		expect(readTypedDate(text, TODAY, about)).toBe(date)
	);

	it('is read again as it is shown', () => {
		for (const date of ['2024-03-04', '1999-12-31', '2030-01-01', '2028-02-29'])
			expect(readTypedDate(showDate(date), TODAY)).toBe(date);
	});
});
