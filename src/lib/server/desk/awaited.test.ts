import { afterAll, describe, expect, it } from 'vitest';
import { setClearing } from '../archive/bin.ts';
import type { Context } from '../context/context.ts';
import { find } from '../find/find.ts';
import { readMessage } from '../find/read-message.ts';
import { restore } from '../find/restore.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { useCase } from '../process/use-cases.ts';
import { listRules, runRules } from '../rules/index.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { itemId } from '../testing/retaining.ts';
import { awaitAnswer, returnAwaited, someAwaited } from './awaited.ts';
import type { Awaited } from './awaited-store.ts';
import { closeThread } from './close-thread.ts';
import { decideAtDesk } from './desk.ts';

afterAll(closeParsePool);

const OWN = 'Office <office@skerryline.example>';
const NORA = 'Nora Vik <nora@quay.example>';
const day = (n: number) => `Mon, ${n} Nov 2026 10:00:00 +0000`;
const at = (context: Context, moment: string): Context => ({ ...context, now: () => new Date(moment) });
const answer = (subject: string, n: number, to: string, from = NORA) =>
	letter(`Re: ${subject} ${n}`, day(n), `Words ${n}.`, from).replace(
		'Subject:',
		`In-Reply-To: <${to}@x.example>\nSubject:`
	);

async function bring(context: Context, messages: string[], folder = 'Inbox') {
	await importMailbox(context, { path: mboxFile(messages), mailbox: 'Office', folder });
}

async function office(): Promise<Context> {
	const context = await openOffice();
	await bring(
		context,
		[
			letter('Offer', day(2), 'An offer?', NORA),
			answer('Offer', 3, 'Offer'),
			letter('Tides', day(4), 'Tides.', 'Emre <emre@quay.example>')
		],
		'Freight'
	);
	await setClearing(context, { mailbox: 'Office', addresses: ['office@skerryline.example'] });
	return context;
}
const thread = async (context: Context) => [await itemId(context, 'Offer'), await itemId(context, 'Re: Offer 3')];
const places = async (context: Context, ids: number[]) =>
	Promise.all(ids.map(async (id) => (({ state, folder }) => `${state} ${folder}`)(await readMessage(context, { id }))));
const acted = (context: Context, itemId: number) =>
	useCase('actedOnMessage').run(context, { itemId } as never) as Promise<string[]>;
const awaited = async (context: Context) =>
	((await useCase('showAwaited').run(context, { mailboxId: 1 } as never)) as { awaited: Awaited[] }).awaited;

