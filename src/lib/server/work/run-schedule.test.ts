import { describe, expect, it } from 'vitest';
import { monthsBefore } from '../../../core/calendar.ts';
import { change, rows } from '../stores/rows.ts';
import { setClearing } from './bin.ts';
import { carryOut } from './carry-out.ts';
import type { Context } from './context.ts';
import { dueItems, dueOverview, listDue } from './due.ts';
import { pauseFolder } from './folders.ts';
import { liftHold, placeHold } from './holds.ts';
import { decideOn, prepareDocket } from './prepare-docket.ts';
import { type Decided, requireDocket } from './show-docket.ts';
import { setRetention } from './retain.ts';
import { runSchedule, setRetaining } from './run-schedule.ts';
import { saveSeries } from './schedule.ts';
import { retainedOffice, itemId, retain, terms, dues, consistent, FINANCE, switchOn } from '../testing/retaining.ts';

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
