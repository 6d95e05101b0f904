import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import type { Layout } from '../../../core/archive/layout.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { setArchiving, setFinancialYear } from './archiving.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { prepareArchiving, prepareArranging, tryArchiving } from './prepare-archiving.ts';
import { restore } from '../find/restore.ts';
import { setQuota } from '../mail/mailboxes.ts';
import { compareMailboxes, mailboxFolders, weighMailbox } from '../weigh/weigh.ts';
import { WEIGHED_BY } from '../weigh/weighed-rows.ts';
import { decideMessages } from '../find/decide-messages.ts';
import { find } from '../find/find.ts';
import { saveSeries } from '../retention/schedule.ts';
import { FINANCE, retain } from '../testing/retaining.ts';

afterAll(closeParsePool);

const MAIL: Record<string, string[]> = {
	Inbox: [
		letter('one', 'Mon, 02 Mar 2020 10:00:00 +0000'),
		letter('two', 'Thu, 02 Apr 2020 10:00:00 +0000'),
		letter('clock', 'Mon, 14 Mar 102 09:12:00 +0000')
	],
	'Vessels/MV Terne': [
		letter('three', 'Tue, 05 Jan 2021 10:00:00 +0000'),
		letter('four', 'Wed, 03 Nov 2026 10:00:00 +0000')
	],
	Sent: [letter('five', 'Mon, 03 Aug 2026 10:00:00 +0000', 'x'.repeat(1_200_000))]
};

async function filled(): Promise<Context> {
	const context = await openOffice();
	const folder = temporaryFolder();
	for (const [name, letters] of Object.entries(MAIL)) {
		const file = path.join(folder, `${name}.mbox`);
		mkdirSync(path.dirname(file), { recursive: true });
		const header = name === 'Inbox' ? 'List-Id: Weekly <weekly.harbour.example>\nStatus: O\n' : '';
		writeFileSync(
			file,
			letters.map((text) => `From a@b.example Thu Jan  1 00:00:00 1970\n${header}${text}\n`).join('')
		);
	}
	await importMailbox(context, { path: folder, mailbox: 'Office' });
	return context;
}

const places = async ({ db }: Context) =>
	(
		await rows<{ place: string }>(
			db,
			sql`SELECT state || ' ' || folder.path || ' ' || subject AS place FROM item JOIN folder ON folder.id = item.folder_id
			 JOIN message ON message.id = item.message_id WHERE state = 'archived' ORDER BY received_on`
		)
	).map(({ place }) => place.replace('archived ', ''));

