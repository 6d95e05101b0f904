import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { monthsBefore } from '../../../core/calendar.ts';
import { compareDue } from '../stores/due.ts';
import { listLedger } from '../stores/ledger.ts';
import { noteSettings } from '../stores/retention.ts';
import { change, row, rows } from '../stores/rows.ts';
import { compareWeights } from '../stores/weights.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { setClearing } from './bin.ts';
import { carryOut, takeBack } from './carry-out.ts';
import { differingCertificates, exportCertificate, readCertificate } from './certificates.ts';
import type { Context } from './context.ts';
import { dueItems, dueOverview, listDue } from './due.ts';
import { find } from './find.ts';
import { folderPerYear, pauseFolder, renameFolder } from './folders.ts';
import { liftHold, placeHold } from './holds.ts';
import { importMailbox } from './import-mailbox.ts';
import { decide, decideOn, prepareDocket } from './prepare-docket.ts';
import { type Decided, requireDocket } from './show-docket.ts';
import { runNight } from './night.ts';
import { readPolicy, setPolicy } from './policy.ts';
import { type Given, listRetained, type RetentionWish, setRetention, triedWords, tryRetention } from './retain.ts';
import { runSchedule, setRetaining } from './run-schedule.ts';
import {
	dropSeries,
	exportSchedule,
	importSchedule,
	listSchedule,
	saveSeries,
	showSeries,
	trySeries,
	useStarterSchedule
} from './schedule.ts';
import { verifyArchive } from './verify-archive.ts';

/* The office's day is 25 Nov 2026. Letters of three folders, from 2018 to 2026; one has a date that cannot be true. */
const MAIL: Record<string, [subject: string, date: string][]> = {
	Accounts: [
		['Invoice 2018', 'Thu, 29 Mar 2018 10:00:00 +0000'],
		['Invoice 2019', 'Fri, 31 May 2019 10:00:00 +0000'],
		['Invoice 2024', 'Fri, 31 May 2024 10:00:00 +0000'],
		['Invoice 2026', 'Sun, 31 May 2026 10:00:00 +0000']
	],
	'Accounts/Drafts': [['Draft 2020', 'Fri, 31 Jan 2020 10:00:00 +0000']],
	Odds: [
		['Odd 2023', 'Fri, 30 Jun 2023 10:00:00 +0000'],
		['Odd never', 'Fri, 30 Jun 2062 10:00:00 +0000']
	]
};

async function office(): Promise<Context> {
	const context = await openOffice();
	for (const [folder, letters] of Object.entries(MAIL))
		await importMailbox(context, {
			path: mboxFile(letters.map(([subject, date]) => letter(subject, date, `The words of ${subject}: zanzibar.`))),
			mailbox: 'Office',
			folder
		});
	return context;
}

const folderId = async ({ db }: Context, folder: string) =>
	(await row<{ id: number }>(db, `SELECT id FROM folder WHERE path = ? AND tree = 'mailbox'`, [folder]))?.id as number;
const itemId = async ({ db }: Context, subject: string) =>
	(
		await row<{ id: number }>(
			db,
			`SELECT item.id FROM item JOIN message ON message.id = item.message_id WHERE subject = ?`,
			[subject]
		)
	)?.id as number;

/* Sets what folders are under, as a person would. */
async function retain(
	context: Context,
	folder: string,
	wish: Partial<Extract<RetentionWish, { kind: 'folders' }>>,
	because = 'as decided'
): Promise<void> {
	await setRetention(context, {
		wish: { kind: 'folders', folderIds: [await folderId(context, folder)], ...wish },
		because
	});
}
const terms = (text: string): Given => ({ terms: text });

/* What each message is due for. */
async function dues({ db }: Context): Promise<Record<string, string>> {
	const found = await rows<{ subject: string; due: string | null }>(
		db,
		`SELECT subject, due_on || ' ' || due_action AS due FROM item JOIN message ON message.id = item.message_id WHERE due_on IS NOT NULL`
	);
	return Object.fromEntries(found.map(({ subject, due }) => [subject, due ?? '']));
}

async function consistent({ db }: Context): Promise<void> {
	expect(await compareDue(db)).toBe(0);
	expect(await compareWeights(db)).toBe(0);
}

const FINANCE = {
	code: 'FIN-01',
	title: 'Invoices',
	trigger: 'financial-year',
	period: 'P7Y',
	disposition: 'archive-destroy',
	archive_after: 'P2Y',
	authority: 'Board, 3 May 2021'
};

/* Switches retention on as a person does: by having seen what would happen. */
async function switchOn(context: Context, mode: 'ask' | 'do'): Promise<void> {
	const would = await runSchedule(context, { dryRun: true });
	await setRetaining(context, { mailbox: 'Office', mode, seen: would.archived + would.destroyed });
}

