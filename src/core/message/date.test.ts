import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isPlausible, parseAsctime, parseDate, parseReceived, receivedDate } from './date.ts';

const at = (iso: string) => Date.parse(iso) / 1000;

describe('parseDate', () => {
	it.each<[string, string | undefined, string]>([
		['Fri, 21 Nov 1997 09:55:06 -0600', '1997-11-21T15:55:06Z', 'RFC 5322 A.1.1'],
		['21 Nov 97 09:55:06 GMT', '1997-11-21T09:55:06Z', 'RFC 5322 A.6.2'],
		['Thu, 13 Feb 1969 23:32 -0330 (Newfoundland Time)', '1969-02-14T03:02:00Z', 'RFC 5322 A.5'],
		['Mon, 1 Jan 2024 00:00:00 EST', '2024-01-01T05:00:00Z', 'RFC 5322 4.3, a named zone'],
		['Mon, 1 Jan 2024 00:00:00 XYZ', '2024-01-01T00:00:00Z', 'RFC 5322 4.3, an unknown zone means UTC'],
		['1 Jan 49 00:00:00 +0000', '2049-01-01T00:00:00Z', 'RFC 5322 4.3, two digits up to 49'],
		['1 Jan 50 00:00:00 +0000', '1950-01-01T00:00:00Z', 'RFC 5322 4.3, two digits from 50'],
		['Mon, 14 Mar 102 09:12:00 +0000', '0102-03-14T09:12:00Z', 'three digits stay as they are'],
		['Thu Aug 22 12:46:39 2002', '2002-08-22T12:46:39Z', 'asctime in a Date field (common practice)'],
		[
			'Mon, 4 Mar 2002 9:5:7 -0500',
			'2002-03-04T14:05:07Z',
			'one digit for minutes and seconds (real mail), with its zone'
		],
		['Mon, 4 Mar 2002 9:5 +0100', '2002-03-04T08:05:00Z', 'the same without seconds'],
		['4 Mar 2002 (a \\) b (c)) 10:00:00 -0000', '2002-03-04T10:00:00Z', 'comments that nest, with an escape'],
		['Sat, 31 Dec 2016 23:59:60 +0000', '2016-12-31T23:59:59Z', 'a leap second'],
		['Sat, 30 Feb 2024 10:00:00 +0000', undefined, 'a day that does not exist'],
		['yesterday', undefined, 'words'],
		['', undefined, 'nothing'],
		[`${'('.repeat(5000)}`, undefined, 'nothing but brackets']
	])('%s (%#)', (text, expected) => {
		expect(parseDate(text)).toBe(expected === undefined ? undefined : at(expected));
	});

	it('reads back what the platform writes (ECMA-262 toUTCString)', () => {
		fc.assert(
			fc.property(
				fc.date({ min: new Date('1000-01-01'), max: new Date('9999-12-31'), noInvalidDate: true }),
				(date) => {
					expect(parseDate(date.toUTCString())).toBe(Math.floor(date.getTime() / 1000));
				}
			)
		);
	});
});

describe('other dates', () => {
	it.each<[string, string | undefined]>([
		['From a@b.example  Thu Aug 22 12:46:39 2002', '2002-08-22T12:46:39Z'],
		['From a@b.example Thu Aug  1 12:46:39 +0200 2002', '2002-08-01T10:46:39Z'],
		['From a@b.example Thu Aug  1 12:46 2002 -0100', '2002-08-01T13:46:00Z'],
		['From what I hear, it rains', undefined]
	])('%s', (line, expected) => {
		expect(parseAsctime(line)).toBe(expected === undefined ? undefined : at(expected));
	});

	it('takes the date behind the last semicolon of a Received field (RFC 5321 4.4)', () => {
		expect(parseReceived('from a (b; c) by d with ESMTP; Thu, 22 Aug 2002 12:46:38 +0100 (IST)')).toBe(
			at('2002-08-22T11:46:38Z')
		);
		expect(parseReceived('from a by b')).toBeUndefined();
	});
});

describe('receivedDate: which date counts', () => {
	const now = at('2026-11-25T12:00:00Z');
	const date = at('2024-03-01T10:00:00Z');
	const next = date + 3_600;
	const year102 = at('0102-03-14T09:12:00Z');
	const future = at('2038-01-05T00:00:00Z');

	it.each([
		['Received before all others', { received: next, envelope: date + 7_200, date }, next, false],
		['the envelope, close to the Date', { envelope: next, date }, next, false],
		['the Date, where the envelope tells of an export years later', { envelope: now - 60, date }, date, false],
		['the Date, where the envelope lies before it', { envelope: date - 400_000, date }, date, false],
		['the envelope, where there is no Date', { envelope: next }, next, false],
		['a Received that cannot be true does not count', { received: year102, date }, date, false],
		['a Date in the future gives way to the envelope', { envelope: next, date: future }, next, false],
		['only dates that cannot be true: kept as they are, in doubt', { date: year102 }, year102, true],
		['only the future: kept, in doubt', { received: future, date: year102 }, future, true],
		['nothing at all', {}, undefined, true]
	])('%s', (_name, evidence, expected, inDoubt) => {
		expect(receivedDate(evidence, now)).toEqual({ at: expected, inDoubt });
	});

	it.each([
		['1979-12-31T23:59:59Z', false],
		['1980-01-01T00:00:00Z', true],
		['2026-11-26T11:59:59Z', true],
		['2026-11-26T12:00:01Z', false]
	])('%s can be true: %s (invariant 6)', (iso, plausible) => {
		expect(isPlausible(at(iso), now)).toBe(plausible);
	});
});
