import { describe, expect, it } from 'vitest';
import type { Stay } from '../../../core/rules/rule.ts';
import type { Context } from '../context/context.ts';
import { row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { carryOut } from '../docket/carry-out.ts';
import { requireDocket } from '../docket/show-docket.ts';
import { decideOn, discardDocket, prepareDocket } from '../docket/prepare-docket.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { markSender } from '../lists/senders.ts';
import { placeHold } from '../retention/holds.ts';
import { setRetention } from '../retention/retain.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { verify } from '../backup/verify-archive.ts';
import { rehearseRule } from './rehearse.ts';
import { addRule, listRules, moveRule, removeRule, type RuleGiven, rulesOnMessage, switchRule } from './rules.ts';
import { runRules, takeBackRule } from './run-rules.ts';

const TODAY = '2026-11-25';
const SENDERS = ['news@times.example', 'desk@quay.example', 'bosun@terne.example'] as const;

interface Mail {
	subject: string;
	from: string;
	day: string;
	padding: number;
}

/* A letter every five days for two years, from each sender in turn, some of them heavy. */
const MAIL: Mail[] = Array.from({ length: 150 }, (_, n) => ({
	subject: `Letter ${n}`,
	from: SENDERS[n % SENDERS.length] as string,
	day: new Date(Date.UTC(2024, 11, 1) + n * 5 * 86_400_000 - (n % 7) * 3 * 86_400_000).toISOString().slice(0, 10),
	padding: (n * 37) % 400
})).filter(({ day }) => day <= TODAY);

async function office(): Promise<Context> {
	const context = await openOffice();
	const messages = MAIL.map(({ subject, from, day, padding }) =>
		letter(subject, new Date(`${day}T10:00:00Z`).toUTCString().replace('GMT', '+0000'), 'x'.repeat(padding), from)
	);
	await importMailbox(context, { path: mboxFile(messages), mailbox: 'Office', folder: 'Inbox' });
	return context;
}

const add = async (context: Context, rule: Partial<RuleGiven>) =>
	(
		await addRule(context, {
			mailbox: 'Office',
			rule: { query: 'from:times', stay: {}, then: 'archive', options: {}, ...rule }
		})
	).id;

/* Runs, and carries out what waits for a person. */
async function run(context: Context) {
	const { runs } = await runRules(context, {});
	for (const { docket, asks } of runs) if (asks) await carryOut(context, { id: docket });
	return runs;
}

const subjectsIn = async ({ db }: Context, state: string) =>
	(
		await rows<{ subject: string }>(
			db,
			sql`SELECT subject FROM item JOIN message ON message.id = item.message_id WHERE state = ${state} ORDER BY received_on, item.id`
		)
	).map(({ subject }) => subject);

/* What goes, by reading the mail through: written apart from the product's statement. */
function expectedToGo(
	stay: Stay,
	isMeant: (mail: Mail) => boolean,
	sizes: Map<string, number>,
	cutoff?: string,
	mail: readonly Mail[] = MAIL
): string[] {
	const newestFirst = [...mail.entries()]
		.filter(([, one]) => isMeant(one))
		.sort(([a, { day: x }], [b, { day: y }]) => (x === y ? b - a : x < y ? 1 : -1))
		.map(([, one]) => one);
	const seen = new Map<string, number>();
	let weight = 0;
	return newestFirst
		.filter(({ subject, from, day }) => {
			const group = stay.per === 'sender' ? from : '';
			const place = (seen.get(group) ?? 0) + 1;
			seen.set(group, place);
			weight += sizes.get(subject) ?? 0;
			const isPlain = stay.newest === undefined && cutoff === undefined && stay.largerInAll === undefined;
			return (
				isPlain ||
				(stay.newest !== undefined && place > stay.newest) ||
				(cutoff !== undefined && day < cutoff) ||
				(stay.largerInAll !== undefined && weight > stay.largerInAll)
			);
		})
		.map(({ subject }) => subject)
		.sort();
}

describe('what a standing decision takes', () => {
	const times = ({ from }: Mail) => from === SENDERS[0];
	it.each<[string, Partial<RuleGiven>, (mail: Mail) => boolean, string | undefined]>([
		['all of it', {}, times, undefined],
		['all but the newest three', { stay: { newest: 3 } }, times, undefined],
		['what is older than 90 days', { stay: { olderThan: 'P90D' } }, times, '2026-08-27'],
		['what is older, and all but two of it', { stay: { newest: 2, olderThan: 'P30D' } }, times, '2026-10-26'],
		['what is too heavy together', { stay: { largerInAll: 5_000 } }, times, undefined],
		['all but two of each sender', { query: 'letter', stay: { newest: 2, per: 'sender' } }, () => true, undefined],
		['by organisation', { query: 'organisation:quay.example' }, ({ from }) => from === SENDERS[1], undefined],
		['by address', { query: 'address:bosun@terne.example' }, ({ from }) => from === SENDERS[2], undefined],
		['from a day on', { since: '2026-06-01' }, (mail) => times(mail) && mail.day >= '2026-06-01', undefined],
		[
			'up to a day',
			{ query: 'from:times or from:quay', until: '2025-06-01' },
			(mail) => mail.from !== SENDERS[2] && mail.day < '2025-06-01',
			undefined
		]
	])('%s', async (_name, rule, isMeant, cutoff) => {
		const context = await office();
		const sizes = new Map(
			(
				await rows<{ subject: string; bytes: number }>(
					context.db,
					sql`SELECT subject, bytes FROM item JOIN message ON message.id = item.message_id`
				)
			).map(({ subject, bytes }) => [subject, bytes])
		);
		const id = await add(context, rule);
		const expected = expectedToGo(rule.stay ?? {}, isMeant, sizes, cutoff);
		const [done] = await run(context);
		expect((await subjectsIn(context, 'archived')).sort()).toEqual(expected);
		expect(done?.byRule).toEqual([{ rule: id, name: expect.any(String) as string, messages: expected.length }]);
		// a year ago it would have taken what was there then: the rehearsal is what came to that since
		if (!rule.since && rule.stay?.largerInAll === undefined) {
			const then = MAIL.filter(({ day }) => day <= '2025-11-25');
			const yearBefore = cutoff && `${Number(cutoff.slice(0, 4)) - 1}${cutoff.slice(4)}`;
			const gone = new Set(expectedToGo(rule.stay ?? {}, isMeant, sizes, yearBefore, then));
			const since = expected.filter((subject) => !gone.has(subject));
			expect((await rehearseRule(context, { id })).messages).toBe(since.length);
		}
		expect((await verify(context)).ok).toBe(true);
	});
});

describe('standing decisions', () => {
	it('ask the first time, then act by themselves, and take nothing twice', async () => {
		const context = await office();
		await add(context, { stay: { newest: 10 } });
		const first = await runRules(context, {});
		expect(first.runs[0]).toMatchObject({ asks: true });
		expect(await subjectsIn(context, 'archived')).toEqual([]);
		// run again, the same docket waits, brought up to date
		expect((await runRules(context, {})).runs).toEqual([]);
		await add(context, { query: 'from:quay', then: 'delete', stay: { newest: 5 } });
		const again = await runRules(context, {});
		expect(again.runs[0]).toMatchObject({ docket: first.runs[0]?.docket, asks: true });
		expect(again.runs[0]?.byRule).toHaveLength(2);
		await carryOut(context, { id: again.runs[0]?.docket as number });
		const archived = await subjectsIn(context, 'archived');
		expect((await runRules(context, {})).runs).toEqual([]);
		// what somebody restored stays
		await takeBackRule(context, { id: 1 });
		expect((await runRules(context, {})).runs).toEqual([]);
		expect(await subjectsIn(context, 'archived')).toEqual([]);
		expect(archived.length).toBeGreaterThan(30);
		// new mail is taken, with nobody asked
		const more = letter('Extra', 'Wed, 25 Nov 2026 08:00:00 +0000', 'Words.', SENDERS[1]);
		await importMailbox(context, { path: mboxFile([more]), mailbox: 'Office', folder: 'Inbox' });
		expect((await runRules(context, {})).runs[0]).toMatchObject({ asks: false, messages: 1 });
		expect((await verify(context)).ok).toBe(true);
	});

	it('leave no draft behind of which nothing is left', async () => {
		const context = await office();
		const first = await add(context, {});
		const other = await add(context, { query: 'from:nobody' });
		const { docket = 0 } = (await runRules(context, {})).runs[0] ?? {};
		await switchRule(context, { id: first, isOn: false });
		expect((await runRules(context, {})).runs).toEqual([]);
		expect((await requireDocket(context, docket)).state).toBe('dropped');
		await switchRule(context, { id: first, isOn: true });
		await removeRule(context, { id: other });
		expect((await runRules(context, {})).runs[0]).toMatchObject({ asks: true });
	});

	it('leave a draft alone that a person has changed, and begin anew when it is discarded', async () => {
		const context = await office();
		await add(context, {});
		const { docket = 0 } = (await runRules(context, {})).runs[0] ?? {};
		const scope = { kind: 'items' as const, ids: [1] };
		await decideOn(context, { id: docket, lines: [{ decision: 'keep', options: {}, scope }] });
		await add(context, { query: 'from:quay' });
		expect((await runRules(context, {})).runs).toEqual([]);
		await discardDocket(context, { id: docket });
		expect((await runRules(context, {})).runs[0]?.byRule).toHaveLength(2);
	});

	it('count in their order: the earlier one acts, until it is put after the other, switched off or removed', async () => {
		const context = await office();
		const ofTimes = MAIL.filter(({ from }) => from === SENDERS[0]).length;
		const keep = await add(context, { stay: { newest: 40 } });
		const away = await add(context, { query: 'from:times larger:1', then: 'delete' });
		const took = async () => {
			await runRules(context, {});
			const counted = await rows<{ id: number; n: number }>(
				context.db,
				sql`SELECT rule_id AS id, count(*) AS n FROM rule_item GROUP BY 1`
			);
			return Object.fromEntries(counted.map(({ id, n }) => [id, n]));
		};
		expect(await took()).toEqual({ [keep]: ofTimes - 40, [away]: 40 });
		await moveRule(context, { id: away, before: keep });
		expect((await listRules(context, { mailbox: 'Office' })).map(({ id }) => id)).toEqual([away, keep]);
		expect(await took()).toEqual({ [away]: ofTimes });
		await switchRule(context, { id: away, isOn: false });
		expect(await took()).toEqual({ [keep]: ofTimes - 40 });
		await removeRule(context, { id: keep });
		await switchRule(context, { id: away, isOn: true });
		expect(await took()).toEqual({ [away]: ofTimes });
	});

	it('stand below holds and records, and call nothing junk that is trusted', async () => {
		const context = await office();
		await placeHold(context, {
			name: 'Claim',
			because: 'it runs',
			from: 'Counsel',
			correspondents: [SENDERS[0]]
		} as never);
		await add(context, { then: 'delete' });
		await add(context, { query: 'from:quay', then: 'tag', options: { tag: '$Junk' } });
		await markSender(context, { sender: SENDERS[1], verdict: 'trust' });
		await run(context);
		expect(await subjectsIn(context, 'binned')).toEqual([]);
		expect(await row(context.db, sql`SELECT count(*) AS n FROM item_tag`)).toEqual({ n: 0 });
	});

	it('take what a docket left as soon as nothing keeps it, and say of it before that nothing acted', async () => {
		const context = await office();
		const kept = await row<{ id: number }>(
			context.db,
			sql`SELECT item.id FROM item JOIN message ON message.id = item.message_id WHERE from_address = ${SENDERS[0]} LIMIT 1`
		);
		const ids = [kept?.id ?? 0];
		const mark = async (decision: 'keep' | 'release') => {
			const lines = [{ decision, options: {}, scope: { kind: 'items' as const, ids } }];
			await carryOut(context, { id: (await prepareDocket(context, { mailboxId: 1, lines })).id });
		};
		await mark('keep');
		const rule = await add(context, { then: 'delete' });
		const [done] = await run(context);
		const all = MAIL.filter(({ from }) => from === SENDERS[0]).length;
		expect(done).toMatchObject({ messages: all - 1 });
		expect(await rulesOnMessage(context, { itemId: ids[0] as number })).toEqual([]);
		expect((await listRules(context, {})).find(({ id }) => id === rule)?.messages).toBe(all - 1);
		// alone it makes no docket
		expect((await runRules(context, {})).runs).toEqual([]);
		await mark('release');
		expect((await runRules(context, {})).runs[0]).toMatchObject({ messages: 1, asks: false });
		expect(await rulesOnMessage(context, { itemId: ids[0] as number })).toHaveLength(1);
		expect((await verify(context)).ok).toBe(true);
	});

	it('say on a message which acted and why, and take back what one of them did in a time', async () => {
		const context = await office();
		const old = await add(context, { name: 'Old Times', stay: { olderThan: 'P1Y' } });
		const tagged = await add(context, { name: 'Quay', query: 'from:quay', then: 'tag', options: { tag: 'Quay' } });
		const [done] = await run(context);
		expect(done?.byRule.map(({ rule }) => rule)).toEqual([old, tagged]);
		const archived = await row<{ id: number }>(context.db, sql`SELECT id FROM item WHERE state = 'archived' LIMIT 1`);
		expect(await rulesOnMessage(context, { itemId: archived?.id ?? 0 })).toEqual([
			`The standing decision “Old Times” acted on 25 Nov 2026: archived, because it was older than 1 year (docket ${done?.docket}).`
		]);
		const messages = done?.byRule[0]?.messages ?? 0;
		await expect(takeBackRule(context, { id: old, until: TODAY })).rejects.toThrow('did nothing in that time');
		expect(await takeBackRule(context, { id: old, since: TODAY })).toMatchObject({ dockets: [done?.docket], messages });
		expect(await subjectsIn(context, 'archived')).toEqual([]);
		expect(await row(context.db, sql`SELECT count(*) AS n FROM item_tag`)).toEqual({ n: done?.byRule[1]?.messages });
		expect((await verify(context)).ok).toBe(true);
	});
});

// RFC 4021 section 2.1.50: Expires; a date before the mail was sent is none
it('takes mail past the date of expiry that its sender gave', async () => {
	const context = await openOffice();
	const expiring = (subject: string, expires: string) =>
		letter(subject, 'Mon, 02 Nov 2026 10:00:00 +0000').replace('Subject:', `Expires: ${expires}\nSubject:`);
	const messages = [
		expiring('Over', 'Fri, 20 Nov 2026 10:00:00 +0000'),
		expiring('Today', 'Wed, 25 Nov 2026 10:00:00 +0000'),
		expiring('Impossible', 'Mon, 02 Nov 2020 10:00:00 +0000'),
		letter('Never', 'Mon, 02 Nov 2026 10:00:00 +0000')
	];
	await importMailbox(context, { path: mboxFile(messages), mailbox: 'Office', folder: 'Inbox' });
	await add(context, { query: 'expired', then: 'delete' });
	await run(context);
	expect(await subjectsIn(context, 'binned')).toEqual(['Over']);
});

describe('a rehearsal', () => {
	it('says what would have gone, and what it meets', async () => {
		const context = await office();
		const first = await add(context, { name: 'All Times' });
		const rule: RuleGiven = { query: 'from:times', stay: { olderThan: 'P30D' }, then: 'delete', options: {} };
		const tried = await rehearseRule(context, { mailbox: 'Office', rule });
		expect(tried.meets).toEqual([{ rule: first, name: 'All Times', how: 'never-acts', messages: tried.messages }]);
		expect(tried).toMatchObject({ from: '2025-11-25', to: TODAY });
		expect(tried.examples[0]).toMatchObject({ from: SENDERS[0], folder: 'Inbox' });
		expect(await subjectsIn(context, 'binned')).toEqual([]);

		await placeHold(context, {
			name: 'Claim',
			because: 'it runs',
			from: 'Counsel',
			correspondents: [SENDERS[1]]
		} as never);
		await setRetention(context, {
			wish: { kind: 'default', mailboxId: 1, retention: { terms: 'received destroy P7Y -' } }
		});
		const quay = await rehearseRule(context, { mailbox: 'Office', rule: { ...rule, query: 'from:quay' } });
		expect(quay.meets).toEqual([
			{ rule: null, name: 'hold Claim', how: 'stays', messages: quay.messages },
			{ rule: null, name: 'retention a period', how: 'before-its-time', messages: quay.messages }
		]);
		await add(context, { name: 'Back', query: 'folder:Old', then: 'move', options: { folder: 'Inbox' } });
		const circle = { ...rule, query: 'folder:Inbox from:terne', then: 'move' as const, options: { folder: 'Old' } };
		expect((await rehearseRule(context, { mailbox: 'Office', rule: circle })).meets).toEqual([
			{ rule: 2, name: 'Back', how: 'circle', messages: 0 }
		]);
	});

	it('of one that comes before others counts what it takes from them', async () => {
		const context = await office();
		const first = await add(context, { name: 'First', stay: { olderThan: 'P60D' } });
		const second = await add(context, { name: 'Second' });
		// the second takes on the day of receipt what the first would take 60 days later
		const { meets, messages } = await rehearseRule(context, { id: first });
		expect(meets).toEqual([{ rule: second, name: 'Second', how: 'never-acts', messages }]);
		const [silenced] = (await rehearseRule(context, { id: second })).meets;
		expect(silenced).toMatchObject({ rule: first, name: 'First', how: 'wins' });
		// of the same day, the earlier one acts
		const third = await add(context, { name: 'Third', query: 'from:times or from:quay' });
		const later = await rehearseRule(context, { id: third });
		expect(later.meets.find(({ rule }) => rule === second)).toMatchObject({ how: 'loses' });
		await moveRule(context, { id: third, before: second });
		expect((await rehearseRule(context, { id: third })).meets.find(({ rule }) => rule === second)).toMatchObject({
			how: 'silences'
		});
	});
});