describe('what holds for mail', () => {
	it('follows its folder, inherits, differs, has a default, and a doubtful date is never due', async () => {
		const context = await office();
		await saveSeries(context, { fields: FINANCE });
		await retain(context, 'Accounts', { retention: { series: 'fin-01' } });
		await retain(context, 'Accounts/Drafts', { retention: terms('received destroy P1Y -') });
		// worked by hand: financial years are calendar years; 2018 ends on 31 Dec 2018, seven years from 1 Jan 2019: 1 Jan 2026
		const own = {
			'Invoice 2018': '2020-03-29 archive',
			'Invoice 2019': '2021-05-31 archive',
			'Invoice 2024': '2026-05-31 archive',
			'Invoice 2026': '2028-05-31 archive',
			'Draft 2020': '2021-01-31 destroy'
		};
		expect(await dues(context)).toEqual(own);
		await setRetention(context, { wish: { kind: 'default', mailboxId: 1, retention: terms('received review P3Y -') } });
		expect(await dues(context)).toEqual({ ...own, 'Odd 2023': '2026-06-30 review' });
		await setRetention(context, { wish: { kind: 'named', name: 'drafts', retention: terms('received keep - -') } });
		expect((await dues(context))['Draft 2020']).toBe('2021-01-31 destroy'); // its own stands before its name's
		await retain(context, 'Accounts/Drafts', { retention: 'none' });
		expect((await dues(context))['Draft 2020']).toBeUndefined();
		const { folders } = await listRetained(context, { mailboxId: 1 });
		expect(folders.map(({ path, sentence }) => [path, sentence])).toEqual([
			[
				'Accounts',
				'Mail here is archived 2 years after it was received and destroyed 7 years after the end of that financial year (series FIN-01, set here). Due now: 3 messages are to be archived.'
			],
			['Accounts/Drafts', 'Mail here is kept for good (as every folder called “drafts”).'],
			[
				'Odds',
				'Mail here is looked at by a person 3 years after it was received (the default of the mailbox). Due now: 1 message is to be looked at.'
			]
		]);
		await consistent(context);
		expect((await verifyArchive(context)).ok).toBe(true);
	});

	it('counts a thread from its last message, also where that comes later', async () => {
		const context = await openOffice();
		const thread = (n: number, date: string) =>
			letter('Ramp', date).replace(
				/Message-ID: .*/,
				`Message-ID: <${n}@x.example>${n > 1 ? '\nIn-Reply-To: <1@x.example>' : ''}`
			);
		await importMailbox(context, {
			path: mboxFile([thread(1, 'Fri, 31 May 2019 10:00:00 +0000')]),
			mailbox: 'Office',
			folder: 'In'
		});
		await retain(context, 'In', { retention: terms('thread destroy P1Y -') });
		expect(await rows(context.db, `SELECT due_on FROM item`)).toEqual([{ due_on: '2020-05-31' }]);
		await importMailbox(context, {
			path: mboxFile([thread(2, 'Sat, 31 May 2025 10:00:00 +0000')]),
			mailbox: 'Office',
			folder: 'In'
		});
		expect(await rows(context.db, `SELECT DISTINCT due_on FROM item`)).toEqual([{ due_on: '2026-05-31' }]);
		await consistent(context);
	});

	it('waits for a folder to be closed; new mail, moved mail and renamed folders follow', async () => {
		const context = await office();
		await retain(context, 'Accounts', { retention: terms('closed destroy P6Y -') });
		expect(await dues(context)).toEqual({});
		await retain(context, 'Accounts', { closedOn: '2019-12-31' });
		expect(Object.values(await dues(context))).toEqual(Array(5).fill('2025-12-31 destroy'));
		await importMailbox(context, {
			path: mboxFile([letter('Late', 'Fri, 31 Jan 2020 10:00:00 +0000')]),
			mailbox: 'Office',
			folder: 'Accounts'
		});
		expect((await dues(context)).Late).toBe('2025-12-31 destroy');
		const docket = await decide(context, {
			mailboxId: 1,
			line: {
				decision: 'move',
				options: { folder: 'Odds' },
				scope: { kind: 'items', ids: [await itemId(context, 'Late')] }
			}
		});
		await carryOut(context, { id: docket.id });
		expect((await dues(context)).Late).toBeUndefined();
		await takeBack(context, { id: docket.id });
		expect((await dues(context)).Late).toBe('2025-12-31 destroy');
		await renameFolder(context, { mailbox: 'Office', folder: 'Odds', to: 'Accounts/Odds' });
		expect((await dues(context))['Odd 2023']).toBe('2025-12-31 destroy');
		await consistent(context);
	});

	it('holds for mailboxes that are new, and a night applies what is not applied yet', async () => {
		const context = await office();
		await setRetention(context, { wish: { kind: 'named', name: 'Odds', retention: terms('received destroy P1Y -') } });
		await importMailbox(context, {
			path: mboxFile([letter('Elsewhere', 'Fri, 31 May 2019 10:00:00 +0000')]),
			mailbox: 'Crew',
			folder: 'Odds'
		});
		expect(await dues(context)).toEqual({ 'Odd 2023': '2024-06-30 destroy', Elsewhere: '2020-05-31 destroy' });
		// as a crash leaves it: set, and not applied
		await change(context.db, `DELETE FROM named_retention`);
		await noteSettings(context.db, undefined);
		const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, 'Elsewhere')] };
		const draft = await prepareDocket(context, { mailboxId: 2, lines: [{ decision: 'delete', options: {}, scope }] });
		await expect(carryOut(context, { id: draft.id })).rejects.toThrow('still being applied');
		await runNight(context);
		expect(await dues(context)).toEqual({});
		await carryOut(context, { id: draft.id });
		await consistent(context);
	});

	it('makes a folder a year, closed on its last day', async () => {
		const context = await office();
		await retain(context, 'Accounts', { retention: terms('closed destroy P6Y -') });
		const docket = await folderPerYear(context, { mailbox: 'Office', folder: 'Accounts', closes: true });
		await carryOut(context, { id: docket.id });
		expect(await dues(context)).toMatchObject({
			'Invoice 2018': '2024-12-31 destroy',
			'Invoice 2026': '2032-12-31 destroy'
		});
		await consistent(context);
	});

	it('classes: the policy for a class where no folder says anything, and what an item is given itself', async () => {
		const context = await office();
		await setRetention(context, {
			wish: { kind: 'class', class: 'transitory', retention: terms('received destroy P2Y -') }
		});
		await setRetention(context, {
			wish: { kind: 'class', class: 'working', retention: terms('received destroy P5Y -') }
		});
		await retain(context, 'Accounts', { retention: terms('received archive P1Y -') });
		expect(await dues(context)).toMatchObject({
			'Odd 2023': '2025-06-30 destroy',
			'Invoice 2018': '2019-03-29 archive'
		});
		const on = async (subject: string, line: Pick<Decided, 'decision' | 'options'>) => {
			const docket = await prepareDocket(context, {
				mailboxId: 1,
				lines: [{ ...line, scope: { kind: 'items', ids: [await itemId(context, subject)] } }]
			});
			await carryOut(context, { id: docket.id });
			return docket;
		};
		await on('Odd 2023', { decision: 'classify', options: { class: 'working', because: 'drafts' } });
		const given = await on('Invoice 2018', { decision: 'retain', options: { terms: 'received destroy P10Y -' } });
		expect(await dues(context)).toMatchObject({
			'Odd 2023': '2028-06-30 destroy',
			'Invoice 2018': '2028-03-29 destroy'
		});
		await takeBack(context, { id: given.id });
		expect((await dues(context))['Invoice 2018']).toBe('2019-03-29 archive');
		await consistent(context);
		expect((await find(context, { query: 'class:working', limit: 9 })).hits.map(({ subject }) => subject)).toEqual([
			'Odd 2023'
		]);

		await setPolicy(context, { ownLeast: 'P1Y', ownMost: 'P10Y' });
		for (const [own, why] of [
			['received destroy P11Y -', '10 years at most'],
			['received keep - -', '10 years at most'],
			['received destroy P30D -', '1 year at least'],
			['nonsense', 'no period']
		])
			await expect(on('Odd 2023', { decision: 'retain', options: { terms: own } })).rejects.toThrow(why);
		await expect(on('Odd 2023', { decision: 'classify', options: { class: 'record' } })).rejects.toThrow(
			'needs a reason'
		);
	});
});

