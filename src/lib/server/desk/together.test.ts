import { afterAll, describe, expect, it } from 'vitest';
import { decideArchivingTogether } from '../archive/prepare-archiving.ts';
import type { Context } from '../context/context.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { showDrafts } from '../docket/show-docket.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { listLists } from '../lists/lists.ts';
import { decideListsTogether, listListsTogether } from '../lists/lists-together.ts';
import { decideLots, listLots } from '../lots/lots.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { dueOverview } from '../retention/due.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { clearingTogether } from '../weigh/clearing.ts';
import { listWeights, weighMailbox, weighTogether } from '../weigh/weigh.ts';
import { WEIGHED_BY } from '../weigh/weighed-rows.ts';
import { showDesk } from './desk.ts';

afterAll(closeParsePool);

/* Several mailboxes as one are held against each of them by itself. */

const MAILBOXES = ['Harbour', 'Crew', 'Workshop'];
const LISTS = ['tides.example', 'fares.example', 'ropes.example'];

/* Mail of a mailbox: letters of four senders over six years, and the lists that it gets. */
function mailOf(which: number): string[] {
	return Array.from({ length: 60 }, (_, n) => {
		const date = `${1 + (n % 28)} Mar ${2020 + ((n + which) % 6)} 10:00:00 +0000`;
		const from = `Sender <s@organisation${(n * (which + 1)) % 4}.example>`;
		const made = letter(`${MAILBOXES[which]} ${n}`, date, 'x'.repeat(100 * (n % 9)), from);
		const list = LISTS[n % 4];
		return list && n % 4 <= which ? `List-Id: <${list}>\nList-Unsubscribe: <https://${list}/${which}>\n${made}` : made;
	});
}

async function office(): Promise<Context> {
	const context = await openOffice();
	for (const [which, mailbox] of MAILBOXES.entries()) {
		const mail = mailOf(which);
		await importMailbox(context, { path: mboxFile(mail.slice(0, 40), 'Status: O\n'), mailbox, folder: 'Inbox' });
		await importMailbox(context, { path: mboxFile(mail.slice(40), 'Status: RO\n'), mailbox, folder: 'Permits' });
	}
	return context;
}

type Named = { key: string; messages: number; bytes: number; unread?: number };
function added(...parts: readonly (readonly Named[])[]): Map<string, Named> {
	const sums = new Map<string, Named>();
	for (const { key, messages, bytes, unread = 0 } of parts.flat()) {
		const sum = sums.get(key) ?? { key, messages: 0, bytes: 0, unread: 0 };
		sums.set(key, {
			key,
			messages: sum.messages + messages,
			bytes: sum.bytes + bytes,
			unread: (sum.unread ?? 0) + unread
		});
	}
	return sums;
}
const only = <T extends Named>(some: readonly T[]) =>
	new Map(some.map(({ key, messages, bytes, unread = 0 }) => [key, { key, messages, bytes, unread }]));

