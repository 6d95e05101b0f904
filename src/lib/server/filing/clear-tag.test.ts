import { afterAll, describe, expect, it } from 'vitest';
import type { Context } from '../context/context.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { decideMessages } from '../find/decide-messages.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { listTags } from '../mail/tags.ts';
import { letter, mboxFile } from '../testing/office.ts';
import { idOf, smallOffice } from '../testing/small-office.ts';
import { clearTag } from './clear-tag.ts';

afterAll(closeParsePool);

/* Four messages and one of a second mailbox: A on three, of which one is in the bin; B on one of these. */
async function tagged(): Promise<Context> {
	const context = await smallOffice();
	await importMailbox(context, { path: mboxFile([letter('Echo', '3 Feb 2020 10:00:00 +0000')]), mailbox: 'Other' });
	const put = async (tag: string, ...subjects: string[]) =>
		decideMessages(context, {
			ids: await Promise.all(subjects.map((subject) => idOf(context, subject))),
			decision: 'tag',
			options: { tag }
		});
	await put('A', 'Alpha', 'Bravo', 'Echo');
	await put('B', 'Bravo', 'Delta');
	await decideMessages(context, { ids: [await idOf(context, 'Alpha')], decision: 'delete', options: {} });
	return context;
}

const tagsOf = async ({ db }: Context) =>
	Object.fromEntries(
		(
			await rows<{ subject: string; tags: string }>(
				db,
				sql`SELECT subject, group_concat(name, '' ORDER BY name) AS tags FROM item_tag JOIN tag ON tag.id = tag_id
				 JOIN item ON item.id = item_id JOIN message ON message.id = item.message_id GROUP BY item.id`
			)
		).map(({ subject, tags }) => [subject, tags])
	);
const names = async (context: Context) => (await listTags(context)).map(({ name }) => name);

describe('removing and merging a tag', () => {
	it.each<[string, string | undefined, Record<string, string>]>([
		['removes it, also from mail in the bin and of other mailboxes', undefined, { Bravo: 'B', Delta: 'B' }],
		['merges it', 'B', { Alpha: 'B', Bravo: 'B', Echo: 'B', Delta: 'B' }]
	])('%s, and taking that back makes it again', async (_what, mergeInto, after) => {
		const context = await tagged();
		const before = await tagsOf(context);
		const { decided, isRemoved } = await clearTag(context, { tag: 'a', mergeInto });
		expect(isRemoved).toBe(true);
		expect(decided.map(({ mailbox, isDone }) => [mailbox, isDone])).toEqual([
			['Office', true],
			['Other', true]
		]);
		expect(await tagsOf(context)).toEqual(after);
		expect(await names(context)).toEqual(['B']);
		// another tag does not take the number of the removed one
		await decideMessages(context, { ids: [await idOf(context, 'Delta')], decision: 'tag', options: { tag: 'C' } });
		for (const { docket } of decided) await takeBack(context, { id: docket as number });
		expect(await tagsOf(context)).toEqual({ ...before, Delta: 'BC' });
	});

	it('collects it on the docket where it is on more messages than are decided on at once', async () => {
		const context = await tagged();
		const { decided, isRemoved } = await clearTag(context, { tag: 'A', atOnce: 2 });
		expect([isRemoved, decided.map(({ isDone, messages }) => [isDone, messages])]).toEqual([
			false,
			[
				[false, 2],
				[false, 1]
			]
		]);
		expect((await names(context)).sort()).toEqual(['A', 'B']);
		for (const { docket } of decided) await carryOut(context, { id: docket as number });
		// nothing has it any more: it goes when asked again
		expect(await clearTag(context, { tag: 'A', atOnce: 2 })).toEqual({ decided: [], isRemoved: true });
		expect(await names(context)).toEqual(['B']);
	});
});