describe('working papers', () => {
	it('have a quota: when it would be exceeded nothing more is put there, and it is said where room is', async () => {
		const context = await office();
		await retain(context, 'Accounts/Drafts', { class: 'working' });
		await setRetaining(context, { mailbox: 'Office', workingQuotaBytes: 300 });
		const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, 'Odd 2023')] };
		for (const line of [
			{ decision: 'move', options: { folder: 'Accounts/Drafts' }, scope },
			{ decision: 'classify', options: { class: 'working', because: 'drafts' }, scope }
		] as Decided[]) {
			const draft = await prepareDocket(context, { mailboxId: 1, lines: [line] });
			await expect(carryOut(context, { id: draft.id })).rejects.toThrow(
				/may weigh 300 bytes.*room is in Accounts\/Drafts/
			);
			await setRetaining(context, { mailbox: 'Office', workingQuotaBytes: 1_000 });
			await carryOut(context, { id: draft.id });
			await takeBack(context, { id: draft.id });
			await setRetaining(context, { mailbox: 'Office', workingQuotaBytes: 300 });
		}
		await consistent(context);
	});
});

describe('records', () => {
	it('are deleted by nobody, keep their series where they are moved, and change it only with a reason', async () => {
		const context = await office();
		await saveSeries(context, { fields: FINANCE });
		await retain(context, 'Accounts', { retention: { series: 'FIN-01' }, class: 'record' });
		const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, 'Invoice 2018')] };
		const draft = await prepareDocket(context, { mailboxId: 1, lines: [{ decision: 'delete', options: {}, scope }] });
		expect(draft).toMatchObject({ messages: 0, lines: [{ left: [{ reason: 'record', messages: 1 }] }] });
		// its series stands before a period of its own
		const own = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'retain', options: { terms: 'received destroy P1Y -' }, scope }]
		});
		expect(own.lines[0]?.left).toEqual([{ reason: 'record', messages: 1 }]);
		const moved = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'move', options: { folder: 'Odds' }, scope }]
		});
		await carryOut(context, { id: moved.id });
		expect(await row(context.db, `SELECT class, due_on FROM item WHERE id = ?`, [scope.ids[0]])).toEqual({
			class: 3,
			due_on: '2020-03-29'
		});
		const id = await folderId(context, 'Accounts');
		const reclass = (because: string) =>
			setRetention(context, {
				wish: { kind: 'folders', folderIds: [id], class: 'transitory' },
				because
			});
		await expect(
			setRetention(context, { wish: { kind: 'folders', folderIds: [id], class: 'transitory' } })
		).rejects.toThrow('say why');
		expect((await tryRetention(context, { kind: 'folders', folderIds: [id], class: 'transitory' })).needsReason).toBe(
			true
		);
		await reclass('They are copies');
		await consistent(context);
	});

	it('want a reason whatever way they come under something else', async () => {
		const context = await office();
		const id = await folderId(context, 'Accounts');
		await retain(context, 'Accounts/Drafts', { class: 'record' });
		await retain(context, 'Accounts', { retention: terms('received destroy P5Y -') });
		const wishes: RetentionWish[] = [
			// what they inherit, a name that is nearer, the default below which they come, and the folder's own class
			{ kind: 'folders', folderIds: [id], retention: terms('received destroy P1Y -') },
			{ kind: 'folders', folderIds: [id], retention: 'none' },
			{ kind: 'named', name: 'drafts', retention: terms('received destroy P1Y -') },
			{ kind: 'reset', mailboxId: 1 }
		];
		for (const wish of wishes) {
			expect((await tryRetention(context, wish)).needsReason, wish.kind).toBe(true);
			await expect(setRetention(context, { wish }), wish.kind).rejects.toThrow('say why');
		}
		for (const wish of [
			{ kind: 'folders', folderIds: [id], retention: terms('received destroy P5Y -') },
			{ kind: 'named', name: 'odds', class: 'working' },
			{ kind: 'default', mailboxId: 1, retention: terms('received archive P1Y -') }
		] as RetentionWish[]) {
			expect((await tryRetention(context, wish)).needsReason, wish.kind).toBe(false);
			await setRetention(context, { wish });
		}
		// a name that makes records of a folder, and then no more
		await setRetention(context, { wish: { kind: 'named', name: 'odds', class: 'record' } });
		await expect(setRetention(context, { wish: { kind: 'named', name: 'odds', class: null } })).rejects.toThrow(
			'say why'
		);
	});

	it('frozen for deletion before they became records, they stay', async () => {
		const context = await office();
		const draft = await prepareDocket(context, {
			mailboxId: 1,
			lines: [
				{ decision: 'delete', options: {}, scope: { kind: 'items', ids: [await itemId(context, 'Invoice 2018')] } }
			]
		});
		await retain(context, 'Accounts', { class: 'record' });
		await expect(carryOut(context, { id: draft.id })).rejects.toThrow('has changed since');
	});
});

