import { describe, expect, it } from 'vitest';
import { dateInWords } from './date-words.ts';

/* Worked by hand with a calendar: 25 November 2026 is a Wednesday. */
const TODAY = '2026-11-25';

describe('times in words', () => {
	it.each([
		['today', '', '2026-11-25', '2026-11-26'],
		['yesterday', '', '2026-11-24', '2026-11-25'],
		['this week', '', '2026-11-23', '2026-11-30'],
		['last week', '', '2026-11-16', '2026-11-23'],
		['this month', '', '2026-11-01', '2026-12-01'],
		['last month', '', '2026-10-01', '2026-11-01'],
		['this year', '', '2026-01-01', '2027-01-01'],
		['last year', '', '2025-01-01', '2026-01-01'],
		['last 3 months', '', '2026-08-25', '2026-11-26'],
		['the past 10 days', '', '2026-11-15', '2026-11-26'],
		// the last complete winter: December to February
		['last winter', '', '2025-12-01', '2026-03-01'],
		['last summer', '', '2026-06-01', '2026-09-01'],
		// this autumn has not ended
		['last autumn', '', '2025-09-01', '2025-12-01'],
		['winter 2019', '', '2019-12-01', '2020-03-01'],
		['summer of 2021', '', '2021-06-01', '2021-09-01'],
		['March 2021', '', '2021-03-01', '2021-04-01'],
		['in february 2024', '', '2024-02-01', '2024-03-01'],
		['sept 2022', '', '2022-09-01', '2022-10-01'],
		['last december', '', '2025-12-01', '2026-01-01'],
		['2021', '', '2021-01-01', '2022-01-01'],
		['ramp limit last winter', 'ramp limit', '2025-12-01', '2026-03-01'],
		['from:northfuel March 2021', 'from:northfuel', '2021-03-01', '2021-04-01']
	])('%s', (text, rest, since, before) => {
		const found = dateInWords(text, TODAY);
		expect(found?.rest).toBe(rest);
		expect(found?.meaning).toMatchObject({ since, before });
	});

	it.each(['may', 'ramp', 'last ramp', 'march', 'in the end', 'm 20', '12345', '', 'last 3 ferries'])(
		'%s is no time',
		(text) => {
			expect(dateInWords(text, TODAY)).toBeUndefined();
		}
	);
});
