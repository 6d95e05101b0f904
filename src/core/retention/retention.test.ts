import fc from 'fast-check';
import { DateTime } from 'luxon';
import { describe, expect, it } from 'vitest';
import { calendarIn } from '../calendar.ts';
import type { RecordClass } from './classes.ts';
import { type Governed, governFolders, type RetainedFolder } from './folders.ts';
import { periodEnd, periodText, periodWords, readPeriod } from './periods.ts';
import { readSchedule, readSeries, seriesFields } from './schedule.ts';
import { type Coming, folderSentence, itemSentence, sourceWords, termsWords } from './sentences.ts';
import { STARTER_AUTHORITY, STARTER_SCHEDULE } from './starter-schedule.ts';
import {
	DISPOSITIONS,
	nextStep,
	periodStart,
	readTerms,
	type Terms,
	termsText,
	TRIGGERS,
	wrongTerms
} from './terms.ts';

const period = (text: string) => {
	const read = readPeriod(text);
	if (!read) throw new Error(`no period: ${text}`);
	return read;
};

describe('periods', () => {
	// forms of ISO 8601-1:2019, 5.5.2; the last column is their wording
	it.each([
		['P7Y', 'P7Y', '7 years'],
		['P1Y6M', 'P1Y6M', '1 year 6 months'],
		['P24M', 'P24M', '24 months'],
		['P2W', 'P14D', '14 days'],
		['p30d', 'P30D', '30 days'],
		['P1Y1M1D', 'P1Y1M1D', '1 year 1 month 1 day']
	])('reads %s', (text, written, words) => {
		expect(periodText(period(text))).toBe(written);
		expect(periodWords(period(text))).toBe(words);
	});

	it.each(['', 'P', '7Y', 'PT5H', 'P0D', 'P-1Y', 'P1D1Y', 'P1.5Y', 'P201Y', '7 years'])('does not take "%s"', (text) =>
		expect(readPeriod(text)).toBeUndefined()
	);

	// worked by hand
	it.each([
		['2024-02-29', 'P1Y', '2025-02-28'], // no 29 February in 2025: held to the last day of the month
		['2024-02-29', 'P4Y', '2028-02-29'], // there is one in 2028
		['2023-02-28', 'P1Y', '2024-02-28'], // the last of February does not follow the month's end
		['2024-01-31', 'P1M', '2024-02-29'],
		['2023-01-31', 'P1M', '2023-02-28'],
		['2023-10-31', 'P1M1D', '2023-12-01'], // 31 Oct + 1 month: 30 Nov; + 1 day: 1 Dec
		['2023-12-31', 'P2M', '2024-02-29'],
		['1999-12-31', 'P1D', '2000-01-01'],
		['2100-02-28', 'P1D', '2100-03-01'], // 2100 is no leap year
		['2024-12-31', 'P18M', '2026-06-30']
	])('%s and %s end on %s', (start, text, end) => expect(periodEnd(start, period(text))).toBe(end));

	it('end where luxon, which Kovrel does not use, has them end', () => {
		fc.assert(
			fc.property(
				fc.date({ min: new Date('1980-01-01'), max: new Date('2060-12-31'), noInvalidDate: true }),
				fc.record({ years: fc.nat(60), months: fc.nat(40), days: fc.nat(400) }),
				(date, length) => {
					const start = date.toISOString().slice(0, 10);
					expect(periodEnd(start, length)).toBe(DateTime.fromISO(start, { zone: 'utc' }).plus(length).toISODate());
				}
			),
			{ numRuns: 1_500 }
		);
	});
});