describe('under a hold', () => {
	it('a record stays one whatever its folder says; released, it is said what is due now', async () => {
		const context = await office();
		await retain(context, 'Accounts', { retention: terms('received destroy P1Y -'), class: 'record' });
		await placeHold(context, { name: 'Claim', because: 'x', from: 'y', query: 'subject:2018' });
		const id = await itemId(context, 'Invoice 2018');
		const draft = await prepareDocket(context, {
			mailboxId: 1,
			lines: [
				{
					decision: 'classify',
					options: { class: 'transitory', because: 'x' },
					scope: { kind: 'items', ids: [id] }
				}
			]
		});
		expect(draft.lines[0]?.left).toMatchObject([{ reason: 'held', messages: 1 }]);
		await retain(context, 'Accounts', { class: 'transitory' });
		const classOfItem = () => row(context.db, `SELECT class FROM item WHERE id = ?`, [id]);
		expect(await classOfItem()).toEqual({ class: 3 });
		expect(await liftHold(context, { name: 'Claim', because: 'settled' })).toEqual({ messages: 1, due: 1 });
		expect(await classOfItem()).toEqual({ class: 1 });
		await consistent(context);
	});
});

describe('what a change would do', () => {
	it('is said before it is made, and is what then happens', async () => {
		const context = await office();
		await saveSeries(context, { fields: { ...FINANCE, disposition: 'destroy', archive_after: '' } });
		await retain(context, 'Accounts', { retention: { series: 'FIN-01' } });
		const shorter = { ...FINANCE, disposition: 'destroy', archive_after: '', period: 'P1Y' };
		const tried = await trySeries(context, { fields: shorter });
		expect(tried.mailboxes).toMatchObject([
			{ mailbox: 'Office', dueAtOnce: [{ action: 'destroy', messages: 3 }], noLonger: 0, messages: 5 }
		]);
		expect(triedWords(tried)[0]).toBe('Office: 3 messages would become due at once, to be destroyed.');
		const isDue = async () =>
			(await dueItems(context, { mailboxId: 1, limit: 9 })).items.map(({ subject }) => subject).sort();
		expect(await isDue()).toEqual(['Invoice 2018']);
		await expect(saveSeries(context, { fields: shorter })).rejects.toThrow('Say why');
		await saveSeries(context, { fields: shorter, because: 'Board, 2 Nov 2026' });
		expect(await isDue()).toEqual(['Draft 2020', 'Invoice 2018', 'Invoice 2019', 'Invoice 2024']);
		expect((await showSeries(context, { code: 'fin-01' })).map(({ version, because }) => [version, because])).toEqual([
			[2, 'Board, 2 Nov 2026'],
			[1, 'First version']
		]);

		const id = await folderId(context, 'Accounts');
		const wish: RetentionWish = { kind: 'folders', folderIds: [id], retention: terms('received keep - -') };
		expect((await tryRetention(context, wish)).mailboxes).toMatchObject([{ noLonger: 4, dueAtOnce: [] }]);
		expect(await isDue()).toHaveLength(4); // only tried

		await retain(context, 'Accounts/Drafts', { class: 'working', retention: terms('received keep - -') });
		const reset = await tryRetention(context, { kind: 'reset', mailboxId: 1 });
		expect(reset.overrides).toEqual(['Accounts: series FIN-01', 'Accounts/Drafts: kept for good, working papers']);
		await setRetention(context, { wish: { kind: 'reset', mailboxId: 1 } });
		expect(await dues(context)).toEqual({});
		await consistent(context);
	});
});

