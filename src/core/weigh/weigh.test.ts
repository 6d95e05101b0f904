import { subMonths } from 'date-fns';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calendarIn, monthsBefore, nextDay, readDate, showDate } from '../calendar.ts';
import { adviceSentence, bestRelief, usualCutoff } from './advice.ts';
import { nameKey, roleOf } from './roles.ts';
import { sumTree } from './tree.ts';
import { readBytes, showBytes, showCount, showShare } from './units.ts';

describe('units (IEC 80000-13: powers of 1000)', () => {
	it.each([
		[0, '0 bytes'],
		[1, '1 byte'],
		[999, '999 bytes'],
		[1_000, '1.00 kB'],
		[1_904_000_000, '1.90 GB'],
		[999_499, '999 kB'],
		[999_500, '1.00 MB'],
		[12_345_678, '12.3 MB'],
		[5e15, '5000 TB']
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
		[0, 5, '0 %'],
		[1, 1_000, 'under 1 %'],
		[999, 1_000, 'over 99 %'],
		[5, 5, '100 %'],
		[1, 3, '33 %']
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
		expect(nextDay('2024-02-28')).toBe('2024-02-29');
	});
});

describe('the folder tree', () => {
	const folder = (id: number, parentId: number | null, name: string, role: string | null = null) => ({
		id,
		parentId,
		name,
		path: name,
		role
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

	it.each([
		[weight(0, 0), weight(0, 0), weight(0, 0), 'There is no mail in this mailbox.'],
		[weight(0, 0), weight(0, 0), weight(5, 500), 'Nothing here was received before 1 Nov 2024, and the bin is empty.'],
		[
			weight(753, 31e6),
			weight(63, 139e3),
			weight(1627, 55.4e6),
			'What would free most: archiving the 753 messages received before 1 Nov 2024 (31.0 MB, 56 % of the mailbox).'
		],
		[
			weight(1, 10),
			weight(63, 139e3),
			weight(64, 139_010),
			'What would free most: 63 messages in the bin (139 kB, over 99 % of the mailbox).'
		]
	])('%#', (old, bin, total, sentence) => {
		expect(adviceSentence({ cutoff: '2024-11-01', old, bin, total })).toBe(sentence);
	});

	it('proposes the first of the month 24 months ago (common practice)', () => {
		expect(usualCutoff('2026-11-25')).toBe('2024-11-01');
		expect(
			bestRelief({ cutoff: '2024-11-01', old: weight(0, 0), bin: weight(0, 0), total: weight(1, 1) })
		).toBeUndefined();
	});
});