describe('triggers', () => {
	// worked by hand: a period from a year's end starts on the next day
	it.each([
		['received', '2024-03-31', 1, '2024-03-31'],
		['thread', '2024-03-31', 4, '2024-03-31'],
		['closed', '2024-12-31', 4, '2024-12-31'],
		['calendar-year', '2024-01-01', 1, '2025-01-01'],
		['calendar-year', '2024-12-31', 7, '2025-01-01'],
		['financial-year', '2024-12-31', 1, '2025-01-01'], // a financial year that is the calendar year
		['financial-year', '2024-03-31', 4, '2024-04-01'], // the last day of 2023-24
		['financial-year', '2024-04-01', 4, '2025-04-01'], // the first day of 2024-25
		['financial-year', '2024-02-29', 3, '2024-03-01'],
		['financial-year', '2024-11-30', 12, '2024-12-01'],
		['financial-year', '2024-12-01', 12, '2025-12-01']
	] as const)('%s of %s, first month %i: from %s', (trigger, event, firstMonth, start) =>
		expect(periodStart(trigger, event, firstMonth)).toBe(start)
	);

	it('start where luxon has the years end', () => {
		fc.assert(
			fc.property(
				fc.date({ min: new Date('1980-01-01'), max: new Date('2060-12-31'), noInvalidDate: true }),
				fc.integer({ min: 1, max: 12 }),
				(date, firstMonth) => {
					const event = DateTime.fromJSDate(date, { zone: 'utc' }).startOf('day');
					const text = event.toISODate() as string;
					expect(periodStart('calendar-year', text, firstMonth)).toBe(
						event.endOf('year').plus({ days: 1 }).toISODate()
					);
					// shifted so that the financial year is the calendar year, then back
					const shifted = event.startOf('month').minus({ months: firstMonth - 1 });
					const ended = shifted.endOf('year').startOf('month').plus({ months: firstMonth });
					expect(periodStart('financial-year', text, firstMonth)).toBe(ended.toISODate());
				}
			),
			{ numRuns: 1_500 }
		);
	});

	// zones whose offset shifted by a day or by odd amounts, or in the middle of the night (IANA time zone database)
	it.each([
		'Pacific/Apia',
		'Pacific/Kwajalein',
		'Asia/Kathmandu',
		'America/St_Johns',
		'Australia/Lord_Howe',
		'Africa/Cairo'
	])('age counts from the office’s date in %s, as luxon has it', (zone) => {
		const dateOf = calendarIn(zone);
		fc.assert(
			fc.property(fc.integer({ min: 315_532_800, max: 2_000_000_000 }), (instant) => {
				const there = DateTime.fromSeconds(instant, { zone });
				expect(dateOf(instant)).toBe(there.toISODate());
				expect(periodEnd(dateOf(instant), period('P2Y1M'))).toBe(
					DateTime.fromISO(there.toISODate() as string, { zone: 'utc' })
						.plus({ years: 2, months: 1 })
						.toISODate()
				);
			}),
			{ numRuns: 200 }
		);
	});
});

const terms = (text: string): Terms => readTerms(text);

