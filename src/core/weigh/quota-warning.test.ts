import { describe, expect, it } from 'vitest';
import { quotaWarnings, readLimits, USUAL_LIMITS } from './quota-warning.ts';

const MB = 1_000_000;
const server = { host: 'mail.example', quotaUsed: 95 * MB, quotaLimit: 100 * MB };

describe('warnings of a quota', () => {
	it.each<[name: string, given: Partial<Parameters<typeof quotaWarnings>[0]>, expected: string[]]>([
		['none below the lowest share', { bytes: 79 * MB }, []],
		['none without a quota', { bytes: 79 * MB, quotaBytes: undefined }, []],
		[
			'at a share',
			{ bytes: 80 * MB },
			['This mailbox is 80\u00a0% full: 80.0\u00a0MB of 100\u00a0MB. The warning is set at 80\u00a0%.']
		],
		[
			'between two',
			{ bytes: 93 * MB },
			['This mailbox is 93\u00a0% full: 93.0\u00a0MB of 100\u00a0MB. The warning is set at 90\u00a0%.']
		],
		[
			'full',
			{ bytes: 100 * MB },
			['This mailbox is 100\u00a0% full: 100\u00a0MB of 100\u00a0MB. The warning is set at 100\u00a0%.']
		],
		['over it', { bytes: 120 * MB }, ['This mailbox is over its quota: 120\u00a0MB of 100\u00a0MB.']],
		[
			'a day that is near',
			{ bytes: MB, reachedOn: '2026-12-25' },
			['It will be full on 25 Dec 2026, in 30 days, at this rate.']
		],
		['tomorrow', { bytes: MB, reachedOn: '2026-11-26' }, ['It will be full on 26 Nov 2026, in 1 day, at this rate.']],
		['a day that is not', { bytes: MB, reachedOn: '2026-12-26' }, []],
		[
			'the server, where that is fuller',
			{ bytes: MB, server },
			['mail.example counts 95.0\u00a0MB of 100\u00a0MB: 95\u00a0% full.']
		],
		[
			'the server only once',
			{ bytes: 95 * MB, server },
			['This mailbox is 95\u00a0% full: 95.0\u00a0MB of 100\u00a0MB. The warning is set at 90\u00a0%.']
		]
	])('%s', (_name, given, expected) => {
		const filling = { bytes: 0, quotaBytes: 100 * MB, reachedOn: undefined, ...given };
		expect(quotaWarnings(filling, USUAL_LIMITS, '2026-11-25')).toEqual(expected);
	});

	it.each([
		['90, 80 100', 30, { shares: [80, 90, 100], days: 30 }],
		['75\u00a0%; 75', 0, { shares: [75], days: 0 }],
		['', 7, { shares: [], days: 7 }],
		['110', 7, 'Write shares as whole numbers from 1 to 100, as in 80, 90, 100'],
		['eighty', 7, 'Write shares as whole numbers from 1 to 100, as in 80, 90, 100'],
		['80', 400, 'Write the days as a whole number from 0 to 366']
	])('reads %j and %i', (shares, days, expected) => expect(readLimits(shares, days)).toEqual(expected));
});
