import { describe, expect, it } from 'vitest';
import { noteSettings } from '../standing/retention-store.ts';
import { change, row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import type { Context } from '../context/context.ts';
import { dueItems } from './due.ts';
import { find } from '../find/find.ts';
import { folderPerYear, pauseFolder, renameFolder } from '../folders/folders.ts';
import { releaseHold, placeHold } from './holds.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { prepareArchiving } from '../archive/prepare-archiving.ts';
import { decide, prepareDocket } from '../docket/prepare-docket.ts';
import { readMessage } from '../find/read-message.ts';
import { runNight } from '../process/night.ts';
import { setPolicy } from './policy.ts';
import { type RetentionSetting, setRetention, tryRetention } from './retain.ts';
import { showDate } from '../../../core/calendar.ts';
import { listRetained, triedWords } from './retained.ts';
import { runSchedule, setRetaining } from './run-schedule.ts';
import { saveSeries, showSeries, trySeries } from './schedule.ts';
import { verify } from '../backup/verify-archive.ts';
import { retainedOffice, folderId, itemId, retain, terms, dues, consistent, FINANCE } from '../testing/retaining.ts';
import { type Decided } from '../docket/scope.ts';

describe('what holds for mail', () => {
	it('follows its folder, inherits, differs, has a default, and a doubtful date is never due', async () => {
		const context = await retainedOffice();
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
				'Mail here is due to be archived 2 years after it was received and destroyed 7 years after the end of that financial year (series FIN-01, set here). Due now: 3 messages are to be archived. Next: 1 message is to be archived on 31 May 2028.'
			],
			['Accounts/Drafts', 'Mail here is kept for good (as every folder called “drafts”).'],
			[
				'Odds',
				'Mail here is due to be reviewed by a person 3 years after it was received (the default of the mailbox). Due now: 1 message is to be reviewed.'
			]
		]);
		await consistent(context);
		expect((await verify(context)).ok).toBe(true);
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
		expect(await rows(context.db, sql`SELECT due_on FROM item`)).toEqual([{ due_on: '2020-05-31' }]);
		await importMailbox(context, {
			path: mboxFile([thread(2, 'Sat, 31 May 2025 10:00:00 +0000')]),
			mailbox: 'Office',
			folder: 'In'
		});
		expect(await rows(context.db, sql`SELECT DISTINCT due_on FROM item`)).toEqual([{ due_on: '2026-05-31' }]);
		await consistent(context);
	});

	it('waits for a folder to be closed; new mail, moved mail and renamed folders follow', async () => {
		const context = await retainedOffice();
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
		const context = await retainedOffice();
		await setRetention(context, { wish: { kind: 'named', name: 'Odds', retention: terms('received destroy P1Y -') } });
		await importMailbox(context, {
			path: mboxFile([letter('Elsewhere', 'Fri, 31 May 2019 10:00:00 +0000')]),
			mailbox: 'Crew',
			folder: 'Odds'
		});
		expect(await dues(context)).toEqual({ 'Odd 2023': '2024-06-30 destroy', Elsewhere: '2020-05-31 destroy' });
		// the state after a crash: set, and not applied
		await change(context.db, sql`DELETE FROM named_retention`);
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
		const context = await retainedOffice();
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
		const context = await retainedOffice();
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

	it('names the next day on which something goes, past days of which all mail stays', async () => {
		const context = await retainedOffice();
		await retain(context, 'Accounts', { retention: { terms: 'received destroy P12Y -' } });
		const next = async () => {
			const { folders } = await listRetained(context, { mailboxId: 1 });
			return folders.find(({ path }) => path === 'Accounts')?.sentence;
		};
		const days = [...new Set(Object.values(await dues(context)).filter((due) => due.endsWith(' destroy')))].sort();
		const shown = (due: string | undefined) => showDate((due ?? '').slice(0, 10));
		expect(days.length).toBeGreaterThan(2);
		expect(await next()).toContain(shown(days[0]));
		await change(context.db, sql`UPDATE item SET kept = 1 WHERE due_on = ${(days[0] ?? '').slice(0, 10)}`);
		expect(await next()).not.toContain(shown(days[0]));
		expect(await next()).toContain(shown(days[1]));
	});
});