describe('what happens next', () => {
	const mail = (state: 'live' | 'archived', receivedOn: string, event: string | undefined = receivedOn) => ({
		state,
		receivedOn,
		event
	});

	// worked by hand; financial years begin in April
	it.each([
		['received archive P24M -', mail('live', '2024-11-30'), 'archive 2026-11-30'],
		['received archive P24M -', mail('archived', '2024-11-30'), undefined],
		['received destroy P3M -', mail('archived', '2024-11-30'), 'destroy 2025-02-28'],
		// 2024-25 ends on 31 Mar 2025; seven years from 1 Apr 2025 have passed on 1 Apr 2032
		['financial-year archive-destroy P7Y P24M', mail('live', '2024-11-30'), 'archive 2026-11-30'],
		['financial-year archive-destroy P7Y P24M', mail('archived', '2024-11-30'), 'destroy 2032-04-01'],
		// archiving would come after the end, so it is only destroyed
		['received archive-destroy P1Y P2Y', mail('live', '2024-11-30'), 'destroy 2025-11-30'],
		['calendar-year review P3Y -', mail('live', '2024-11-30'), 'review 2028-01-01'],
		['calendar-year review P3Y -', mail('archived', '2024-11-30'), 'review 2028-01-01'],
		// a thread that goes on counts from its last message
		['thread destroy P1Y -', mail('live', '2020-01-05', '2024-11-30'), 'destroy 2025-11-30'],
		['closed destroy P6Y -', mail('live', '2020-01-05', '2023-12-31'), 'destroy 2029-12-31'],
		['received keep - -', mail('live', '1999-01-01'), undefined]
	])('%s of %o: %s', (text, item, due) => {
		const step = nextStep(terms(text), item, 4);
		expect(step && `${step.action} ${step.on}`).toBe(due);
	});

	it('waits for a folder to be closed, but archives by the day it was received', () => {
		const open = { state: 'live', receivedOn: '2020-01-05', event: undefined } as const;
		expect(nextStep(terms('closed destroy P6Y -'), open, 1)).toBeUndefined();
		expect(nextStep(terms('closed archive-destroy P6Y P1Y'), open, 1)).toEqual({ action: 'archive', on: '2021-01-05' });
	});

	it('never archives on or after the day of destruction, and never before the day of the trigger', () => {
		const someDate = fc
			.date({ min: new Date('1980-01-01'), max: new Date('2040-12-31'), noInvalidDate: true })
			.map((date) => date.toISOString().slice(0, 10));
		const somePeriod = fc.record({ years: fc.nat(20), months: fc.nat(11), days: fc.integer({ min: 1, max: 40 }) });
		fc.assert(
			fc.property(
				fc.constantFrom(...TRIGGERS),
				someDate,
				somePeriod,
				somePeriod,
				fc.integer({ min: 1, max: 12 }),
				(trigger, day, long, short, firstMonth) => {
					const of: Terms = { trigger, disposition: 'archive-destroy', period: long, archiveAfter: short };
					const live = nextStep(of, mail('live', day), firstMonth);
					const archived = nextStep(of, mail('archived', day), firstMonth);
					expect(archived?.action).toBe('destroy');
					expect(archived && archived.on > day).toBe(true);
					expect(
						live && archived && (live.action === 'destroy' ? live.on === archived.on : live.on < archived.on)
					).toBe(true);
				}
			)
		);
	});

	it('is read as it was written', () => {
		for (const trigger of TRIGGERS)
			for (const disposition of DISPOSITIONS) {
				const of: Terms = {
					trigger,
					disposition,
					period: disposition === 'keep' ? undefined : period('P7Y'),
					archiveAfter: disposition === 'archive-destroy' ? period('P2Y') : undefined
				};
				expect(wrongTerms(of)).toBeUndefined();
				expect(readTerms(termsText(of))).toEqual(of);
			}
		for (const text of ['received destroy - -', 'received keep P1Y -', 'then destroy P1Y -', 'received burn P1Y -', ''])
			expect(() => readTerms(text)).toThrow();
	});
});

