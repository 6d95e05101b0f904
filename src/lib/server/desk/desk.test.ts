import { describe, expect, it } from 'vitest';
import type { Context } from '../context/context.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { setClearing } from '../archive/bin.ts';
import { itemId } from '../testing/retaining.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { find } from '../find/find.ts';
import { listRules, runRules } from '../rules/index.ts';
import { removeFolders } from '../folders/folders.ts';
import { decideAtDesk, likelyDecision, showDesk } from './desk.ts';
import { addPileRule } from './pile-rule.ts';
import { endPile, putOnPile, showPiles } from './piles.ts';

/* Twelve letters in the inbox, eight of them from one sender, two only copied here; one lies in another folder. */
async function office(): Promise<Context> {
	const context = await openOffice();
	const letters = Array.from({ length: 12 }, (_, n) => {
		const from = n < 8 ? 'news@times.example' : 'tove@skerryline.example';
		const made = letter(`Note ${n}`, `Mon, ${n + 1} Jun 2026 10:00:00 +0000`, 'Words.', from);
		return n < 10
			? made
			: made.replace('To: office@skerryline.example', 'To: a@b.example\nCc: office@skerryline.example');
	});
	await importMailbox(context, { path: mboxFile(letters, 'Status: O\n'), mailbox: 'Office', folder: 'Inbox' });
	await importMailbox(context, {
		path: mboxFile([letter('Elsewhere', 'Mon, 1 Jun 2026 10:00:00 +0000')], 'Status: O\n'),
		mailbox: 'Office',
		folder: 'Vessels'
	});
	await setClearing(context, { mailbox: 'Office', addresses: ['office@skerryline.example'] });
	return context;
}

const bundles = async (context: Context) =>
	Object.fromEntries(
		(await showDesk(context, { mailboxIds: [1] })).bundles.map(({ bundle, messages }) => [bundle, messages])
	);

describe('the desk', () => {
	it('counts what waits in the inbox, and what is only copied there', async () => {
		const context = await office();
		expect(await bundles(context)).toEqual({
			waited: 0,
			unread: 12,
			inbox: 12,
			flagged: 0,
			copied: 2,
			lists: 0,
			orders: 0,
			travel: 0
		});
		const ids = [await itemId(context, 'Note 3')];
		await decideAtDesk(context, { ids, decision: 'flag', options: {} });
		await decideAtDesk(context, { ids: [await itemId(context, 'Note 4')], decision: 'archive', options: {} });
		expect(await bundles(context)).toMatchObject({ unread: 11, inbox: 11, flagged: 1 });
	});

	it('remembers the last ten decisions until they are taken back, each person their own', async () => {
		const context = await office();
		for (let n = 0; n < 11; n++)
			await decideAtDesk(context, { ids: [await itemId(context, `Note ${n}`)], decision: 'delete', options: {} });
		const { last } = await showDesk(context, { mailboxIds: [1] });
		expect(last.map(({ subject }) => subject)).toEqual(Array.from({ length: 10 }, (_, n) => `Note ${10 - n}`));
		await takeBack(context, { id: last[0]?.docketId ?? 0 });
		const after = await showDesk(context, { mailboxIds: [1] });
		expect(after.last.map(({ subject }) => subject)[0]).toBe('Note 9');
		expect(after.inbox).toMatchObject({ messages: 2 });
		// a refusal is no decision
		await expect(decideAtDesk(context, { ids: [999], decision: 'delete', options: {} })).rejects.toThrow(
			'no such messages'
		);
	});

	it('marks what is likely for a sender; a decision that was taken back does not count', async () => {
		const context = await office();
		const next = { itemId: await itemId(context, 'Note 7') };
		for (let n = 0; n < 5; n++) {
			expect(await likelyDecision(context, next)).toBeNull();
			const decision = n === 2 ? 'archive' : 'delete';
			await decideAtDesk(context, { ids: [await itemId(context, `Note ${n}`)], decision, options: {} });
		}
		expect(await likelyDecision(context, next)).toEqual({ decision: 'delete', options: {} });
		expect(await likelyDecision(context, { itemId: await itemId(context, 'Note 9') })).toBeNull();
		const { last } = await showDesk(context, { mailboxIds: [1] });
		await takeBack(context, { id: last[0]?.docketId ?? 0 });
		expect(await likelyDecision(context, next)).toBeNull();
	});
});

