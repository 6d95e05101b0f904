import { afterAll, describe, expect, it } from 'vitest';
import { DECISIONS } from '../../../core/docket/decisions.ts';
import { actingAs, type Context } from '../context/context.ts';
import { row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { MessagesDecision } from '../find/decide-messages.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { placeHold } from '../retention/holds.ts';
import { saveSeries } from '../retention/schedule.ts';
import { runSchedule } from '../retention/run-schedule.ts';
import { letter, mboxFile } from '../testing/office.ts';
import { FINANCE, folderId, itemId, retain, retainedOffice, switchOn, terms } from '../testing/retaining.ts';
import { ownerView } from './own.ts';
import { addPerson, requirePerson, setOwner } from './people.ts';
import { answerReview, askReviews, endReview, listedReviews } from './reviews.ts';
import { carryOutOwn, decideOwn, setOwnPeriod, takeBackOwn } from './tidy-own.ts';

afterAll(closeParsePool);

/* Knut owns the mailbox Office; another mailbox is somebody else's. */
async function owned(tidies = true): Promise<{ context: Context; knut: Context }> {
	const context = await retainedOffice();
	const other = mboxFile([letter('Not yours', '3 Feb 2020 10:00:00 +0000')]);
	await importMailbox(context, { path: other, mailbox: 'Other' });
	await addPerson(context, { name: 'Knut', address: 'knut@s.example', role: 'colleague' });
	await setOwner(context, { mailbox: 'Office', owner: 'Knut', tidies });
	const { id: personId } = await requirePerson(context.db, 'Knut');
	return { context, knut: actingAs(context, { personId, name: 'Knut', role: 'colleague' }) };
}
const stateOf = async ({ db }: Context, subject: string) =>
	(
		await row<{ state: string }>(
			db,
			sql`SELECT state FROM item JOIN message ON message.id = item.message_id WHERE subject = ${subject}`
		)
	)?.state;

describe('an owner who may tidy', () => {
	/* Written by hand: what an owner decides on a sheet of their own mail. */
	const ALLOWED =
		'archive restore move delete tag untag flag unflag read unread keep release never-archive allow-archiving fold unfold pause resume classify retain';
	const OPTIONS: MessagesDecision['options'] = {
		folder: 'Closed',
		tag: 'Done',
		until: '2027-06-01',
		because: 'the season',
		class: 'working',
		terms: 'received destroy P9Y -'
	};
	it.each(DECISIONS)('%s: only what may be an owner’s', async (decision) => {
		const { context, knut } = await owned();
		const ids = [await itemId(context, 'Odd 2023')];
		const deciding = decideOwn(knut, { ids, decision, options: OPTIONS });
		if (ALLOWED.split(' ').includes(decision)) await expect(deciding).resolves.toHaveLength(1);
		else await expect(deciding).rejects.toThrow('An owner does not decide that');
	});

	it('decides on nothing outside of their mailbox, on nothing held, and overrides no protection', async () => {
		const { context, knut } = await owned();
		const [mine, other] = [await itemId(context, 'Odd 2023'), await itemId(context, 'Not yours')];
		await expect(decideOwn(knut, { ids: [mine, other], decision: 'delete', options: {} })).rejects.toThrow(
			'no mailbox of your own'
		);
		const search = { query: '', mailbox: 2, states: ['live' as const] };
		await expect(decideOwn(knut, { search, decision: 'delete', options: {} })).rejects.toThrow(
			'no mailbox of your own'
		);
		const everywhere = { query: '', states: ['live' as const] };
		const named = { ...everywhere, mailbox: '1' };
		await expect(decideOwn(knut, { search: named, decision: 'delete', options: {} })).rejects.toThrow();
		await expect(decideOwn(knut, { search: everywhere, decision: 'delete', options: {} })).rejects.toThrow();
		await expect(decideOwn(knut, { ids: [mine], decision: 'delete', options: { only: 'kept' } })).rejects.toThrow(
			'Only an administrator overrides'
		);
		await expect(decideOwn(knut, { ids: [mine], decision: 'retain', options: { series: 'FIN-01' } })).rejects.toThrow(
			'Only an administrator puts'
		);
		await placeHold(context, { name: 'Claim', because: 'x', from: 'Counsel', query: 'subject:odd' });
		const [left] = await decideOwn(knut, { ids: [mine], decision: 'delete', options: {} });
		expect(left).toMatchObject({ messages: 0, left: [{ reason: 'held', messages: 1 }] });
		expect(await stateOf(context, 'Not yours')).toBe('live');
	});

	it.each([
		['is not granted it', false],
		['does not own it any more', true]
	])('one who %s decides on nothing', async (_what, tidies) => {
		const { context, knut } = await owned(tidies);
		if (tidies) await setOwner(context, { mailbox: 'Office', owner: undefined });
		const ids = [await itemId(context, 'Odd 2023')];
		await expect(decideOwn(knut, { ids, decision: 'archive', options: {} })).rejects.toThrow('Nothing was done');
		expect(await stateOf(context, 'Odd 2023')).toBe('live');
	});

	it('takes back their own dockets, and no others', async () => {
		const { context, knut } = await owned();
		const ids = [await itemId(context, 'Odd 2023')];
		const [done] = await decideOwn(knut, { ids, decision: 'archive', options: {} });
		expect(await stateOf(context, 'Odd 2023')).toBe('archived');
		await takeBackOwn(knut, { id: done?.docket as number });
		expect(await stateOf(context, 'Odd 2023')).toBe('live');
		await addPerson(context, { name: 'Ylva', address: 'ylva@s.example', role: 'administrator' });
		const { id: personId } = await requirePerson(context.db, 'Ylva');
		const ylva = actingAs(context, { personId, name: 'Ylva', role: 'colleague' });
		await setOwner(context, { mailbox: 'Office', owner: 'Ylva', tidies: true });
		await setOwner(context, { mailbox: 'Office', owner: 'Ylva', tidies: true });
		const [theirs] = await decideOwn(ylva, { ids, decision: 'archive', options: {} });
		await setOwner(context, { mailbox: 'Office', owner: 'Knut', tidies: true });
		for (const act of [carryOutOwn, takeBackOwn])
			await expect(act(knut, { id: theirs?.docket as number })).rejects.toThrow('no docket');
	});

	it('sets a period for a folder of their own within the policy, with a reason', async () => {
		const { context, knut } = await owned();
		const odds = await folderId(context, 'Odds');
		const wish = { folderId: odds, terms: 'received destroy P9Y -', because: 'we need it' };
		await setOwnPeriod(knut, wish);
		expect((await ownerView(knut, { mailboxId: 1 })).due.lines.some(({ folder }) => folder === 'Odds')).toBe(false);
		await expect(setOwnPeriod(knut, { ...wish, because: ' ' })).rejects.toThrow('Say why');
		await saveSeries(context, { fields: FINANCE });
		await retain(context, 'Accounts', { retention: { series: FINANCE.code } });
		await retain(context, 'Odds', { class: 'record' });
		for (const folder of ['Accounts', 'Accounts/Drafts', 'Odds'])
			await expect(setOwnPeriod(knut, { ...wish, folderId: await folderId(context, folder) })).rejects.toThrow(
				'an administrator changes that'
			);
		const other = (await row<{ id: number }>(context.db, sql`SELECT id FROM folder WHERE mailbox_id = 2`))
			?.id as number;
		await expect(setOwnPeriod(knut, { ...wish, folderId: other })).rejects.toThrow('no mailbox of your own');
	});
});

describe('a review by an owner', () => {
	const ask = (context: Context, until = '2026-12-15') =>
		askReviews(context, { mailboxIds: [1], until, because: 'before the new schedule' });

	it('holds back all that would go, until its day; counts what was kept, changed and left', async () => {
		const { context, knut } = await owned();
		await retain(context, 'Accounts', { retention: terms('received destroy P1Y -') });
		await switchOn(context, 'do');
		const due = await rows<{ subject: string }>(
			context.db,
			sql`SELECT subject FROM item JOIN message ON message.id = item.message_id WHERE due_on <= '2026-11-25' ORDER BY received_on`
		);
		expect(due).toHaveLength(4);
		expect(await ask(context)).toEqual([{ mailbox: 'Office', owner: 'Knut', messages: 4 }]);
		await expect(ask(context)).rejects.toThrow('was asked already');
		expect((await runSchedule(context, { dryRun: true })).destroyed).toBe(0);
		const review = (await ownerView(knut, { mailboxId: 1 })).review;
		expect(review).toMatchObject({ messages: 4, kept: 0, changed: 0, because: 'before the new schedule' });
		// what would go stands before the owner, and nobody else's
		const gathered = { of: 'review' as const, review: review?.id as number };
		const shown = await find(knut, { query: '', gathered, states: ['live', 'archived'], limit: 9 });
		expect(shown.hits.map(({ subject }) => subject).sort()).toEqual(due.map(({ subject }) => subject).sort());
		const ids = await Promise.all(due.slice(0, 2).map(({ subject }) => itemId(context, subject)));
		await decideOwn(knut, { ids: ids.slice(0, 1), decision: 'keep', options: {} });
		await decideOwn(knut, { ids: ids.slice(1), decision: 'delete', options: {} });
		const [before] = await listedReviews(context);
		expect(before).toMatchObject({ owner: 'Knut', kept: 1, changed: 1, messages: 4, answeredOn: null, isOver: false });
		await answerReview(knut, { id: review?.id as number });
		expect((await listedReviews(context))[0]).toMatchObject({ answeredOn: '2026-11-25' });
		// answered or not, it stays until the day
		expect((await runSchedule(context, { dryRun: true })).destroyed).toBe(0);
		const later = { ...context, now: () => new Date('2026-12-15T12:00:00Z') };
		expect((await listedReviews(later))[0]).toMatchObject({ isOver: true });
		expect((await runSchedule(later, { dryRun: true })).destroyed).toBe(2);
	});

	it('is refused without a day ahead, a reason, an owner, or anything that would go; and ends when told', async () => {
		const { context, knut } = await owned();
		await expect(ask(context)).rejects.toThrow('Nothing would go from Office');
		await retain(context, 'Accounts', { retention: terms('received destroy P1Y -') });
		await expect(ask(context, '2026-11-25')).rejects.toThrow('lies ahead');
		await expect(askReviews(context, { mailboxIds: [1], until: '2027-01-01', because: '' })).rejects.toThrow('Say why');
		await expect(askReviews(context, { mailboxIds: [2], until: '2027-01-01', because: 'x' })).rejects.toThrow(
			'without an owner'
		);
		expect(await listedReviews(context)).toEqual([]);
		await ask(context);
		const [{ id } = { id: 0 }] = await listedReviews(context);
		const stranger = actingAs(context, { personId: 4711, name: 'Mallory', role: 'colleague' });
		await expect(answerReview(stranger, { id })).rejects.toThrow('no mailbox of your own');
		await endReview(context, { id });
		expect((await ownerView(knut, { mailboxId: 1 })).review).toBeUndefined();
	});
});