describe('folders', () => {
	const folder = (
		id: number,
		parentId: number | null,
		path: string,
		set: Partial<RetainedFolder> = {}
	): RetainedFolder => ({
		id,
		parentId,
		name: path.split('/').at(-1) ?? '',
		path,
		retentionId: null,
		class: null,
		closedOn: null,
		...set
	});
	const TREE = [
		folder(1, null, 'Accounts', { retentionId: 10, class: 'record' }),
		folder(2, 1, 'Accounts/2024', { closedOn: '2025-03-31' }),
		folder(3, 2, 'Accounts/2024/Drafts', { retentionId: 20, class: 'working' }),
		folder(4, null, 'Contracts'),
		folder(5, 4, 'Contracts/Ropes'),
		folder(6, null, 'Odds'),
		folder(7, 1, 'Accounts/contracts', { retentionId: 30 }),
		folder(8, 1, 'Accounts/Côntracts')
	];
	const NAMES = [{ name: 'contracts', retentionId: 40, class: 'record' }];
	const classes = (periods: Record<string, number>): RecordClass[] =>
		['transitory', 'working', 'record'].map((word, at) => ({
			id: at + 1,
			word,
			name: word === 'working' ? 'drafts' : word,
			letter: word.slice(0, 1),
			isProtected: word === 'record',
			quotaBytes: undefined,
			retentionId: periods[word] ?? null
		}));
	const told = (governed: Governed | undefined) =>
		governed && [
			governed.retentionId,
			governed.source && sourceWords(governed.source),
			governed.class,
			governed.closedOn
		];

	it('own, then by name, then inherited, then the default, then the policy of the class', () => {
		const all = governFolders(TREE, NAMES, { retentionId: 99, classes: classes({ transitory: 1 }) });
		expect(told(all.get(1))).toEqual([10, 'set here', 'record', undefined]);
		expect(told(all.get(2))).toEqual([10, 'set on Accounts', 'record', '2025-03-31']);
		expect(told(all.get(3))).toEqual([20, 'set here', 'working', '2025-03-31']);
		expect(told(all.get(4))).toEqual([40, 'as every folder called “contracts”', 'record', undefined]);
		expect(told(all.get(5))).toEqual([40, 'set on Contracts', 'record', undefined]);
		expect(told(all.get(6))).toEqual([99, 'the default of the mailbox', 'transitory', undefined]);
		expect(told(all.get(7))).toEqual([30, 'set here', 'record', undefined]);
		expect(told(all.get(8))).toEqual([40, 'as every folder called “contracts”', 'record', undefined]);
	});

	it('a class gives a period only where no folder does', () => {
		const all = governFolders(TREE, [], { retentionId: undefined, classes: classes({ transitory: 1, working: 2 }) });
		expect(told(all.get(6))).toEqual([1, 'the period of the class “transitory”', 'transitory', undefined]);
		expect(told(all.get(3))).toEqual([20, 'set here', 'working', '2025-03-31']);
		const none = governFolders(TREE, [], { retentionId: undefined, classes: classes({}) });
		expect(told(none.get(6))).toEqual([undefined, undefined, 'transitory', undefined]);
	});

	it('ends on a tree that bites its own tail', () => {
		const loop = [folder(1, 2, 'A'), folder(2, 1, 'B', { retentionId: 5 })];
		expect(governFolders(loop, [], { retentionId: undefined, classes: classes({}) }).get(2)?.retentionId).toBe(5);
	});
});