describe('the run', () => {
	async function due(): Promise<Context> {
		const context = await office();
		await saveSeries(context, { fields: FINANCE });
		await retain(context, 'Accounts', { retention: { series: 'FIN-01' } });
		return context;
	}
	const states = async ({ db }: Context) =>
		Object.fromEntries(
			(
				await rows<{ subject: string; state: string }>(
					db,
					`SELECT subject, state FROM item JOIN message ON message.id = item.message_id ORDER BY item.id`
				)
			).map(({ subject, state }) => [subject, state])
		);
	const carryOutDrafts = async (context: Context) => {
		for (const { id } of await rows<{ id: number }>(
			context.db,
			`SELECT id FROM docket WHERE state = 'drafted' ORDER BY id`
		))
			await carryOut(context, { id });
	};

	it('does nothing where it is off, asks the first time, then does it; each message once', async () => {
		const context = await due();
		const tried = await runSchedule(context, { dryRun: true });
		expect(tried).toMatchObject({
			archived: 4,
			destroyed: 0,
			dockets: [{ docket: undefined, what: 'archive', messages: 4 }]
		});
		expect((await runSchedule(context, {})).dockets).toEqual([]); // off
		await expect(setRetaining(context, { mailbox: 'Office', mode: 'do', seen: 3 })).rejects.toThrow(
			'makes 4 messages due'
		);
		await switchOn(context, 'do');
		const first = await runSchedule(context, {});
		expect(first).toMatchObject({ archived: 0, dockets: [{ messages: 4, asks: true }] });
		// a second run of the night: no second draft
		await runSchedule(context, { always: true });
		expect(await rows(context.db, `SELECT count(*) AS n FROM docket WHERE state = 'drafted'`)).toEqual([{ n: 1 }]);
		await carryOutDrafts(context);
		expect((await states(context))['Invoice 2018']).toBe('archived');
		expect((await dues(context))['Invoice 2018']).toBe('2026-01-01 destroy');
		// now destroying is due, and asks the first time as well
		const second = await runSchedule(context, { always: true });
		expect(second.dockets).toMatchObject([{ what: 'destroy', messages: 1, asks: true }]);
		await carryOutDrafts(context);
		expect((await states(context))['Invoice 2018']).toBeUndefined();
		// from here on by itself: Draft 2020, under another folder's period
		await retain(context, 'Accounts/Drafts', { retention: terms('received destroy P2Y -') });
		const third = await runSchedule(context, { always: true });
		expect(third).toMatchObject({ destroyed: 1, dockets: [{ what: 'destroy', messages: 1, asks: false }] });
		expect((await runSchedule(context, { always: true })).dockets).toEqual([]);
		await consistent(context);
		expect(Object.keys(await states(context)).sort()).toEqual(
			['Invoice 2019', 'Invoice 2024', 'Invoice 2026', 'Odd 2023', 'Odd never'].sort()
		);
	});

	it('asks every time where it is set to that, and leaves what is held, kept or paused, by name', async () => {
		const context = await due();
		await retain(context, 'Accounts', { retention: terms('received destroy P1Y -') });
		await placeHold(context, { name: 'Claim', because: 'x', from: 'y', query: 'subject:2018' });
		await pauseFolder(context, { mailbox: 'Office', folder: 'Accounts/Drafts', until: '2027-01-01', because: 'audit' });
		await change(context.db, `UPDATE item SET kept = 1 WHERE id = ?`, [await itemId(context, 'Invoice 2019')]);
		await switchOn(context, 'ask');
		const run = await runSchedule(context, {});
		expect(run.dockets).toMatchObject([{ what: 'destroy', messages: 1, asks: true }]);
		expect(new Map(run.left.map(({ reason, messages }) => [reason, messages]))).toEqual(
			new Map([
				['held', 1],
				['kept', 1],
				['paused', 1]
			])
		);
		// a hold that is placed on what is drafted, and on what is frozen, stands
		await placeHold(context, { name: 'More', because: 'x', from: 'y', query: 'subject:2024' });
		await expect(carryOut(context, { id: run.dockets[0]?.docket as number })).rejects.toThrow('has changed since');
		expect(Object.keys(await states(context))).toHaveLength(7);
		await liftHold(context, { name: 'Claim', because: 'settled' });
		expect((await runSchedule(context, { always: true })).dockets).toMatchObject([{ messages: 1 }]);
	});

	it('leaves what was changed after it was frozen, and goes on where it was cut off', async () => {
		const context = await due();
		await retain(context, 'Accounts', { retention: terms('received destroy P1Y -') });
		await switchOn(context, 'do');
		const [drafted] = (await runSchedule(context, {})).dockets;
		const stopped = { ...context, who: 'Maren', signal: AbortSignal.abort() };
		expect(await carryOut(stopped, { id: drafted?.docket as number })).toMatchObject({ finished: false, messages: 0 });
		await retain(context, 'Accounts/Drafts', { retention: terms('received keep - -') });
		// one that a person stopped is left to them
		expect((await runSchedule(context, { always: true })).destroyed).toBe(0);
		const done = await carryOut(context, { id: drafted?.docket as number });
		expect(done).toMatchObject({ finished: true, messages: 3, left: [{ reason: 'changed', messages: 1 }] });
		expect(Object.keys(await states(context))).toContain('Draft 2020');
		await consistent(context);
	});

	it('is known by its mark, not by a name that people give; what they decided on its draft is theirs', async () => {
		const context = await due();
		const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, 'Odd 2023')] };
		const line: Decided = { decision: 'flag', options: {}, scope };
		const named = await prepareDocket(context, { mailboxId: 1, name: 'Retention: archive', lines: [line] });
		await carryOut(context, { id: named.id });
		const open = await prepareDocket(context, { mailboxId: 1, name: 'Retention: destroy', lines: [line] });
		await switchOn(context, 'do');
		const [draft] = (await runSchedule(context, {})).dockets;
		expect(draft).toMatchObject({ what: 'archive', asks: true });
		expect((await requireDocket(context, open.id)).state).toBe('drafted');
		await decideOn(context, {
			id: draft?.docket as number,
			line: { ...line, decision: 'tag', options: { tag: 'Seen' } }
		});
		const again = await runSchedule(context, { always: true });
		expect(again.dockets[0]).toMatchObject({ docket: draft?.docket, asks: true });
	});

	it('leaves what was kept or paused after it was frozen', async () => {
		const context = await due();
		await retain(context, 'Accounts', { retention: terms('received destroy P1Y -') });
		await switchOn(context, 'ask');
		const [draft] = (await runSchedule(context, {})).dockets;
		await carryOut({ ...context, signal: AbortSignal.abort() }, { id: draft?.docket as number });
		await change(context.db, `UPDATE item SET kept = 1 WHERE id = ?`, [await itemId(context, 'Invoice 2018')]);
		await pauseFolder(context, { mailbox: 'Office', folder: 'Accounts/Drafts', until: '2027-01-01', because: 'audit' });
		const done = await carryOut(context, { id: draft?.docket as number });
		expect(done).toMatchObject({ finished: true, messages: 2, left: [{ reason: 'changed', messages: 2 }] });
		expect(Object.keys(await states(context))).toEqual(expect.arrayContaining(['Invoice 2018', 'Draft 2020']));
		await consistent(context);
	});

	it('does not archive again the next night what somebody had back', async () => {
		const context = await due();
		await switchOn(context, 'do');
		await runSchedule(context, {});
		await carryOutDrafts(context);
		const ids = [await itemId(context, 'Invoice 2024')];
		const back = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'restore', options: {}, scope: { kind: 'items', ids } }]
		});
		await carryOut(context, { id: back.id });
		const on = (day: string): Context => ({ ...context, now: () => new Date(`${day}T12:00:00Z`) });
		expect(await runSchedule(on('2026-11-26'), { always: true })).toMatchObject({
			archived: 0,
			left: [{ reason: 'had-back', messages: 1 }]
		});
		expect(await runSchedule(on('2026-12-27'), { always: true })).toMatchObject({ archived: 1 });
	});

	it('runs every so many days, makes up for nights left out, and never for days to come', async () => {
		const context = await due();
		await switchOn(context, 'do');
		await setRetaining(context, { mailbox: 'Office', every: 7 });
		const on = (day: string): Context => ({ ...context, now: () => new Date(`${day}T12:00:00Z`) });
		await runSchedule(on('2026-11-25'), {});
		await carryOutDrafts(context);
		expect((await runSchedule(on('2026-12-01'), {})).dockets).toEqual([]); // its day has not come
		// eighteen months without a night: 31 May 2028 is past
		expect(await runSchedule(on('2028-06-15'), {})).toMatchObject({ archived: 1 });
		// a clock that was set back stops nothing
		expect((await runSchedule(on('2026-11-26'), {})).asOf).toBe('2026-11-26');
		await expect(runSchedule(on('2028-06-15'), { asOf: '2028-07-01' })).rejects.toThrow('still to come');
		expect(await runSchedule(on('2028-06-15'), { asOf: '2040-01-01', dryRun: true })).toMatchObject({ destroyed: 5 });
	});

	it('destroys nothing before its day, whoever asks', async () => {
		const context = await due();
		const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, 'Invoice 2018')] };
		for (const [line, why] of [
			[{ decision: 'dispose', options: {}, scope }, 'Only what has reached'],
			[
				{ decision: 'dispose', options: {}, scope: { kind: 'due', action: 'destroy', by: '2099-01-01', label: '' } },
				'Only what has reached'
			]
		] as [Decided, string][])
			await expect(prepareDocket(context, { mailboxId: 1, lines: [line] })).rejects.toThrow(why);
	});
});