describe('several mailboxes as one', () => {
	it('weigh what each of them weighs, grouping by grouping', async () => {
		const context = await office();
		for (const by of WEIGHED_BY) {
			const each = [
				await weighMailbox(context, { mailboxId: 1, by }),
				await weighMailbox(context, { mailboxId: 3, by })
			];
			const together = await weighTogether(context, { mailboxIds: [1, 3], by });
			expect(only(together.rows), by).toEqual(added(...each.map((one) => one.rows)));
			expect(together.bytes).toBe(each.reduce((sum, { mailbox }) => sum + mailbox.bytes, 0));
		}
		const all = await weighTogether(context, {});
		expect(all.messages).toBe((await listWeights(context)).reduce((sum, { messages }) => sum + messages, 0));
		await expect(weighTogether(context, { mailboxIds: [1, 99] })).rejects.toThrow('no such mailbox');
	});

	it('show the lots and the lists of the selected ones, and of no other', async () => {
		const context = await office();
		const ofOne = async (mailboxId: number) =>
			(await listLots(context, { mailboxId, by: 'organisation', limit: 100 })).lots;
		const lots = await listLots(context, { mailboxIds: [1, 3], by: 'organisation', limit: 100 });
		expect(only(lots.lots)).toEqual(
			new Map(
				[...added(await ofOne(1), await ofOne(3))].map(([key, lot]) => [key, { ...lot, unread: expect.any(Number) }])
			)
		);
		const listed = async (mailboxId: number) => (await listLists(context, { mailboxId, limit: 100 })).lists;
		const lists = await listListsTogether(context, { mailboxIds: [1, 3], limit: 100 });
		const sums = added(
			...(await Promise.all([1, 3].map(listed))).map((some) =>
				some.map(({ identifier, messages, bytes, live }) => ({ key: identifier, messages, bytes, unread: live }))
			)
		);
		expect(only(lists.lists.map((one) => ({ ...one, key: one.identifier, unread: one.live })))).toEqual(sums);
		expect(lists.total.messages).toBe([...sums.values()].reduce((sum, { messages }) => sum + messages, 0));
		// one mailbox as a selection is that mailbox
		expect(await listListsTogether(context, { mailboxIds: [2], limit: 2, offset: 1 })).toEqual(
			await listLists(context, { mailboxId: 2, limit: 2, offset: 1 })
		);
	});

	it('are searched, and stand on one desk', async () => {
		const context = await office();
		const desk = await showDesk(context, { mailboxIds: [1, 3] });
		expect(desk.inbox.messages).toBe(80);
		expect(desk.bundles.find(({ bundle }) => bundle === 'unread')?.messages).toBe(80);
		const search = { query: 'unread', states: ['live' as const], gathered: { of: 'inbox' as const }, limit: 100 };
		const found = await find(context, { ...search, mailboxIds: [1, 3] });
		expect(new Set(found.hits.map(({ mailbox, folder }) => `${mailbox} ${folder}`))).toEqual(
			new Set(['Harbour Inbox', 'Workshop Inbox'])
		);
		expect(found.total).toBe(80);
		expect((await find(context, search)).total).toBe(120);
		expect(
			(await clearingTogether(context, { mailboxIds: [3] })).map(({ name, inbox }) => [name, inbox.messages])
		).toEqual([['Workshop', 40]]);
		expect((await dueOverview(context, { mailboxIds: [1, 3] })).lines).toEqual([]);
	});

	it('get a docket each from one decision, and those left out get none', async () => {
		const context = await office();
		const counts = async () =>
			(await showDrafts(context, {})).map(({ mailbox, messages, onLists }) => [mailbox, messages, onLists]);
		await decideArchivingTogether(context, { mailboxIds: [1, 3], before: '2021-01-01' });
		const old = await rows<{ mailboxId: number; n: number }>(
			context.db,
			sql`SELECT mailbox_id AS mailboxId, count(*) AS n FROM item WHERE received_on < '2021-01-01' AND mailbox_id IN (1, 3) GROUP BY 1`
		);
		expect(await counts()).toEqual([
			['Harbour', old[0]?.n, 0],
			['Workshop', old[1]?.n, 0]
		]);
		await expect(decideArchivingTogether(context, { before: '1999-01-01' })).rejects.toThrow('Nothing was drafted');
		const [lot] = (await listLots(context, { mailboxIds: [2], by: 'organisation', limit: 1 })).lots;
		await decideLots(context, {
			mailboxIds: [2],
			by: 'organisation',
			keys: [lot?.key ?? ''],
			decision: 'delete',
			options: {}
		});
		expect((await counts()).map(([mailbox]) => mailbox)).toEqual(['Harbour', 'Workshop', 'Crew']);
		// a list is decided on where it writes
		const { lists } = await listListsTogether(context, { limit: 100 });
		const ropes = lists.find(({ identifier }) => identifier === 'ropes.example');
		expect(ropes?.mailboxes).toEqual(['Workshop']);
		const dockets = await decideListsTogether(context, {
			mailboxIds: [1, 2, 3],
			ids: lists.map(({ id }) => id),
			decision: 'unsubscribe',
			backIssues: 'leave'
		});
		expect(dockets.map(({ mailbox, onLists }) => [mailbox, onLists]).sort()).toEqual([
			['Crew', 2],
			['Harbour', 1],
			['Workshop', 3]
		]);
	});
});