describe('sentences', () => {
	const AT = { today: '2026-11-26' };
	const coming = (actions: Coming['actions'], more: Partial<Coming> = {}): { coming: Coming } => ({
		coming: { actions, held: { messages: 0, holds: [] }, kept: 0, paused: 0, pause: undefined, ...more }
	});
	it.each([
		[
			'financial-year archive-destroy P7Y P24M',
			{ source: { kind: 'inherited', path: 'Accounts' } },
			{ ...AT, code: 'FIN-02', ...coming([{ action: 'archive', on: '2026-12-01', messages: 214 }]) },
			'Mail here is archived 24 months after it was received and destroyed 7 years after the end of that financial year (series FIN-02, set on Accounts). Next: 214 messages are archived on 1 Dec 2026.'
		],
		[
			'received destroy P1Y -',
			{ source: { kind: 'own' } },
			{ ...AT, ...coming([{ action: 'destroy', on: '2026-11-26', messages: 1 }]) },
			'Mail here is destroyed 1 year after it was received (set here). Due now: 1 message is to be destroyed.'
		],
		[
			'closed review P6Y -',
			{ source: { kind: 'default' } },
			AT,
			'Mail here is reviewed by a person 6 years after the folder is closed (the default of the mailbox). The folder is not closed yet, so its period has not begun.'
		],
		[
			'closed review P6Y -',
			{ source: { kind: 'own' }, closedOn: '2024-12-31' },
			AT,
			'Mail here is reviewed by a person 6 years after the folder was closed (31 Dec 2024) (set here). Nothing is due yet.'
		],
		[
			'received keep - -',
			{ source: { kind: 'own' } },
			{ ...AT, code: 'LEG-01' },
			'Mail here is kept for good (series LEG-01, set here).'
		],
		[
			'received archive-destroy P5Y P2Y',
			{ source: { kind: 'own' } },
			{
				...AT,
				...coming(
					[
						{ action: 'archive', on: '2026-11-26', messages: 55 },
						{ action: 'destroy', on: '2026-11-26', messages: 60 },
						{ action: 'destroy', on: '2026-12-03', messages: 1 },
						{ action: 'archive', on: '2026-12-01', messages: 2 }
					],
					{
						held: { messages: 12, holds: ['Slipway claim', 'Audit'] },
						kept: 3,
						paused: 1,
						pause: { until: '2027-03-01', because: 'the claim runs' }
					}
				)
			},
			'Mail here is archived 2 years after it was received and destroyed 5 years after it was received (set here). Due now: 60 messages are to be destroyed and 55 to be archived. Next: 2 messages are archived on 1 Dec 2026 and 1 destroyed on 3 Dec 2026. Paused: nothing here is destroyed before 1 Mar 2027, because the claim runs. 12 messages are under the holds “Slipway claim” and “Audit” and are not destroyed. 3 due to be destroyed stay: kept. 1 due to be destroyed stays: under a pause.'
		],
		[
			'received archive-destroy P5Y P2Y',
			{ source: { kind: 'own' } },
			{ ...AT, ...coming([{ action: 'archive', on: '2026-12-01', messages: 2 }]), isOff: true },
			'Mail here is due to be archived 2 years after it was received and destroyed 5 years after it was received (set here). Next: 2 messages are to be archived on 1 Dec 2026.'
		],
		[
			'received keep - -',
			{ source: { kind: 'own' } },
			{ ...AT, isOff: true },
			'Mail here is kept for good (set here).'
		],
		[undefined, {}, AT, 'Mail here stays: no period is set here, above, or as the default.']
	] as const)('%s', (text, governed, about, sentence) =>
		expect(
			folderSentence(
				{ source: undefined, closedOn: undefined, ...governed },
				text === undefined ? undefined : terms(text),
				about
			)
		).toBe(sentence)
	);

	it.each([
		[
			'received archive-destroy P7Y P2Y',
			{ state: 'live', due: { action: 'archive', on: '2027-01-01' } },
			'It is archived 2 years after it was received and destroyed 7 years after it was received (set here). It is due to be archived on 1 Jan 2027.'
		],
		[
			'received archive-destroy P7Y P2Y',
			{ state: 'archived', archivedOn: '2024-03-04', due: { action: 'destroy', on: '2030-12-01' } },
			'It was archived on 4 Mar 2024. It is destroyed 7 years after it was received (set here). It is due to be destroyed on 1 Dec 2030.'
		],
		[
			'received archive P2Y -',
			{ state: 'archived', archivedOn: '2024-03-04' },
			'It was archived on 4 Mar 2024. Nothing more happens to it (set here).'
		],
		[
			'received destroy P2Y -',
			{ state: 'archived', dateInDoubt: true },
			'It was archived. It is destroyed 2 years after it was received (set here). Its date is in doubt, so it is never due by itself.'
		]
	] as const)('of one message, what is past in the past: %s, %j', (text, item, sentence) =>
		expect(
			itemSentence({ archivedOn: undefined, due: undefined, dateInDoubt: false, ...item }, terms(text), 'set here')
		).toBe(sentence)
	);

	it('does not say of a message that it is destroyed where the scheduled run is off', () =>
		expect(
			itemSentence(
				{ state: 'live', archivedOn: undefined, due: undefined, dateInDoubt: false },
				terms('received destroy P2Y -'),
				'set here',
				{ isOff: true }
			)
		).toBe('It is due to be destroyed 2 years after it was received (set here).'));

	it('says what each trigger counts from', () => {
		expect(TRIGGERS.map((trigger) => termsWords(terms(`${trigger} destroy P1Y -`)))).toEqual([
			'destroyed 1 year after it was received',
			'destroyed 1 year after the last message of its thread',
			'destroyed 1 year after the end of the calendar year in which it was received',
			'destroyed 1 year after the end of the financial year in which it was received',
			'destroyed 1 year after the folder is closed'
		]);
	});
});