describe('due', () => {
	it('says day by day and month by month what will happen, with what is in the bin', async () => {
		const context = await office();
		await saveSeries(context, { fields: { code: 'DAY', title: 'x', period: 'P3Y', disposition: 'destroy' } });
		await setRetention(context, { wish: { kind: 'default', mailboxId: 1, retention: { series: 'DAY' } } });
		await setClearing(context, { mailbox: 'Office', emptiesBin: true });
		const bin = await prepareDocket(context, {
			mailboxId: 1,
			lines: [
				{ decision: 'delete', options: {}, scope: { kind: 'items', ids: [await itemId(context, 'Invoice 2026')] } }
			]
		});
		await carryOut(context, { id: bin.id });
		const lines = await listDue(context, { until: '2029-12-31' });
		expect(
			lines.map(({ date, disposition, series, folder, messages }) => [date, disposition, series, folder, messages])
		).toEqual([
			['2026-11-25', 'destroy', 'DAY', 'Accounts', 2],
			['2026-11-25', 'destroy', 'DAY', 'Accounts/Drafts', 1],
			['2026-11-25', 'destroy', 'DAY', 'Odds', 1],
			['2026-12', 'destroy', 'bin', 'deleted 30 days before', 1],
			['2027-05', 'destroy', 'DAY', 'Accounts', 1]
		]);
		const overview = await dueOverview(context, {});
		expect(overview.months.slice(0, 2)).toEqual([
			{ month: '2026-11', archive: 0, destroy: 4, review: 0 },
			{ month: '2026-12', archive: 0, destroy: 1, review: 0 }
		]);
		expect(overview.months.at(-1)?.month).toBe(monthsBefore('2026-11-01', -23).slice(0, 7));
		const { items } = await dueItems(context, { date: '2027-05', limit: 9 });
		expect(items.map(({ subject, dueOn, trigger }) => [subject, dueOn, trigger])).toEqual([
			['Invoice 2024', '2027-05-31', 'received']
		]);
	});
});