describe('working papers', () => {
	it('have a quota: when it would be exceeded nothing more is put there, and it is said where room is', async () => {
		const context = await retainedOffice();
		await retain(context, 'Accounts/Drafts', { class: 'working' });
		await setRetaining(context, { mailbox: 'Office', quotas: { working: 300 } });
		const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, 'Odd 2023')] };
		for (const line of [
			{ decision: 'move', options: { folder: 'Accounts/Drafts' }, scope },
			{ decision: 'classify', options: { class: 'working', because: 'drafts' }, scope }
		] as Decided[]) {
			const draft = await prepareDocket(context, { mailboxId: 1, lines: [line] });
			await expect(carryOut(context, { id: draft.id })).rejects.toThrow(
				/may weigh 300\u00a0bytes.*room is in Accounts\/Drafts/
			);
			await setRetaining(context, { mailbox: 'Office', quotas: { working: 1_000 } });
			await carryOut(context, { id: draft.id });
			await takeBack(context, { id: draft.id });
			await setRetaining(context, { mailbox: 'Office', quotas: { working: 300 } });
		}
		await consistent(context);
	});
});

describe('records', () => {
	it('are deleted by nobody, keep their series where they are moved, and change it only with a reason', async () => {
		const context = await retainedOffice();
		await saveSeries(context, { fields: FINANCE });
		await retain(context, 'Accounts', { retention: { series: 'FIN-01' }, class: 'record' });
		const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, 'Invoice 2018')] };
		const draft = await prepareDocket(context, { mailboxId: 1, lines: [{ decision: 'delete', options: {}, scope }] });
		expect(draft).toMatchObject({ messages: 0, lines: [{ left: [{ reason: 'record', messages: 1 }] }] });
		// its series outranks a period of its own
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
		expect(await row(context.db, sql`SELECT class, due_on FROM item WHERE id = ${scope.ids[0] ?? 0}`)).toEqual({
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
		const context = await retainedOffice();
		const id = await folderId(context, 'Accounts');
		await retain(context, 'Accounts/Drafts', { class: 'record' });
		await retain(context, 'Accounts', { retention: terms('received destroy P5Y -') });
		const wishes: RetentionSetting[] = [
			// inherited retention, that of a name, the default, and the folder's own class
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
		] as RetentionSetting[]) {
			expect((await tryRetention(context, wish)).needsReason, wish.kind).toBe(false);
			await setRetention(context, { wish });
		}
		// a name that makes a folder's mail records, and then no more
		await setRetention(context, { wish: { kind: 'named', name: 'odds', class: 'record' } });
		await expect(setRetention(context, { wish: { kind: 'named', name: 'odds', class: null } })).rejects.toThrow(
			'say why'
		);
	});

	it('frozen for deletion before they became records, they stay', async () => {
		const context = await retainedOffice();
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
		const context = await retainedOffice();
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
		const classOfItem = () => row(context.db, sql`SELECT class FROM item WHERE id = ${id}`);
		expect(await classOfItem()).toEqual({ class: 3 });
		expect(await releaseHold(context, { name: 'Claim', because: 'settled' })).toEqual({ messages: 1, due: 1 });
		expect(await classOfItem()).toEqual({ class: 1 });
		await consistent(context);
	});
});

