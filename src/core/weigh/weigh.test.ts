import { subMonths } from 'date-fns';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calendarIn, daysAfter, daysBetween, monthsBefore, readDate, showDate } from '../calendar.ts';
import { type AdviceFacts, adviceSentence, cutoffFor, namedCutoffs, suggestions, usualCutoff } from './advice.ts';
import { sizeBand } from '../testing/size-band.ts';
import { growthLine, growthOf } from './growth.ts';
import { byFolderAndYear } from './years.ts';
import { type FolderRole, nameKey, roleOf } from './roles.ts';
import { sumTree } from './tree.ts';
import { readBytes, showBytes, showCount, showShare } from './units.ts';

describe('units (IEC 80000-13: powers of 1000)', () => {
	it.each([
		[0, '0\u00a0bytes'],
		[1, '1\u00a0byte'],
		[999, '999\u00a0bytes'],
		[1_000, '1.00\u00a0kB'],
		[1_904_000_000, '1.90\u00a0GB'],
		[999_499, '999\u00a0kB'],
		[999_500, '1.00\u00a0MB'],
		[12_345_678, '12.3\u00a0MB'],
		[5e15, '5000\u00a0TB']
	])('%d', (bytes, shown) => {
		expect(showBytes(bytes)).toBe(shown);
	});

	it.each([
		['500 MB', 500_000_000],
		['1.5gb', 1_500_000_000],
		['12', 12],
		['12 k', 12_000],
		['twelve', undefined],
		['-5 MB', undefined],
		['99999999999 TB', undefined],
		['', undefined]
	])('reads %j', (text, bytes) => {
		expect(readBytes(text)).toBe(bytes);
	});

	it('reads back what it shows, to three digits', () => {
		fc.assert(
			fc.property(
				fc.nat(2 ** 31 - 1),
				(bytes) => Math.abs((readBytes(showBytes(bytes)) ?? NaN) - bytes) <= bytes * 0.006
			)
		);
	});

	it.each([
		[0, 5, '0\u00a0%'],
		[1, 1_000, 'under 1\u00a0%'],
		[999, 1_000, 'over 99\u00a0%'],
		[5, 5, '100\u00a0%'],
		[1, 3, '33\u00a0%']
	])('share %d of %d', (part, whole, shown) => {
		expect(showShare(part, whole)).toBe(shown);
	});

	it('groups digits', () => {
		expect([showCount(4_812), showCount(1_234_567), showCount(12)]).toEqual(['4,812', '1,234,567', '12']);
	});
});

describe('the calendar', () => {
	it('takes months as date-fns does', () => {
		fc.assert(
			fc.property(
				fc.date({ min: new Date('1990-01-01'), max: new Date('2060-12-31'), noInvalidDate: true }),
				fc.nat(240),
				(date, months) => {
					const local = new Date(date.getUTCFullYear(), date.getUTCMonth(), date.getUTCDate(), 12);
					const expected = subMonths(local, months);
					const iso = (d: Date) =>
						`${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, '0')}-${String(d.getDate()).padStart(2, '0')}`;
					expect(monthsBefore(iso(local), months)).toBe(iso(expected));
				}
			)
		);
	});

	it.each([
		['2024-03-31', 1, '2024-02-29'],
		['2023-03-31', 1, '2023-02-28'],
		['2024-02-29', 12, '2023-02-28'],
		['2024-01-31', 24, '2022-01-31']
	])('%s less %d months (ECMA-262 Temporal, constrain)', (date, months, expected) => {
		expect(monthsBefore(date, months)).toBe(expected);
	});

	it.each([
		['Europe/Lisbon', '2024-06-30T23:30:00Z', '2024-07-01'],
		['America/St_Johns', '2024-07-01T02:00:00Z', '2024-06-30'],
		['Asia/Kathmandu', '2024-06-30T18:15:00Z', '2024-07-01'],
		['Pacific/Kiritimati', '2024-06-30T10:00:00Z', '2024-07-01'],
		// set back at 00:01, so that an hour of the day before comes again (IANA time zone database)
		['America/St_Johns', '2010-11-07T02:30:30Z', '2010-11-07'],
		['America/St_Johns', '2010-11-07T02:45:00Z', '2010-11-06'],
		['America/St_Johns', '2010-11-07T03:45:00Z', '2010-11-07'],
		['UTC', '0102-03-14T09:12:00Z', '0102-03-14']
	])('in %s %s falls on %s', (zone, instant, date) => {
		expect(calendarIn(zone)(Date.parse(instant) / 1000)).toBe(date);
	});

	it('knows no zone that there is not', () => {
		expect(() => calendarIn('Atlantis/Harbour')).toThrow(RangeError);
	});

	it.each([
		['2024-03-01', '2024-03-01'],
		['2024-03', '2024-03-01'],
		['2024', '2024-01-01'],
		['2023-02-29', undefined],
		['2024-13', undefined],
		['1.3.2024', undefined],
		['', undefined]
	])('reads %j', (text, date) => {
		expect(readDate(text)).toBe(date);
	});

	it('shows and steps', () => {
		expect(showDate('2024-03-04')).toBe('4 Mar 2024');
		expect(daysAfter('2024-02-28', 1)).toBe('2024-02-29');
		expect(daysBetween('2024-02-28', '2024-03-01')).toBe(2);
	});
});