describe('an awaited answer', () => {
	it('brings the thread back to its folder, and says why', async () => {
		const context = await office();
		const ids = await thread(context);
		await awaitAnswer(context, { ids, because: 'the offer is due' });
		expect((await places(context, ids))[0]).toMatch(/^archived/);
		expect(await awaited(context)).toMatchObject([
			{ who: 'Nora Vik', because: 'the offer is due', messages: 2, since: '2026-11-25' }
		]);
		expect(await acted(context, ids[0] ?? 0)).toEqual([
			'It comes back when it is answered; awaited since 25 Nov 2026: the offer is due.'
		]);
		// what the mailbox itself sends is no answer, nor is other mail
		await bring(context, [answer('Offer', 5, 'Offer', OWN)], 'Sent');
		await bring(context, [letter('Tides again', day(6))]);
		expect(await returnAwaited(context)).toEqual({ returned: [] });
		await bring(context, [answer('Offer', 7, 'ReOffer3')]);
		expect(await returnAwaited(context)).toMatchObject({
			returned: [{ mailbox: 'Office', by: 'answer', messages: 2 }]
		});
		expect(await places(context, ids)).toEqual(['live Freight', 'live Freight']);
		expect((await acted(context, ids[1] ?? 0))[0]).toMatch(
			/^It came back on 25 Nov 2026, because Nora Vik answered \(awaited: the offer is due\) \(docket \d+\)\.$/
		);
		expect(await awaited(context)).toEqual([]);
		expect(await returnAwaited(context)).toEqual({ returned: [] });
	});

	it('is waited for until a day, which brings the thread back without it', async () => {
		const context = await office();
		const ids = await thread(context);
		await awaitAnswer(context, { ids, until: '2026-11-28' });
		expect(await returnAwaited(at(context, '2026-11-27T12:00:00Z'))).toEqual({ returned: [] });
		expect(await returnAwaited(at(context, '2026-11-28T12:00:00Z'))).toMatchObject({
			returned: [{ by: 'day', messages: 2 }]
		});
		expect(await places(context, ids)).toEqual(['live Freight', 'live Freight']);
	});

	it('can be awaited of a thread that is archived already; a person restores it before, and nothing comes twice', async () => {
		const context = await office();
		const ids = await thread(context);
		await decideAtDesk(context, { ids, decision: 'archive', options: {} });
		await awaitAnswer(context, { ids: [ids[0] ?? 0] });
		expect(await awaited(context)).toMatchObject([{ messages: 2 }]);
		// of a thread that is awaited twice, the later wait counts
		await awaitAnswer(context, { ids: [ids[1] ?? 0], until: '2026-12-01' });
		expect(await awaited(context)).toMatchObject([{ until: '2026-12-01', messages: 2 }]);
		await restore(context, { ids });
		await bring(context, [answer('Offer', 8, 'Offer')]);
		expect(await returnAwaited(context)).toEqual({ returned: [] });
		expect(await someAwaited(context)).toBe(false);
	});

	it('is what a mailbox may choose for all its archived threads, from then on', async () => {
		const context = await office();
		const ids = await thread(context);
		await decideAtDesk(context, { ids, decision: 'archive', options: {} });
		await bring(context, [answer('Offer', 9, 'Offer')]);
		await useCase('setReturning').run(context, { mailboxId: 1, returns: true } as never);
		expect(await returnAwaited(context)).toEqual({ returned: [] });
		// mail older than what was archived is no answer to it
		await bring(context, [answer('Offer', 1, 'Offer')]);
		expect(await returnAwaited(context)).toEqual({ returned: [] });
		await bring(context, [answer('Offer', 10, 'Offer')]);
		expect(await returnAwaited(context)).toMatchObject({ returned: [{ by: 'answer', messages: 2 }] });
		expect(await places(context, ids)).toEqual(['live Freight', 'live Freight']);
	});

	it.each([
		[{ ids: [1], until: '2026-11-25' }, 'still to come'],
		[{ ids: [1], until: '2026-13-01' }, 'still to come'],
		[{ ids: [999] }, 'one thread']
	])('%o is refused', async (input, message) => {
		await expect(awaitAnswer(await office(), input)).rejects.toThrow(message);
	});
});

describe('a closed thread', () => {
	it('goes where it was said to go, with what still comes in it, though its number changes', async () => {
		const context = await office();
		const ids = await thread(context);
		const { rule, decided } = await closeThread(context, { itemId: ids[0] ?? 0, then: 'move', folder: 'Done' });
		expect(decided).toMatchObject([{ messages: 2, isDone: true }]);
		expect(await places(context, ids)).toEqual(['live Done', 'live Done']);
		await bring(context, [answer('Offer', 11, 'Offer')]);
		const late = await itemId(context, 'Re: Offer 11');
		// threads that grow together change their numbers
		await context.db.raw('UPDATE item SET thread_id = thread_id + 1000 WHERE thread_id IS NOT NULL');
		const { runs } = await runRules(context, { mailbox: 'Office' });
		expect(runs).toMatchObject([{ messages: 1, asks: true, byRule: [{ rule, messages: 1 }] }]);
		expect((await places(context, [late]))[0]).toBe('live Inbox');
		expect(await listRules(context, {})).toMatchObject([
			{ name: 'Closed thread 1', threadSubject: 'Offer', then: 'move', isOn: true }
		]);
		expect((await find(context, { query: 'subject:tides', limit: 5 })).hits).toMatchObject([{ folder: 'Freight' }]);
	});

	it('needs a folder to move to, and does nothing without one', async () => {
		const context = await office();
		const [itemId = 0] = await thread(context);
		await expect(closeThread(context, { itemId, then: 'move', folder: ' ' })).rejects.toThrow('Name the folder');
		expect(await listRules(context, {})).toEqual([]);
	});
});