describe('the schedule', () => {
	const line = (fields: object) => ({ code: 'A-1', title: 'Papers', disposition: 'destroy', period: 'P1Y', ...fields });

	it.each([
		[{ code: '' }, 'A code is up to 40 letters'],
		[{ code: 'A 1' }, 'not "A 1"'],
		[{ title: ' ' }, 'A title is missing'],
		[{ trigger: 'birthday' }, 'not "birthday"'],
		[{ disposition: 'burn' }, 'not "burn"'],
		[{ disposition: '' }, 'The disposition is one of'],
		[{ period: '7 years' }, 'P7Y, P18M or P30D, not "7 years"'],
		[{ period: '' }, 'A period is missing'],
		[{ disposition: 'keep' }, 'kept for good has no period'],
		[{ disposition: 'archive-destroy' }, 'until it is archived is missing'],
		[{ archive_after: 'P1Y' }, 'Only what is archived and later destroyed']
	])('says what is wrong with %o', (fields, why) => {
		const read = readSeries(line(fields));
		expect('wrong' in read ? read.wrong.join('; ') : '').toContain(why);
	});

	it('names the line of each error, and reads the others', () => {
		const lines = [line({}), line({ code: 'a-1' }), line({ code: 'B', period: 'x' }), line({ code: 'C' })];
		const read = readSchedule(lines.map((fields, n) => ({ line: n + 2, fields })));
		expect(read.series.map(({ code }) => code)).toEqual(['A-1', 'C']);
		expect(read.errors).toEqual([
			{ line: 3, message: 'The code a-1 stands on line 2 already' },
			{ line: 4, message: expect.stringContaining('not "x"') as string }
		]);
	});

	/*
	 * Modelled on a national archives' general schedule for e-mail by role of the account: permanent for the highest
	 * offices, seven years for others, three for support staff; finance six years after final payment. Values from
	 * memory, not looked up.
	 */
	const GENERAL = [
		['GRS-6.1-010', 'E-mail of senior officials', 'calendar-year', 'permanent', 'keep', ''],
		['GRS-6.1-011', 'E-mail of other officials', 'received', 'P7Y', 'destroy', ''],
		['GRS-6.1-012', 'E-mail of support staff', 'received', 'P3Y', 'destroy', ''],
		['GRS-5.2-010', 'Transitory records', 'received', 'P180D', 'destroy', ''],
		['GRS-1.1-010', 'Payments and procurement', 'financial-year', 'P6Y', 'archive-destroy', 'P1Y'],
		['GRS-2.1-020', 'Personnel papers', 'closed', 'P2Y', 'review', '']
	] as const;

	it('takes a general schedule for e-mail, and the starter schedule', () => {
		const general = GENERAL.map(([code, title, trigger, period, disposition, archive_after], n) => ({
			line: n + 2,
			fields: { code, title, trigger, period, disposition, archive_after }
		}));
		const starter = STARTER_SCHEDULE.map((fields, n) => ({ line: n + 2, fields }));
		for (const lines of [general, starter]) {
			const { series, errors } = readSchedule(lines);
			expect(errors).toEqual([]);
			expect(series).toHaveLength(lines.length);
			for (const one of series) expect(readSeries(seriesFields(one))).toEqual({ series: one });
		}
		// worked by hand: received on 30 Sep 2023, the financial year 2022-23 (from October) ends that day
		const read = readSchedule(general).series.map((one) =>
			nextStep(one.terms, { state: 'archived', receivedOn: '2023-09-30', event: '2023-09-30' }, 10)
		);
		expect(read.map((step) => step?.on)).toEqual([
			undefined,
			'2030-09-30',
			'2026-09-30',
			'2024-03-28', // 2023-09-30 + 180 days: 31 Oct, 30 Nov, 31 Dec, 31 Jan, 29 Feb are 152 to 29 Feb; 28 more
			'2029-10-01',
			'2025-09-30'
		]);
	});

	it('says of every example that it is one', () => {
		for (const { authority } of STARTER_SCHEDULE) expect(authority).toBe(STARTER_AUTHORITY);
	});
});