describe('the folder tree', () => {
	const folder = (id: number, parentId: number | null, name: string, role: FolderRole | null = null) => ({
		id,
		parentId,
		name,
		path: name,
		role,
		neverArchived: 0
	});

	it('sums what lies below and stands in the order of the work', () => {
		const folders = [
			folder(1, null, 'Trash', 'trash'),
			folder(2, null, 'Zebra'),
			folder(3, null, 'Inbox', 'inbox'),
			folder(4, 2, 'B'),
			folder(5, 4, 'Deep'),
			folder(6, 2, 'A'),
			folder(7, null, 'Junk', 'junk')
		];
		const own = new Map([
			[2, { messages: 1, bytes: 10 }],
			[4, { messages: 2, bytes: 20 }],
			[5, { messages: 4, bytes: 40 }],
			[3, { messages: 8, bytes: 80 }]
		]);
		expect(
			sumTree(folders, own).map(({ name, depth, messages, messagesBelow, bytesBelow }) => [
				name,
				depth,
				messages,
				messagesBelow,
				bytesBelow
			])
		).toEqual([
			['Inbox', 0, 8, 8, 80],
			['Zebra', 0, 1, 7, 70],
			['A', 1, 0, 0, 0],
			['B', 1, 2, 6, 60],
			['Deep', 2, 4, 4, 40],
			['Junk', 0, 0, 0, 0],
			['Trash', 0, 0, 0, 0]
		]);
	});

	it.each([
		['INBOX', 'inbox'],
		['Papierkorb', 'trash'],
		['Envoyés', 'sent'],
		['Projects', null]
	])('%s has the role %s (RFC 6154)', (name, role) => {
		expect(roleOf(name)).toBe(role);
	});

	it('compares names without case and accents', () => {
		expect(nameKey('  Réclamations  DIVERSES ')).toBe('reclamations diverses');
	});
});

describe('advice', () => {
	const weight = (messages: number, bytes: number) => ({ messages, bytes });
	const nothing = weight(0, 0);
	const facts = (given: Partial<AdviceFacts>): AdviceFacts => ({
		old: { cutoff: '2024-11-01', weight: nothing },
		oldByFolder: [],
		sent: undefined,
		lists: [],
		large: nothing,
		bin: nothing,
		total: weight(1_627, 55.4e6),
		...given
	});
	const old = { cutoff: '2024-11-01', weight: weight(753, 31e6) };

	it.each<[string, Partial<AdviceFacts>, string]>([
		['no mail', { total: nothing }, 'There is no mail in this mailbox.'],
		['nothing to do', {}, 'Nothing here is old or large, and the bin is empty.'],
		[
			'old mail',
			{ old, bin: weight(63, 139e3) },
			'What would free most: archive mail received before 1 Nov 2024, 753 messages (31.0\u00a0MB, 56\u00a0% of the mailbox).'
		],
		[
			'the bin',
			{ bin: weight(63, 139e3), total: weight(64, 139_010) },
			'What would free most: empty the bin, 63 messages (139\u00a0kB, over 99\u00a0% of the mailbox).'
		],
		[
			'from 5 GB on',
			{ large: weight(9, 1e9), total: weight(40_000, 5e9) },
			'At 5.00\u00a0GB this mailbox is worth working on. What would free most: archive messages of 1 MB and more, of any age, 9 messages (1.00\u00a0GB, 20\u00a0% of the mailbox).'
		]
	])('%s', (_name, given, sentence) => {
		expect(adviceSentence(suggestions(facts(given))[0], facts(given).total)).toBe(sentence);
	});

	it('ranks by what is freed, leaves out what frees nothing, and archives nothing where nothing may be archived', () => {
		const given = facts({
			old,
			oldByFolder: [{ path: 'Vessels', weight: weight(90, 9e6) }],
			sent: { path: 'Sent', cutoff: '2026-08-01', weight: weight(20, 12e6) },
			lists: [{ identifier: 'weekly.example', name: '', weight: weight(300, 4e6) }],
			bin: weight(1, 5e6)
		});
		expect(suggestions(given).map(({ what, bytes }) => [what, bytes])).toEqual([
			['Archive mail received before 1 Nov 2024', 31e6],
			['Archive Sent before 1 Aug 2026', 12e6],
			['Archive Vessels before 1 Nov 2024', 9e6],
			['Empty the bin', 5e6],
			['Archive all of the list weekly.example', 4e6]
		]);
		expect(suggestions({ ...given, old: undefined }).map(({ what }) => what)).toEqual(['Empty the bin']);
	});

	it('proposes the first of the month so many months ago (24: common practice)', () => {
		expect(usualCutoff('2026-11-25')).toBe('2024-11-01');
		expect(cutoffFor('2026-03-31', 1)).toBe('2026-02-01');
	});
});

