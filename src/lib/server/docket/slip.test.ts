import { afterAll, describe, expect, it } from 'vitest';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { itemsIn, largeOffice, statesOf } from '../testing/large-office.ts';
import { prepareEmptying, setClearing } from '../archive/bin.ts';
import { carryOut, takeBack } from './carry-out.ts';
import { actingAs, type Context } from '../context/context.ts';
import { administratorNamed } from '../../../core/access/roles.ts';
import { decide, discardDocket, prepareDocket } from './prepare-docket.ts';
import { restore } from '../find/restore.ts';
import { dismissDocket, showSlip } from './show-docket.ts';
import { type Decided } from './scope.ts';

afterAll(closeParsePool);

const line = (decision: Decided['decision'], ids: number[], options: Decided['options'] = {}): Decided => ({
	decision,
	options,
	scope: { kind: 'items', ids }
});
const slip = (context: Context) => showSlip(context, { mailboxId: 1, others: 10 });
const put = (context: Context, ...of: Parameters<typeof line>) => decide(context, { mailboxId: 1, line: line(...of) });

describe('the slip', () => {
	it('shows the docket that a decision went to, whatever else is drafted; its result stays until it is dismissed', async () => {
		const context = await largeOffice({ Inbox: 300, Newsletters: 200 });
		const news = await itemsIn(context, 'Newsletters');
		const inbox = await itemsIn(context, 'Inbox');
		// drafted by the same person, by others and at night: none of these takes a decision from the page
		const named = await prepareDocket(context, { mailboxId: 1, lines: [line('flag', inbox)], name: 'For Maren' });
		const night = await prepareDocket(actingAs(context, administratorNamed('Kovrel')), {
			mailboxId: 1,
			lines: [line('archive', news)],
			name: 'Retention: archive',
			byItself: true
		});
		expect(await slip(context)).toMatchObject({
			docket: undefined,
			others: [
				{ id: night.id, draftedBy: 'Kovrel' },
				{ id: named.id, name: 'For Maren' }
			]
		});
		const first = await put(context, 'archive', news);
		expect([named.id, night.id]).not.toContain(first.id);
		await prepareDocket(actingAs(context, administratorNamed('Maren')), { mailboxId: 1, lines: [line('flag', inbox)] });
		const second = await put(context, 'tag', inbox, { tag: 'Ramp' });
		expect(second.id).toBe(first.id);
		expect((await slip(context)).docket).toMatchObject({ id: first.id, lines: [{ messages: 200 }, { messages: 300 }] });

		await carryOut(context, { id: first.id });
		expect((await slip(context)).docket).toMatchObject({ id: first.id, state: 'carried-out', messages: 500 });
		// a docket carried out by somebody else meanwhile does not replace it
		await carryOut(actingAs(context, administratorNamed('Maren')), { id: named.id });
		expect((await slip(context)).docket?.id).toBe(first.id);
		await takeBack(context, { id: first.id });
		expect((await slip(context)).docket).toMatchObject({ id: first.id, state: 'taken-back' });
		await dismissDocket(context, { id: first.id });
		const after = await slip(context);
		expect(after.docket).toBeUndefined();
		expect(after.others.map(({ id }) => id)).not.toContain(first.id);
	});

	it('puts a new decision beside the result before it, which is still to be dismissed', async () => {
		const context = await largeOffice({ Inbox: 250 });
		const inbox = await itemsIn(context, 'Inbox');
		const first = await put(context, 'archive', inbox.slice(0, 150));
		await carryOut(context, { id: first.id });
		const second = await put(context, 'flag', inbox.slice(150));
		expect(await slip(context)).toMatchObject({
			docket: { id: second.id, state: 'drafted' },
			others: [{ id: first.id, state: 'carried-out', messages: 150 }]
		});
		await expect(dismissDocket(context, { id: second.id })).rejects.toThrow('is a draft');
		await discardDocket(context, { id: second.id });
		expect((await slip(context)).docket?.id).toBe(first.id);
	});

	it('goes back from a docket that destroys to the draft that takes decisions', async () => {
		const context = await largeOffice({ Inbox: 150, Junk: 120 });
		const inbox = await itemsIn(context, 'Inbox');
		const bin = await put(context, 'delete', await itemsIn(context, 'Junk'));
		await carryOut(context, { id: bin.id });
		const draft = await put(context, 'flag', inbox);
		const emptying = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		expect((await slip(context)).docket).toMatchObject({
			id: emptying.id,
			destroyed: 120,
			confirmation: { text: 'Office' }
		});
		const tagged = await put(context, 'tag', inbox, { tag: 'Ramp' });
		expect(tagged.id).toBe(draft.id);
		expect(await slip(context)).toMatchObject({
			docket: { id: draft.id },
			others: [{ id: emptying.id, state: 'drafted' }, { id: bin.id }]
		});
	});

	it('shows what was restored at once', async () => {
		const context = await largeOffice({ Inbox: 200 });
		const ids = await itemsIn(context, 'Inbox');
		const archived = await put(context, 'archive', ids);
		await carryOut(context, { id: archived.id });
		const { dockets } = await restore(context, { ids });
		expect(await statesOf(context)).toEqual({ live: 200 });
		expect((await slip(context)).docket).toMatchObject({ id: dockets[0], state: 'carried-out', messages: 200 });
	});
});