describe('a pile', () => {
	it('is made when it is first needed, says since when its mail waits, and is no empty folder to remove', async () => {
		const context = await office();
		const ids = [await itemId(context, 'Note 1'), await itemId(context, 'Note 2')];
		await putOnPile(context, { mailboxId: 1, ids, pile: 'Reply owed', because: 'Tove asks', until: '2026-12-01' });
		expect(await showPiles(context, { mailboxId: 1 })).toMatchObject([
			{ path: 'Reply owed', messages: 2, waitsSince: '2026-11-25', due: 0 }
		]);
		expect((await showDesk(context, { mailboxIds: [1] })).inbox.messages).toBe(10);
		const { last } = await showDesk(context, { mailboxIds: [1] });
		await takeBack(context, { id: last[0]?.docketId ?? 0 });
		const [empty] = await showPiles(context, { mailboxId: 1 });
		expect(empty).toMatchObject({ messages: 0, waitsSince: undefined });
		await expect(removeFolders(context, { mailbox: 'Office', folders: ['Reply owed'] })).rejects.toThrow();
		await endPile(context, { folderId: empty?.folderId ?? 0 });
		expect(await showPiles(context, { mailboxId: 1 })).toEqual([]);
		expect(await removeFolders(context, { mailbox: 'Office', folders: ['Reply owed'] })).toEqual(['Reply owed']);
	});

	it('gives its mail back to the desk on the day, with the reason, and not what was moved on', async () => {
		const context = await office();
		const [first, second] = [await itemId(context, 'Note 1'), await itemId(context, 'Note 2')];
		const wait = { mailboxId: 1, pile: 'Meeting', because: 'the yard', until: '2026-12-01' };
		await putOnPile(context, { ...wait, ids: [first, second] });
		const later = { ...context, now: () => new Date('2026-12-01T08:00:00Z') };
		expect(await bundles(later)).toMatchObject({ waited: 2 });
		expect((await showPiles(later, { mailboxId: 1 }))[0]).toMatchObject({ due: 2, waitsSince: '2026-11-25' });
		const { hits } = await find(later, {
			query: '',
			mailbox: 1,
			states: ['live'],
			gathered: { of: 'waited' },
			limit: 9
		});
		expect(hits.map(({ id }) => id).sort()).toEqual([first, second].sort());
		await decideAtDesk(later, { ids: [first], decision: 'archive', options: {} });
		await decideAtDesk(later, { ids: [second], decision: 'move', options: { folder: 'Inbox' } });
		expect(await bundles(later)).toMatchObject({ waited: 0 });
		// put there again, it waits anew
		await putOnPile(later, { ...wait, ids: [second], until: '2026-12-02' });
		expect(await bundles(later)).toMatchObject({ waited: 0 });
	});

	it.each([
		['without a name', { pile: ' ' }, 'Name the pile'],
		['until a day that has passed', { until: '2026-11-25' }, 'still to come'],
		['until no day', { until: '2026-02-31' }, 'still to come'],
		['that is the bin', { pile: 'Trash' }, 'is no pile']
	])('is refused %s', async (_name, also, message) => {
		const context = await office();
		const ids = [await itemId(context, 'Note 1')];
		await expect(putOnPile(context, { mailboxId: 1, ids, pile: 'Waiting', ...also })).rejects.toThrow(message);
		expect(await showPiles(context, { mailboxId: 1 })).toEqual([]);
		expect((await showDesk(context, { mailboxIds: [1] })).inbox.messages).toBe(12);
	});

	it('are filled by a standing decision, and wait since the mail was received', async () => {
		const context = await office();
		const rule = { query: 'from:times', stay: {}, then: 'move' as const, options: { folder: 'To read' } };
		await addPileRule(context, { mailbox: 'Office', rule });
		const { runs } = await runRules(context, {});
		await carryOut(context, { id: runs[0]?.docket ?? 0 });
		expect(await showPiles(context, { mailboxId: 1 })).toMatchObject([
			{ path: 'To read', messages: 8, waitsSince: '2026-06-01' }
		]);
		const intoInbox = { ...rule, options: { folder: 'Inbox' } };
		await expect(addPileRule(context, { mailbox: 'Office', rule: intoInbox })).rejects.toThrow('is no pile');
		expect(await listRules(context, {})).toHaveLength(1);
	});
});