describe('size bands', () => {
	it.each([
		[0, 0],
		[9_999, 0],
		[10_000, 1],
		[999_999, 2],
		[1_000_000, 3],
		[24_999_999, 4],
		[25_000_000, 5],
		[5e9, 5]
	])('%i bytes are in band %i', (bytes, band) => {
		expect(sizeBand(bytes)).toBe(band);
	});
});

describe('growth', () => {
	const months = (count: number, bytes: number) =>
		Array.from({ length: count }, (_, at) => ({
			month: monthsBefore('2026-11-01', count - at).slice(0, 7),
			messages: 1,
			bytes
		}));

	it.each<[string, Parameters<typeof growthOf>[0], number, number | undefined, number, string | undefined]>([
		['twelve months of 1 MB, 6 MB to go', months(30, 1e6), 30e6, 36e6, 1e6, '2027-05-26'],
		['a month without mail counts', [{ month: '2026-01', messages: 1, bytes: 10e6 }], 10e6, 11e6, 1e6, '2026-12-25'],
		['what came this month does not', [{ month: '2026-11', messages: 1, bytes: 10e6 }], 10e6, 11e6, 0, undefined],
		['no quota', months(3, 1e6), 3e6, undefined, 1e6, undefined],
		['over it already', months(3, 1e6), 3e6, 2e6, 1e6, undefined],
		['not in our time', months(12, 1), 12, 1e9, 1, undefined]
	])('%s', (_name, given, bytes, quotaBytes, bytesAMonth, quotaReachedOn) => {
		expect(growthOf(given, { bytes, quotaBytes }, '2026-11-25')).toMatchObject({ bytesAMonth, quotaReachedOn });
	});

	it('is a line that meets the quota in the month of the day that is named', () => {
		const given = months(30, 1e6);
		const growth = growthOf(given, { bytes: 30e6, quotaBytes: 36e6 }, '2026-11-25');
		const line = growthLine(given, growth, '2026-11-25');
		const now = line.findLast(({ isExpected }) => !isExpected);
		expect(now).toMatchObject({ month: '2026-11', bytes: 30e6 });
		const reached = line.find(({ bytes }) => bytes >= 36e6);
		expect(reached?.month).toBe(growth.quotaReachedOn?.slice(0, 7));
		expect(line.at(-1)?.month).toBe('2027-06');
		// without a quota it goes on for half a year, without growth not at all
		expect(growthLine(given, { ...growth, quotaReachedOn: undefined }, '2026-11-25').at(-1)?.month).toBe('2027-05');
		expect(growthLine(given, { ...growth, bytesAMonth: 0 }, '2026-11-25').at(-1)?.isExpected).toBe(false);
		expect(growthLine([], { ...growth, bytesAMonth: 0 }, '2026-11-25')).toEqual([
			{ month: '2026-11', bytes: 0, isExpected: false }
		]);
	});
});

describe('the weight of years', () => {
	const folders = [
		{ id: 1, parentId: null, path: 'Inbox' },
		{ id: 2, parentId: null, path: 'Vessels' },
		{ id: 3, parentId: 2, path: 'Vessels/Skarv' },
		{ id: 4, parentId: null, path: 'Sent' }
	];

	it('has the heaviest top folders apart, with their subfolders, and adds up', () => {
		const weights = [
			{ folderId: 1, year: '2024', bytes: 5 },
			{ folderId: 3, year: '2024', bytes: 40 },
			{ folderId: 2, year: '2025', bytes: 2 },
			{ folderId: 4, year: '2025', bytes: 3 }
		];
		expect(byFolderAndYear(weights, folders, 1)).toEqual({
			years: ['2024', '2025'],
			parts: [
				{ folder: 'Vessels', bytes: [40, 2] },
				{ folder: undefined, bytes: [5, 3] }
			]
		});
		expect(byFolderAndYear(weights, folders, 3).parts.map(({ folder }) => folder)).toEqual([
			'Vessels',
			'Inbox',
			'Sent'
		]);
		expect(byFolderAndYear([], folders, 3)).toEqual({ years: [], parts: [] });
	});
});

describe('cutoff dates by name', () => {
	// worked by hand
	it.each<[string, number, [string, string][]]>([
		['2026-11-25', 1, [['end of last year', '2026-01-01']]],
		[
			'2026-11-25',
			4,
			[
				['end of last year', '2026-01-01'],
				['end of last financial year', '2026-04-01']
			]
		],
		[
			'2026-03-31',
			4,
			[
				['end of last year', '2026-01-01'],
				['end of last financial year', '2025-04-01']
			]
		],
		[
			'2026-04-01',
			4,
			[
				['end of last year', '2026-01-01'],
				['end of last financial year', '2026-04-01']
			]
		],
		[
			'2026-01-01',
			10,
			[
				['end of last year', '2026-01-01'],
				['end of last financial year', '2025-10-01']
			]
		]
	])('on %s, the financial year from month %i on', (today, firstMonth, expected) => {
		expect(namedCutoffs(today, firstMonth).map(({ name, cutoff }) => [name, cutoff])).toEqual(expected);
	});
});