describe('the schedule', () => {
	it('is imported and exported as CSV, all or nothing, with its errors by line', async () => {
		const context = await office();
		expect((await useStarterSchedule(context)).made).toHaveLength(9);
		await expect(useStarterSchedule(context)).rejects.toThrow('already');
		const csv = await exportSchedule(context);
		expect(csv.split('\r\n')[0]).toBe(
			'code,title,description,trigger,period,disposition,archive_after,authority,owner'
		);
		expect(await importSchedule(context, { csv })).toMatchObject({ made: [], changed: [], same: 9, notNamed: [] });
		const wrong = `code,title,period,disposition\nX-1,Fine,P1Y,destroy\nX-2,,P1Y,destroy\n"X-3","two\nlines",x,destroy\nx-1,Again,P1Y,destroy\n`;
		await expect(importSchedule(context, { csv: wrong })).rejects.toThrow(
			/Line 3: A title is missing[\s\S]*Line 5: [\s\S]*not "x"[\s\S]*Line 6: The code x-1 stands on line 2 already[\s\S]*Nothing was changed/
		);
		expect(await listSchedule(context)).toHaveLength(9);
		for (const bad of ['', 'title,period\nx,y\n', 'code,title,disposition\n"A'])
			await expect(importSchedule(context, { csv: bad })).rejects.toThrow('Nothing was changed');
		const done = await importSchedule(context, {
			csv:
				'\uFEFFCode;x\n'.replace(';x', ',Title,Period,Disposition') +
				'gen-01,Everyday post,P1Y,destroy\nNEW,New,permanent,keep\n',
			because: 'Board'
		});
		expect(done).toMatchObject({ made: ['NEW'], changed: ['gen-01'] });
		expect(done.notNamed).toHaveLength(8);
		await dropSeries(context, { code: 'NEW', because: 'never used' });
		expect(await listSchedule(context)).toHaveLength(9);
		await retain(context, 'Odds', { retention: { series: 'GEN-01' } });
		await expect(dropSeries(context, { code: 'GEN-01', because: 'x' })).rejects.toThrow('set in 1 place');
	});
});

