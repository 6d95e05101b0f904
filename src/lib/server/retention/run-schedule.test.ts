import { describe, expect, it } from 'vitest';
import { monthsBefore } from '../../../core/calendar.ts';
import { runLeavesSentence } from '../../../core/retention/scheduled-run.ts';
import { itemsIn, largeOffice } from '../testing/large-office.ts';
import { change, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { setClearing } from '../archive/bin.ts';
import { carryOut } from '../docket/carry-out.ts';
import { actingAs, type Context } from '../context/context.ts';
import { dueItems, dueOverview, listDue } from './due.ts';
import { pauseFolder, setFolderArchiving } from '../folders/folders.ts';
import { releaseHold, placeHold } from './holds.ts';
import { beginJob, finishJob, listJobs } from '../process/jobs.ts';
import { type NightRun, runNight } from '../process/night.ts';
import { decideOn, discardDocket, prepareDocket } from '../docket/prepare-docket.ts';
import { requireDocket } from '../docket/show-docket.ts';
import { decideMessages } from '../find/decide-messages.ts';
import { setRetention } from './retain.ts';
import { runSchedule, setRetaining } from './run-schedule.ts';
import { saveSeries } from './schedule.ts';
import { retainedOffice, itemId, retain, terms, dues, consistent, FINANCE, switchOn } from '../testing/retaining.ts';
import { useCase } from '../process/use-cases.ts';
import { administratorNamed } from '../../../core/access/roles.ts';
import { type Decided } from '../docket/scope.ts';

describe('the run', () => {
	async function due(): Promise<Context> {
		const context = await retainedOffice();
		await saveSeries(context, { fields: FINANCE });
		await retain(context, 'Accounts', { retention: { series: 'FIN-01' } });
		return context;
	}
	const states = async ({ db }: Context) =>
		Object.fromEntries(
			(
				await rows<{ subject: string; state: string }>(
					db,
					sql`SELECT subject, state FROM item JOIN message ON message.id = item.message_id ORDER BY item.id`
				)
			).map(({ subject, state }) => [subject, state])
		);
	const carryOutDrafts = async (context: Context) => {
		for (const { id } of await rows<{ id: number }>(
			context.db,
			sql`SELECT id FROM docket WHERE state = 'drafted' ORDER BY id`
		))
			await carryOut(context, { id, confirm: 'destroy' });
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
		// a second run on the same day drafts no second docket
		await runSchedule(context, { always: true });
		expect(await rows(context.db, sql`SELECT count(*) AS n FROM docket WHERE state = 'drafted'`)).toEqual([{ n: 1 }]);
		await carryOutDrafts(context);
		expect((await states(context))['Invoice 2018']).toBe('archived');
		expect((await dues(context))['Invoice 2018']).toBe('2026-01-01 destroy');
		// the first destruction asks as well
		const second = await runSchedule(context, { always: true });
		expect(second.dockets).toMatchObject([{ what: 'destroy', messages: 1, asks: true }]);
		await carryOutDrafts(context);
		expect((await states(context))['Invoice 2018']).toBeUndefined();
		// automatic from here on: Draft 2020, under another folder's period
		await retain(context, 'Accounts/Drafts', { retention: terms('received destroy P2Y -') });
		const third = await runSchedule(context, { always: true });
		expect(third).toMatchObject({ destroyed: 1, dockets: [{ what: 'destroy', messages: 1, asks: false }] });
		expect((await runSchedule(context, { always: true })).dockets).toEqual([]);
		await consistent(context);
		expect(Object.keys(await states(context)).sort()).toEqual(
			['Invoice 2019', 'Invoice 2024', 'Invoice 2026', 'Odd 2023', 'Odd never'].sort()
		);
	});

	it('counts what is never archived apart in what is due, as the run leaves it', async () => {
		const context = await due();
		const counted = async () => {
			const { neverArchived } = await dueOverview(context, {});
			const { archived, left } = await runSchedule(context, { dryRun: true });
			return { neverArchived, archived, left: left.map(({ reason, messages }) => ({ reason, messages })) };
		};
		expect(await counted()).toEqual({ neverArchived: 0, archived: 4, left: [] });
		await setFolderArchiving(context, { mailbox: 'Office', folder: 'Accounts/Drafts', neverArchived: true });
		const ids = [await itemId(context, 'Invoice 2018'), await itemId(context, 'Draft 2020')];
		await decideMessages(context, { ids, decision: 'never-archive', options: {} });
		// a message that its folder protects as well counts once
		const left = [{ reason: 'never-archived', messages: 2 }];
		expect(await counted()).toEqual({ neverArchived: 2, archived: 2, left });
		await setFolderArchiving(context, { mailbox: 'Office', folder: 'Accounts', neverArchived: true });
		// with Invoice 2026, which is shown and not due yet
		expect(await counted()).toEqual({ neverArchived: 5, archived: 0, left: [{ ...left[0], messages: 4 }] });
		await expect(dueOverview(context, { mailboxIds: [99] })).rejects.toThrow('no such mailbox');
	});

	it('asks every time where it is set to that, and leaves what is held, kept or paused, by name', async () => {
		const context = await due();
		await retain(context, 'Accounts', { retention: terms('received destroy P1Y -') });
		await placeHold(context, { name: 'Claim', because: 'x', from: 'y', query: 'subject:2018' });
		await pauseFolder(context, { mailbox: 'Office', folder: 'Accounts/Drafts', until: '2027-01-01', because: 'audit' });
		await change(context.db, sql`UPDATE item SET kept = 1 WHERE id = ${await itemId(context, 'Invoice 2019')}`);
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
		// a hold placed after drafting or freezing is respected
		await placeHold(context, { name: 'More', because: 'x', from: 'y', query: 'subject:2024' });
		await expect(carryOut(context, { id: run.dockets[0]?.docket as number })).rejects.toThrow('has changed since');
		expect(Object.keys(await states(context))).toHaveLength(7);
		await releaseHold(context, { name: 'Claim', because: 'settled' });
		expect((await runSchedule(context, { always: true })).dockets).toMatchObject([{ messages: 1 }]);
	});

	it('leaves what was changed after it was frozen, and goes on where it was cut off', async () => {
		const context = await due();
		await retain(context, 'Accounts', { retention: terms('received destroy P1Y -') });
		await switchOn(context, 'do');
		const [drafted] = (await runSchedule(context, {})).dockets;
		const maren = actingAs(context, administratorNamed('Maren'));
		const stopped = { ...maren, signal: AbortSignal.abort() };
		expect(await carryOut(stopped, { id: drafted?.docket as number, confirm: 'destroy' })).toMatchObject({
			finished: false,
			messages: 0
		});
		await retain(context, 'Accounts/Drafts', { retention: terms('received keep - -') });
		// a docket stopped by a person is left to them
		expect((await runSchedule(context, { always: true })).destroyed).toBe(0);
		const done = await carryOut(context, { id: drafted?.docket as number });
		expect(done).toMatchObject({ finished: true, messages: 3, left: [{ reason: 'changed', messages: 1 }] });
		expect(Object.keys(await states(context))).toContain('Draft 2020');
		await consistent(context);
	});

	it('says of each of two overlapping runs what that one did', async () => {
		const context = await due();
		await switchOn(context, 'do');
		await runSchedule(context, {});
		await carryOutDrafts(context);
		await retain(context, 'Odds', { retention: terms('received archive P1Y -') });
		const stopped = { ...context, signal: AbortSignal.abort() };
		// begun by one run, carried out by the other
		expect(await runSchedule(stopped, { always: true })).toMatchObject({ archived: 0 });
		const [begun] = await rows<{ id: number }>(context.db, sql`SELECT id FROM docket WHERE state = 'carrying-out'`);
		expect(await runSchedule(context, { always: true })).toMatchObject({ archived: 1 });
		// the first one takes up its docket again
		const again = await carryOut(context, { id: begun?.id as number, byItself: true });
		expect(again).toMatchObject({ messages: 1, byThisCall: { messages: 0 }, finished: true });
		await expect(carryOut(context, { id: begun?.id as number })).rejects.toThrow('was carried out already');
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
			lines: [{ ...line, decision: 'tag', options: { tag: 'Seen' } }]
		});
		const again = await runSchedule(context, { always: true });
		expect(again.dockets[0]).toMatchObject({ docket: draft?.docket, asks: true });
	});

	it('leaves what was kept or paused after it was frozen', async () => {
		const context = await due();
		await retain(context, 'Accounts', { retention: terms('received destroy P1Y -') });
		await switchOn(context, 'ask');
		const [draft] = (await runSchedule(context, {})).dockets;
		await carryOut({ ...context, signal: AbortSignal.abort() }, { id: draft?.docket as number, confirm: 'destroy' });
		await change(context.db, sql`UPDATE item SET kept = 1 WHERE id = ${await itemId(context, 'Invoice 2018')}`);
		await pauseFolder(context, { mailbox: 'Office', folder: 'Accounts/Drafts', until: '2027-01-01', because: 'audit' });
		const done = await carryOut(context, { id: draft?.docket as number });
		expect(done).toMatchObject({ finished: true, messages: 2, left: [{ reason: 'changed', messages: 2 }] });
		expect(Object.keys(await states(context))).toEqual(expect.arrayContaining(['Invoice 2018', 'Draft 2020']));
		await consistent(context);
	});

	it('does not archive again the next night what somebody restored', async () => {
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
		// eighteen months without a run: 31 May 2028 is past
		expect(await runSchedule(on('2028-06-15'), {})).toMatchObject({ archived: 1 });
		// a clock set back stops nothing
		expect((await runSchedule(on('2026-11-26'), {})).asOf).toBe('2026-11-26');
		await expect(runSchedule(on('2028-06-15'), { asOf: '2028-07-01' })).rejects.toThrow('still to come');
		expect(await runSchedule(on('2028-06-15'), { asOf: '2040-01-01', dryRun: true })).toMatchObject({ destroyed: 5 });
	});

	it('destroys nothing before its day, whoever asks', async () => {
		const context = await due();
		const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, 'Invoice 2018')] };
		for (const [line, why] of [
			[{ decision: 'dispose', options: {}, scope }, 'Only mail that has reached'],
			[
				{ decision: 'dispose', options: {}, scope: { kind: 'due', action: 'destroy', by: '2099-01-01', label: '' } },
				'Only mail that has reached'
			]
		] as [Decided, string][])
			await expect(prepareDocket(context, { mailboxId: 1, lines: [line] })).rejects.toThrow(why);
	});
});