describe('what a change would do', () => {
	it('is said before it is made, and is what then happens', async () => {
		const context = await retainedOffice();
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
		const wish: RetentionSetting = { kind: 'folders', folderIds: [id], retention: terms('received keep - -') };
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

describe('what a folder says of its mail', () => {
	/* 60 letters due to be destroyed, 55 due to be archived, some of each under a hold, kept and paused. */
	async function complaints(): Promise<Context> {
		const context = await openOffice();
		const letters = (year: number, count: number) =>
			Array.from({ length: count }, (_, n) => letter(`Of ${year} no ${n}`, `Mon, 02 Mar ${year} 10:00:00 +0000`));
		await importMailbox(context, {
			path: mboxFile([...letters(2015, 80), ...letters(2023, 55), ...letters(2025, 40)]),
			mailbox: 'Office',
			folder: 'Complaints'
		});
		await retain(context, 'Complaints', { retention: terms('received archive-destroy P7Y P2Y') });
		const { id } = await prepareArchiving(context, { mailbox: 'Office', before: '2016-01-01' });
		await carryOut(context, { id });
		return context;
	}
	const sentence = async (context: Context) =>
		(await listRetained(context, { mailboxId: 1 })).folders.find(({ path }) => path === 'Complaints')?.sentence ?? '';

	it('names all that is coming, without what stays, and says why that stays', async () => {
		const context = await complaints();
		expect(await sentence(context)).toMatch(
			/Due now: 80 messages are to be destroyed and 55 to be archived\. Next: 40 messages are to be archived on 2 Mar 2027\.$/
		);
		await placeHold(context, {
			name: 'Slipway claim',
			because: 'court',
			from: 'court',
			query: 'subject:2015 subject:1*'
		});
		await change(context.db, sql`UPDATE item SET kept = 1 WHERE state = 'archived' AND id % 9 = 0`);
		const paused = await prepareDocket(context, {
			mailboxId: 1,
			lines: [
				{
					decision: 'pause',
					options: { until: '2027-06-01', because: 'asked' },
					scope: { kind: 'items', ids: [20, 21, 22] }
				}
			]
		});
		await carryOut(context, { id: paused.id });
		// counted independently, item by item
		const [counted] = await rows<{ held: number; kept: number; paused: number }>(
			context.db,
			sql`SELECT sum(is_held) AS held, sum(NOT is_held AND kept = 1) AS kept, sum(NOT is_held AND kept = 0 AND pause_id IS NOT NULL) AS paused
			 FROM (SELECT kept, pause_id, id IN (SELECT item_id FROM hold_item) AS is_held FROM item WHERE state = 'archived')`
		);
		const { held = 0, kept = 0, paused: resting = 0 } = counted ?? {};
		expect(Math.min(held, kept, resting)).toBeGreaterThan(0);
		const said = await sentence(context);
		expect(said).toContain(
			`Due now: ${80 - held - kept - resting} messages are to be destroyed and 55 to be archived.`
		);
		expect(said).toContain(`${held} messages are under the hold “Slipway claim” and are not destroyed.`);
		expect(said).toContain(`${kept} due to be destroyed stay: kept.`);
		// the run destroys as many as the sentence says
		expect((await runSchedule(context, { dryRun: true })).destroyed).toBe(80 - held - kept - resting);
		await pauseFolder(context, {
			mailbox: 'Office',
			folder: 'Complaints',
			until: '2027-01-01',
			because: 'the claim runs'
		});
		const after = await sentence(context);
		expect(after).toContain('Due now: 55 messages are to be archived.');
		expect(after).toContain('Paused: nothing here is destroyed before 1 Jan 2027, because the claim runs.');
		expect((await runSchedule(context, { dryRun: true })).destroyed).toBe(0);
	});

	it('and a message that it was archived, with the day', async () => {
		const context = await complaints();
		const id = await itemId(context, 'Of 2015 no 7');
		expect((await readMessage(context, { id })).standing.sentence).toBe(
			'It was archived on 25 Nov 2026. It is due to be destroyed 7 years after it was received (set on its folder). It is due to be destroyed on 2 Mar 2022.'
		);
	});

	it('says at once where a class makes more working papers than fit, and where room is', async () => {
		const context = await complaints();
		await setRetaining(context, { mailbox: 'Office', quotas: { working: 10_000 } });
		const wish = {
			kind: 'folders' as const,
			folderIds: [await folderId(context, 'Complaints')],
			class: 'working' as const
		};
		const tried = await tryRetention(context, wish);
		expect(tried.overQuota).toEqual([
			expect.stringMatching(
				/^Mail of the class “working papers” may weigh 10\.0\u00a0kB in Office; with this it would weigh/
			)
		]);
		const { overQuota } = await setRetention(context, { wish });
		expect(overQuota).toEqual(tried.overQuota);
		// if there are working papers, the folders with most of them are named
		await setRetaining(context, { mailbox: 'Office', quotas: { working: 20_000 } });
		await importMailbox(context, {
			path: mboxFile(Array.from({ length: 100 }, (_, n) => letter(`Draft ${n}`, 'Mon, 02 Mar 2026 10:00:00 +0000'))),
			mailbox: 'Office',
			folder: 'Drawings'
		});
		const more = { ...wish, folderIds: [await folderId(context, 'Drawings')] };
		expect((await tryRetention(context, more)).overQuota[0]).toMatch(
			/The quickest way to make room is in .*Complaints \(/
		);
		// a change that reduces them is accepted
		const less = { ...wish, class: null };
		expect((await tryRetention(context, less)).overQuota).toEqual([]);
	});
});