describe('the layout of the archive', () => {
	it.each<[Layout, string[]]>([
		[['folder'], ['Inbox one', 'Inbox two', 'Vessels/MV Terne three']],
		[
			['folder', 'year'],
			['Inbox/2020 one', 'Inbox/2020 two', 'Vessels/MV Terne/2021 three']
		],
		[
			['year', 'month'],
			['2020/2020-03 one', '2020/2020-04 two', '2021/2021-01 three']
		],
		[['financial-year'], ['2019-20 one', '2020-21 two', '2020-21 three']],
		[
			['“Closed', 'quarter', 'folder'],
			['Closed/2020 Q1/Inbox one', 'Closed/2020 Q2/Inbox two', 'Closed/2021 Q1/Vessels/MV Terne three']
		],
		[
			['organisation', 'series'],
			['skerryline.example/FIN-01 one', 'skerryline.example/FIN-01 two', 'skerryline.example/No series three']
		],
		[[], ['All mail one', 'All mail two', 'All mail three']]
	])('%j; all of it goes back to where it came from', async (layout, expected) => {
		const context = await filled();
		await setFinancialYear(context, { month: 4 });
		if (layout.includes('series')) {
			await saveSeries(context, { fields: FINANCE });
			await retain(context, 'Inbox', { retention: { series: FINANCE.code } });
		}
		const draft = await prepareArchiving(context, {
			mailbox: 'Office',
			before: '2022-01-01',
			layout
		});
		await carryOut(context, { id: draft.id, expected: draft });
		expect(await places(context)).toEqual(expected);
		expect(await compareWeights(context.db)).toBe(0);
		const ids = (await find(context, { query: '', states: ['archived'], limit: 10 })).hits.map(({ id }) => id);
		await restore(context, { ids });
		const { hits } = await find(context, { query: 'one or three', limit: 10, sort: 'oldest' });
		expect(hits.map(({ folder }) => folder)).toEqual(['Inbox', 'Vessels/MV Terne']);
	});

	it('is left aside where a folder of the archive is named', async () => {
		const context = await filled();
		const ids = (await find(context, { query: 'one or three', limit: 9 })).hits.map(({ id }) => id);
		const [done] = await decideMessages(context, { ids, decision: 'archive', options: { folder: 'Closed/Terne' } });
		expect(done?.sentences[0]).toContain('Archived 2 messages from 2 folders into Closed/Terne');
		expect(await places(context)).toEqual(['Closed/Terne one', 'Closed/Terne three']);
		// its name is that of the folder that is there
		const [again] = await decideMessages(context, {
			ids: (await find(context, { query: 'two', limit: 9 })).hits.map(({ id }) => id),
			decision: 'archive',
			options: { folder: 'closed/TERNE' }
		});
		expect(again?.sentences[0]).toContain('into Closed/Terne');
		await takeBack(context, { id: done?.docket as number });
		expect(await places(context)).toEqual(['Closed/Terne two']);
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('is changed later by a docket, and taken back by it', async () => {
		const context = await filled();
		const archiving = await prepareArchiving(context, { mailbox: 'Office', before: '2022-01-01' });
		await carryOut(context, { id: archiving.id });
		await setArchiving(context, { mailbox: 'Office', layout: ['year'] });
		// archived mail stays in its place until a docket moves it
		expect(await places(context)).toEqual(['Inbox one', 'Inbox two', 'Vessels/MV Terne three']);
		const anew = await prepareArranging(context, { mailbox: 'Office' });
		expect(anew.sentences.join()).toMatch(/^Arrange the 3 messages in the archive anew, by year \(\d+\u00a0bytes\)\.$/);
		await carryOut(context, { id: anew.id, expected: anew });
		expect(await places(context)).toEqual(['2020 one', '2020 two', '2021 three']);
		const folders = () =>
			rows<{ path: string }>(
				context.db,
				sql`SELECT path FROM folder WHERE tree = 'archive' AND removed_at IS NULL ORDER BY path`
			);
		expect((await folders()).map(({ path }) => path)).toEqual(['2020', '2021']);
		await takeBack(context, { id: anew.id });
		expect(await places(context)).toEqual(['Inbox one', 'Inbox two', 'Vessels/MV Terne three']);
		expect((await folders()).map(({ path }) => path)).toEqual(['Inbox', 'Vessels', 'Vessels/MV Terne']);
		expect(await compareWeights(context.db)).toBe(0);
		expect((await listLedger(context.db)).map(({ action }) => action)).toContain('archiving-set');
	});

	it('brings back a folder that was removed before a stopped docket went on', async () => {
		const context = await filled();
		const draft = await prepareArchiving(context, { mailbox: 'Office', before: '2022-01-01' });
		await carryOut({ ...context, signal: AbortSignal.abort() }, { id: draft.id });
		const other = await prepareArranging(context, { mailbox: 'Office' });
		await carryOut(context, { id: other.id });
		await carryOut(context, { id: draft.id });
		const { folders } = await mailboxFolders(context, { mailboxId: 1, tree: 'archive' });
		expect(folders.map(({ path, messages }) => [path, messages])).toEqual([
			['Inbox', 2],
			['Vessels', 0],
			['Vessels/MV Terne', 1]
		]);
	});

	it('can be to archive nothing', async () => {
		const context = await filled();
		const drafted = await prepareArchiving(context, { mailbox: 'Office', before: '2022-01-01' });
		await setArchiving(context, { mailbox: 'Office', archives: false });
		await expect(carryOut(context, { id: drafted.id })).rejects.toThrow('is set to archive nothing. Nothing was done.');
		expect(await places(context)).toEqual([]);
		await expect(prepareArchiving(context, { mailbox: 'Office', before: '2022-01-01' })).rejects.toThrow(
			'Office is set to archive nothing. Nothing was done.'
		);
		expect((await weighMailbox(context, { mailboxId: 1 })).suggestions).toEqual([]);
	});
});

describe('weighing', () => {
	it('suggests what frees most, and the docket of each frees exactly that', async () => {
		const context = await filled();
		const { suggestions } = await weighMailbox(context, { mailboxId: 1 });
		expect(suggestions.map(({ what, messages }) => [what, messages])).toEqual([
			['Archive messages of 1 MB and more, of any age', 1],
			['Archive all of the list Weekly', 3],
			['Archive mail received before 1 Nov 2024', 3],
			['Archive Inbox before 1 Nov 2024', 2],
			['Archive Vessels before 1 Nov 2024', 1]
		]);
		for (const { wish, messages, bytes } of suggestions) {
			if (wish === 'empty-bin') continue;
			expect(await tryArchiving(context, { mailbox: 'Office', ...wish })).toMatchObject({ messages, bytes });
		}
	});

	it.each(WEIGHED_BY)('by %s: a search finds just the messages of each row', async (by) => {
		const context = await filled();
		const { rows, mailbox } = await weighMailbox(context, { mailboxId: 1, by });
		expect(rows.length).toBeGreaterThan(0);
		if (by !== 'list' && by !== 'attachment')
			expect(rows.reduce((sum, { bytes }) => sum + bytes, 0)).toBe(mailbox.bytes);
		for (const { query, messages, unread } of rows) {
			const found = (text: string) => find(context, { query: text, mailbox: 'Office', limit: 0 });
			expect((await found(query)).total, query).toBe(messages);
			expect((await found(`(${query}) unread`)).total, query).toBe(unread);
		}
	});

	it('compares mailboxes, the one furthest over its quota first; the sums are those of each', async () => {
		const context = await filled();
		await importMailbox(context, {
			path: mboxFile([letter('other', 'Mon, 02 Mar 2026 10:00:00 +0000')]),
			mailbox: 'Small'
		});
		await importMailbox(context, {
			path: mboxFile([letter('none', 'Mon, 02 Mar 2026 10:00:00 +0000')]),
			mailbox: 'No quota'
		});
		await setQuota(context, { mailbox: 'Office', bytes: 2_000_000 });
		await setQuota(context, { mailbox: 'Small', bytes: 100 });
		const { mailboxes: compared } = await compareMailboxes(context);
		expect(compared.map(({ name }) => name)).toEqual(['Small', 'Office', 'No quota']);
		for (const { id, months, messages, bytes, growth } of compared) {
			const alone = await weighMailbox(context, { mailboxId: id });
			expect({ months, messages, bytes, growth }).toEqual({
				months: alone.months,
				messages: alone.mailbox.messages,
				bytes: alone.mailbox.bytes,
				growth: alone.growth
			});
		}
		expect(compared[1]?.unread).toBe(3);
		expect(compared[2]?.growth.quotaReachedOn).toBeUndefined();
	});

	it('lists the largest messages of 100 kB and more, wherever they lie, but not those archived', async () => {
		const context = await filled();
		const largest = async () => (await weighMailbox(context, { mailboxId: 1 })).largest;
		expect(await largest()).toMatchObject([{ subject: 'five', folder: 'Sent', attachments: 0 }]);
		const draft = await prepareArchiving(context, {
			mailbox: 'Office',
			query: 'not smaller:1MB',
			label: 'of 1 MB and more'
		});
		expect(draft.sentences.join()).toContain('Archive 1 message of 1 MB and more from 1 folder');
		await carryOut(context, { id: draft.id, expected: draft });
		expect(await largest()).toEqual([]);
	});

	it('archives by a search; what it asks about dates leaves those in doubt', async () => {
		const context = await filled();
		const all = await tryArchiving(context, { mailbox: 'Office', query: 'list:"=weekly.harbour.example"' });
		expect(all).toMatchObject({ messages: 3, left: [] });
		const old = await tryArchiving(context, { mailbox: 'Office', query: 'list:weekly before:2021' });
		expect(old).toMatchObject({ messages: 2, left: [{ reason: 'date-in-doubt', messages: 1 }] });
		await expect(tryArchiving(context, { mailbox: 'Office', query: '(list:weekly' })).rejects.toThrow(
			'A bracket is not closed (at character 1 of the query).'
		);
	});
});
