import { afterAll, describe, expect, it } from 'vitest';
import { type Grouping, GROUPINGS } from '../../../core/lots/lots.ts';
import type { Gathered } from '../../../core/search/narrowing.ts';
import { actingAs, type Context } from '../context/context.ts';
import { row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { carryOut } from '../docket/carry-out.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { listLots } from '../lots/lots.ts';
import { findProposals } from '../lots/propose.ts';
import { listProposals } from '../lots/show-proposals.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { listDue } from '../retention/due.ts';
import { retain, retainedOffice, terms } from '../testing/retaining.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { decideMessages } from './decide-messages.ts';
import { find, narrow } from './find.ts';

afterAll(closeParsePool);

const LISTED = 'List-Id: <weekly.harbour.example>\nList-Unsubscribe: <mailto:u@harbour.example>\n';
const SUBJECTS = ['Ramp', 'Quay', 'Berth', 'Lift'];

/* Forty messages in threads of up to five, of three organisations, a list, three years and two folders. */
async function office(): Promise<Context> {
	const context = await openOffice();
	const mail = Array.from({ length: 40 }, (_, n) => {
		const of = n % 8;
		const first = n < 8;
		const text = letter(
			`${first ? '' : 'Re: '}${SUBJECTS[of % 4]} ${of}`,
			`${(n % 27) + 1} Mar ${2021 + (n % 3)} 10:00:00 +0000`,
			`Words ${n}.`,
			`P${n % 3} <p${n % 3}@org${n % 3}.example>`
		).replace(/Message-ID: <.*>/, `Message-ID: <m${n}@x.example>${first ? '' : `\nIn-Reply-To: <m${of}@x.example>`}`);
		return n % 10 === 3 ? LISTED + text : text;
	});
	await importMailbox(context, { path: mboxFile(mail.slice(0, 25)), mailbox: 'Office', folder: 'Inbox' });
	await importMailbox(context, {
		path: mboxFile([...mail.slice(25), mail[2] as string]),
		mailbox: 'Office',
		folder: 'Vessels'
	});
	return context;
}

const LIVE = { query: '', mailbox: 1, states: ['live' as const] };
const foundIn = async (context: Context, gathered: Gathered, query = '') =>
	(await find(context, { ...LIVE, query, gathered, limit: 100 })).hits.map(({ id }) => id).sort((a, b) => a - b);

describe('messages that another page gathers', () => {
	it.each(Object.keys(GROUPINGS) as Grouping[])(
		'are those of each lot by %s, and all lots together are all mail',
		async (by) => {
			const context = await office();
			const { lots, total } = await listLots(context, { mailboxId: 1, by, limit: 100 });
			const all = new Set<number>();
			for (const { key, messages, bytes } of lots) {
				const found = await find(context, { ...LIVE, gathered: { of: 'lot', by, key }, limit: 100 });
				expect([found.total, found.bytes]).toEqual([messages, bytes]);
				for (const { id } of found.hits) all.add(id);
			}
			expect(all.size).toBe(total.messages);
		}
	);

	it('are narrowed by the search and the folder of the sheet', async () => {
		const context = await office();
		const { lots } = await listLots(context, {
			mailboxId: 1,
			by: 'correspondent',
			query: 'ramp',
			folder: 'Vessels',
			limit: 9
		});
		for (const { key, messages } of lots)
			expect(await foundIn(context, { of: 'lot', by: 'correspondent', key, folder: 'Vessels' }, 'ramp')).toHaveLength(
				messages
			);
	});

	it('are those of a proposal, of a row of due mail, and of nothing else', async () => {
		const context = await office();
		await findProposals(context, { mailboxId: 1 });
		const { proposals } = await listProposals(context, { mailboxId: 1 });
		expect(proposals.map(({ kind }) => kind)).toContain('same-bytes');
		for (const { kind, messages, bytes } of proposals) {
			const gathered = { of: 'proposal' as const, proposal: kind };
			expect(await find(context, { ...LIVE, gathered, limit: 9 })).toMatchObject({ total: messages, bytes });
		}
		const due = await retainedOffice();
		await retain(due, 'Accounts', { retention: terms('received destroy P1Y -') });
		const lines = await listDue(due, { mailboxId: 1 });
		expect(lines.length).toBeGreaterThan(0);
		for (const { date, disposition, retentionId, folderId, messages, bytes } of lines)
			expect(
				await find(due, {
					query: '',
					mailbox: 1,
					states: ['live', 'archived'],
					gathered: { of: 'due', action: disposition, date, retentionId, folderId },
					limit: 9
				})
			).toMatchObject({ total: messages, bytes });
	});

	it('are opened by administrators alone, so that nobody learns of folders from refusals', async () => {
		const context = await office();
		const colleague = actingAs(context, { personId: 7, name: 'Jonas', role: 'colleague' });
		for (const folder of ['Vessels', 'No such folder'])
			await expect(
				find(colleague, { ...LIVE, gathered: { of: 'lot', by: 'year', key: '2021', folder }, limit: 9 })
			).rejects.toThrow('Only an administrator opens that');
	});

	it('go on a docket as what they are, not by their numbers, where they are many', async () => {
		const context = await openOffice();
		const many = Array.from({ length: 120 }, (_, n) =>
			letter(`Deal ${n}`, '3 Feb 2020 10:00:00 +0000', 'x', 'Deals <d@deck.example>')
		);
		await importMailbox(context, { path: mboxFile(many), mailbox: 'Office' });
		const [lot] = (await listLots(context, { mailboxId: 1, by: 'organisation', limit: 9 })).lots;
		const gathered = { of: 'lot' as const, by: 'organisation' as const, key: lot?.key ?? '', label: 'deck.example' };
		// as the page asks: its mailbox is a filter too
		const search = { ...LIVE, gathered, narrowing: { mailbox: 1 } };
		const left = (await find(context, { ...search, limit: 3 })).hits.map(({ id }) => id);
		const [decided] = await decideMessages(context, { search, without: left, decision: 'delete', options: {} });
		expect(decided).toMatchObject({ isDone: false, messages: 117 });
		const line = await row<{ scope: string }>(context.db, sql`SELECT scope FROM docket_line`);
		expect(JSON.parse(line?.scope ?? '')).toMatchObject({ kind: 'lots', without: left, label: 'from deck.example' });
		await carryOut(context, { id: decided?.docket as number });
		expect((await find(context, { ...search, limit: 9 })).hits.map(({ id }) => id).sort()).toEqual(left.sort());
	});
});

describe('folding by thread', () => {
	/* The same from plain rows: of each thread among what is found, the newest, with the others under it. */
	async function model(context: Context, ids: readonly number[]) {
		const items = await rows<{ id: number; threadId: number; at: number }>(
			context.db,
			sql`SELECT id, thread_id AS threadId, received_at AS at FROM item`
		);
		const threads = new Map<number, typeof items>();
		for (const item of items)
			if (ids.includes(item.id)) threads.set(item.threadId, [...(threads.get(item.threadId) ?? []), item]);
		return [...threads.values()].map((some) => {
			const [newest, ...others] = some.sort((a, b) => b.at - a.at || b.id - a.id);
			return [newest?.id, others.map(({ id }) => id).sort((a, b) => a - b)];
		});
	}

	it.each([
		['a mailbox', ''],
		['words', 'ramp or berth'],
		['a year', 'since:2022 before:2023'],
		['a list', 'list:weekly']
	])('shows each thread once, as its newest message, among %s', async (_what, query) => {
		const context = await office();
		const search = { ...LIVE, query };
		const flat = await find(context, { ...search, limit: 100 });
		const folded = await find(context, { ...search, isFolded: true, limit: 100 });
		const expected = await model(
			context,
			flat.hits.map(({ id }) => id)
		);
		const shown = folded.hits.map(({ id, folded: others }) => [
			id,
			others.map((other) => other.id).sort((a, b) => a - b)
		]);
		const byId = (a: unknown[], b: unknown[]) => Number(a[0]) - Number(b[0]);
		expect(shown.sort(byId)).toEqual(expected.sort(byId));
		expect([folded.total, folded.rows, flat.rows]).toEqual([flat.total, expected.length, flat.total]);
	});

	it('turns pages by threads', async () => {
		const context = await office();
		const pages = [];
		for (let offset = 0; offset < 9; offset += 3)
			pages.push(...(await find(context, { ...LIVE, isFolded: true, sort: 'subject', limit: 3, offset })).hits);
		expect(new Set(pages.map(({ threadId }) => threadId)).size).toBe(pages.length);
		expect(pages).toHaveLength((await find(context, { ...LIVE, isFolded: true, limit: 1 })).rows);
	});
});

describe('filters with their counts', () => {
	it('count what each would leave: lists and kinds too', async () => {
		const context = await office();
		const choices = await narrow(context, LIVE);
		for (const of of ['list', 'kind', 'who', 'year', 'folder'] as const) {
			expect(choices[of].length, of).toBeGreaterThan(0);
			for (const { value, messages } of choices[of]) {
				const narrowing = { [of]: ['who', 'list', 'folder'].includes(of) ? Number(value) : value };
				expect(await find(context, { ...LIVE, narrowing, limit: 1 })).toMatchObject({ total: messages });
			}
		}
	});
});