describe('certificates', () => {
	async function destroyed(keeps: 'subject' | 'hash'): Promise<{ context: Context; docketId: number }> {
		const context = await office();
		await setPolicy(context, { certificateKeeps: keeps, owner: 'the board' });
		await saveSeries(context, { fields: { ...FINANCE, disposition: 'destroy', archive_after: '' } });
		await retain(context, 'Accounts', { retention: { series: 'FIN-01' } });
		await switchOn(context, 'do');
		const { dockets } = await runSchedule(context, {});
		const docketId = dockets[0]?.docket as number;
		await carryOut({ ...context, who: 'Maren' }, { id: docketId });
		return { context, docketId };
	}

	it('say what was destroyed, under which version, by whose decision, and are chained', async () => {
		const { context, docketId } = await destroyed('subject');
		// the series changes afterwards: the certificate stays explained by the version of the day
		await saveSeries(context, { fields: { ...FINANCE, period: 'P9Y', authority: 'Board, 2026' }, because: 'longer' });
		const certificate = await readCertificate(context, { docketId, limit: 10 });
		expect(certificate).toMatchObject({
			mailbox: 'Office',
			decidedBy: 'tester',
			madeBy: 'Maren',
			messages: 1,
			isGenuine: true
		});
		expect(certificate.items).toMatchObject([
			{
				series: 'FIN-01',
				version: 1,
				authority: 'Board, 3 May 2021',
				dueOn: '2026-01-01',
				because: 'destroyed 7 years after the end of the financial year in which it was received',
				subject: 'Invoice 2018',
				from: 'Tove <tove@skerryline.example>'
			}
		]);
		const raw = letter('Invoice 2018', 'Thu, 29 Mar 2018 10:00:00 +0000', 'The words of Invoice 2018: zanzibar.');
		expect(certificate.items[0]?.sha256).toBe(createHash('sha256').update(raw).digest('hex'));
		const [line] = (await listLedger(context.db)).filter(({ details }) => 'certificateHash' in details);
		expect(line?.details.certificateHash).toBe(certificate.sha256);

		const text = async (format: 'csv' | 'json') => {
			const parts: Uint8Array[] = [];
			for await (const part of exportCertificate(context, { docketId, format })) parts.push(part);
			return Buffer.concat(parts).toString();
		};
		expect((await text('csv')).split('\r\n')).toHaveLength(3);
		expect(JSON.parse(await text('json'))).toMatchObject({ messages: 1, items: [{ series: 'FIN-01' }] });

		expect(await differingCertificates(context.db)).toEqual([]);
		await change(context.db, `UPDATE certificate_item SET subject = 'Something else'`);
		expect(await differingCertificates(context.db)).toEqual([docketId]);
		expect((await readCertificate(context, { docketId, limit: 1 })).isGenuine).toBe(false);
		expect((await verifyArchive(context)).ok).toBe(false);
	});

	it('keep the hash alone where the policy says so; of the message nothing is left in the file', async () => {
		const { context, docketId } = await destroyed('hash');
		expect((await readCertificate(context, { docketId, limit: 10 })).items).toMatchObject([{ subject: '', from: '' }]);
		const file = () => readFileSync(path.join(context.dataFolder, 'kovrel.sqlite'));
		await change(context.db, `VACUUM`).catch(() => undefined);
		await rows(context.db, `PRAGMA wal_checkpoint(TRUNCATE)`);
		expect(file().includes('Invoice 2019')).toBe(true);
		expect(file().includes('Invoice 2018')).toBe(false);
		expect(await row(context.db, `SELECT count(*) AS n FROM words WHERE words MATCH '"2018"'`)).toEqual({ n: 0 });
	});
});

it('the policy says what is set, and changes with it', async () => {
	const context = await office();
	await saveSeries(context, { fields: FINANCE });
	const before = await readPolicy(context);
	expect(before.mailboxes[0]?.sentences.join(' ')).toContain('retention is not switched on here');
	await retain(context, 'Accounts', { retention: { series: 'FIN-01' }, class: 'record' });
	await setRetention(context, {
		wish: { kind: 'class', class: 'transitory', retention: terms('received destroy P90D -') }
	});
	await switchOn(context, 'ask');
	const { general, mailboxes, series } = await readPolicy(context);
	expect(general.join(' ')).toContain(
		'Transitory mail, where no folder has a period, is destroyed 90 days after it was received'
	);
	expect(mailboxes[0]?.sentences.join(' ')).toContain(
		'waits for a person to carry it out. The schedule runs every night.'
	);
	expect(mailboxes[0]?.folders.map(({ path: folder }) => folder)).toEqual(['Accounts']);
	expect(series.map(({ code, uses }) => [code, uses])).toEqual([['FIN-01', 1]]);
});