describe('due', () => {
	it('says day by day and month by month what will happen, with what is in the bin', async () => {
		const context = await retainedOffice();
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
			// what is due now stands apart
			{ month: '2026-11', archive: 0, destroy: 0, review: 0 },
			{ month: '2026-12', archive: 0, destroy: 1, review: 0 }
		]);
		expect(overview.months.at(-1)?.month).toBe(monthsBefore('2026-11-01', -23).slice(0, 7));
		const { items } = await dueItems(context, { date: '2027-05', limit: 9 });
		expect(items.map(({ subject, dueOn, trigger }) => [subject, dueOn, trigger])).toEqual([
			['Invoice 2024', '2027-05-31', 'received']
		]);
	});
});

describe('nights', () => {
	/* 300 letters of 2020, due to be destroyed; every second one due to be archived first in a folder of its own. */
	async function office(): Promise<Context> {
		const context = await largeOffice({ Odds: 300, Accounts: 200 });
		await retain(context, 'Odds', { retention: terms('received destroy P5Y -') });
		await retain(context, 'Accounts', { retention: terms('received archive P2Y -') });
		return context;
	}
	const dockets = ({ db }: Context) =>
		rows<{ id: number; name: string; state: string; messages: number }>(
			db,
			sql`SELECT id, name, state, messages FROM docket ORDER BY id`
		);
	const DAY_MS = 86_400_000;
	const later = (context: Context, days: number): Context => ({
		...context,
		now: () => new Date(context.now().getTime() + days * DAY_MS)
	});

	it('leave one open docket a kind, brought up to date, and none where nothing is due', async () => {
		const context = await office();
		await switchOn(context, 'ask');
		for (let night = 0; night < 7; night++) await runSchedule(later(context, night), {});
		const [archive, destroy, ...more] = await dockets(context);
		expect(more).toEqual([]);
		expect([archive, destroy]).toMatchObject([
			{ name: 'Retention: archive', state: 'drafted', messages: 200 },
			{ name: 'Retention: destroy', state: 'drafted', messages: 300 }
		]);
		// changes of due mail show in the same dockets
		await change(context.db, sql`UPDATE item SET kept = 1 WHERE id <= 100`);
		await runSchedule(later(context, 7), {});
		expect(await dockets(context)).toMatchObject([
			{ id: archive?.id, messages: 200 },
			{ id: destroy?.id, messages: 200 }
		]);
		await carryOut(later(context, 7), { id: destroy?.id as number, confirm: 'Office' });
		await carryOut(later(context, 7), { id: archive?.id as number });
		for (let night = 8; night < 15; night++) await runSchedule(later(context, night), {});
		expect(await dockets(context)).toHaveLength(2);
	});

	it('leave the draft alone on which a person has decided something', async () => {
		const context = await office();
		await switchOn(context, 'ask');
		const run = await runSchedule(context, {});
		const { docket: id } = run.dockets.find(({ what }) => what === 'destroy') as { docket: number };
		const scope = { kind: 'items' as const, ids: await itemsIn(context, 'Odds', 10) };
		await decideOn(context, { id, lines: [{ decision: 'keep', options: {}, scope }] });
		await runSchedule(later(context, 1), {});
		expect((await requireDocket(context, id)).lines.map(({ decision }) => decision)).toEqual([
			'dispose',
			'dispose',
			'keep'
		]);
		expect(await dockets(context)).toHaveLength(2);
	});

	it('say of a docket that waited what became of it', async () => {
		const context = await office();
		await switchOn(context, 'ask');
		const job = await beginJob(context, useCase('runNight'), undefined);
		const result = await runNight(context);
		await finishJob(context, { id: job.id, state: 'done', result });
		const told = async () =>
			((await listJobs(context, { limit: 1 }))[0]?.result as NightRun).retention.map(({ what, asks, ...more }) => [
				what,
				asks,
				(more as { became?: string }).became
			]);
		expect(await told()).toEqual([
			['archive', true, undefined],
			['destroy', true, undefined]
		]);
		for (const { docket, what } of result.retention)
			if (what === 'destroy') await carryOut(context, { id: docket as number, confirm: 'Office' });
			else await discardDocket(context, { id: docket as number });
		expect(await told()).toEqual([
			['archive', false, 'dropped'],
			['destroy', false, 'carried-out']
		]);
	});

	it('archive held, kept and paused mail and destroy none of it, as the page says (invariant 16)', async () => {
		const context = await office();
		await placeHold(context, {
			name: 'Slipway claim',
			because: 'court',
			from: 'court',
			query: 'subject:1*'
		});
		await change(context.db, sql`UPDATE item SET kept = 1 WHERE id % 7 = 0`);
		await pauseFolder(context, {
			mailbox: 'Office',
			folder: 'Accounts',
			until: '2027-06-01',
			because: 'the claim runs'
		});
		await switchOn(context, 'ask');
		await runSchedule(context, {});
		for (const { id } of await dockets(context)) await carryOut(context, { id, confirm: 'Office' });
		const left = await rows<{ folder: string; state: string; n: number; free: number }>(
			context.db,
			sql`SELECT ifnull(origin.path, folder.path) AS folder, state, count(*) AS n,
				sum(kept = 0 AND item.id NOT IN (SELECT item_id FROM hold_item)) AS free
			 FROM item JOIN folder ON folder.id = folder_id LEFT JOIN folder origin ON origin.id = origin_folder_id GROUP BY 1, 2 ORDER BY 1`
		);
		expect(left).toEqual([
			{ folder: 'Accounts', state: 'archived', n: 200, free: expect.any(Number) as number },
			{ folder: 'Odds', state: 'live', n: expect.any(Number) as number, free: 0 }
		]);
		expect(left[1]?.n).toBeGreaterThan(100);
		expect(runLeavesSentence()).toBe(
			'Never-archived mail is not archived. Held, kept and paused mail is archived, but not destroyed. Mail whose date is in doubt stays, and mail restored within the last 30 days is not archived again.'
		);
	});
});