describe('destroying is confirmed in so many words (invariant 21)', () => {
	it.each([
		[90, undefined, /confirm it with the word, "destroy"/],
		[90, 'yes', /the word, "destroy"/],
		[90, ' Destroy ', undefined],
		[90, 'office', undefined],
		[150, 'destroy', /with the name of the mailbox, "Office"/],
		[150, ' OFFICE ', undefined]
	])('%i messages, "%s" typed', async (messages, confirm, refusal) => {
		const context = await largeOffice({ Inbox: messages });
		const bin = await put(context, 'delete', await itemsIn(context, 'Inbox'));
		await carryOut(context, { id: bin.id });
		const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		const done = carryOut(context, { id, confirm });
		if (refusal) await expect(done).rejects.toThrow(refusal);
		else expect(await done).toMatchObject({ messages, finished: true });
		expect(await statesOf(context)).toEqual(refusal ? { binned: messages } : {});
		expect((await slip(context)).certificate).toEqual(
			refusal ? undefined : expect.objectContaining({ docketId: id, messages, sha256: expect.any(String) as string })
		);
	});

	it('at the number that is set for the mailbox', async () => {
		const context = await largeOffice({ Inbox: 150 });
		await setClearing(context, { mailbox: 'Office', confirmAbove: 0 });
		const bin = await put(context, 'delete', await itemsIn(context, 'Inbox', 1));
		await carryOut(context, { id: bin.id });
		const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await expect(carryOut(context, { id, confirm: 'destroy' })).rejects.toThrow('"Office"');
	});
});

describe('a message under two lines (invariant 15)', () => {
	const sums = async (context: Context) => (await slip(context)).docket;

	it('counts once in the totals of its docket, drafted, carried out and taken back', async () => {
		const context = await largeOffice({ Inbox: 519 });
		const ids = await itemsIn(context, 'Inbox');
		await put(context, 'archive', ids);
		const both = await put(context, 'tag', ids.slice(0, 150), { tag: 'Ramp' });
		const { bytes } = both.lines[0] as { bytes: number };
		expect(both).toMatchObject({ messages: 519, bytes, lines: [{ messages: 519 }, { messages: 150 }] });
		expect(await carryOut(context, { id: both.id, expected: both })).toMatchObject({ messages: 519, bytes, left: [] });
		expect(await sums(context)).toMatchObject({
			messages: 519,
			bytes,
			lines: [{ doneMessages: 519 }, { doneMessages: 150 }]
		});
		// somebody else changes twenty of both lines and thirty of one
		await restore(context, { ids: [...ids.slice(0, 20), ...ids.slice(200, 230)] });
		expect(await takeBack(context, { id: both.id })).toMatchObject({
			messages: 469,
			left: [{ reason: 'changed', messages: 50 }]
		});
		expect(await statesOf(context)).toEqual({ live: 519 });
	});

	it('counts once where the first line leaves it and the second changes it', async () => {
		const context = await largeOffice({ Inbox: 300 });
		const ids = await itemsIn(context, 'Inbox');
		const first = await put(context, 'tag', ids.slice(0, 100), { tag: 'Ramp' });
		await put(context, 'flag', ids);
		const stopped = { ...context, signal: AbortSignal.abort() };
		await carryOut(stopped, { id: first.id });
		// frozen items are changed before it continues
		const tagging = await prepareDocket(actingAs(context, administratorNamed('Maren')), {
			mailboxId: 1,
			lines: [line('tag', ids.slice(0, 40), { tag: 'Ramp' })]
		});
		await carryOut(actingAs(context, administratorNamed('Maren')), { id: tagging.id });
		expect(await carryOut(context, { id: first.id })).toMatchObject({
			messages: 300,
			left: [{ reason: 'changed', messages: 40 }]
		});
		expect(await takeBack(context, { id: first.id })).toMatchObject({ messages: 300, left: [] });
	});
});
