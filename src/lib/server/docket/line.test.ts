import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { change, row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { carryOut, takeBack } from './carry-out.ts';
import { actingAs, type Context } from '../context/context.ts';
import { administratorNamed } from '../../../core/access/roles.ts';
import { exportMail } from '../find/export-mail.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { listOddities } from '../intake/imports.ts';
import { decideArchiving, prepareArchiving, tryArchiving } from '../archive/prepare-archiving.ts';
import { discardDocket, prepareDocket } from './prepare-docket.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { showDocket, showSlip } from './show-docket.ts';
import { readHtml, readMessage, readRaw } from '../find/read-message.ts';
import { restore } from '../find/restore.ts';
import { verify } from '../backup/verify-archive.ts';
import { weighMailbox } from '../weigh/weigh.ts';

afterAll(closeParsePool);

const OLD = 'Mon, 3 Feb 2020 10:00:00 +0000';
const NEW = 'Tue, 3 Feb 2026 10:00:00 +0000';

/* Ten old and five new messages in two folders. */
async function office(): Promise<Context> {
	const context = await openOffice();
	const old = Array.from({ length: 6 }, (_, n) => letter(`Ramp ${n}`, OLD, `Réservation number ${n}`));
	const recent = Array.from({ length: 5 }, (_, n) => letter(`Quay ${n}`, NEW));
	await importMailbox(context, { path: mboxFile([...old, ...recent], 'Status: RO\n'), mailbox: 'Office' });
	await importMailbox(context, {
		path: mboxFile(Array.from({ length: 4 }, (_, n) => letter(`Slip ${n}`, OLD))),
		mailbox: 'Office',
		folder: 'Projects/Slipway'
	});
	return context;
}

const states = async ({ db }: Context) =>
	Object.fromEntries(
		(await rows<{ state: string; n: number }>(db, sql`SELECT state, count(*) AS n FROM item GROUP BY 1`)).map(
			({ state, n }) => [state, n]
		)
	);

describe('importing', () => {
	it('counts everything, and adds nothing twice (invariant 14)', async () => {
		const context = await openOffice();
		const file = mboxFile([
			letter('One', OLD),
			letter('Two', OLD),
			letter('One', OLD),
			'Once upon a time\n\nthere was no header.\n'
		]);
		expect(await importMailbox(context, { path: file, mailbox: 'Office' })).toMatchObject({
			read: 4,
			added: 2,
			already: 1,
			unreadable: 1
		});
		expect(await importMailbox(context, { path: file, mailbox: 'OFFICE' })).toMatchObject({
			mailbox: 'Office',
			read: 4,
			added: 0,
			already: 3,
			unreadable: 1
		});
		const [oddity] = await listOddities(context, { importId: 1, limit: 10 });
		expect(oddity).toMatchObject({ reason: 'has no header that mail has' });
	});

	it('keeps a mistaken file raw, and names it', async () => {
		const context = await openOffice();
		const file = path.join(temporaryFolder(), 'mailbox.mbox');
		writeFileSync(file, Buffer.from([0x89, 0x50, 0x4e, 0x47, 0, 1, 2]));
		expect(await importMailbox(context, { path: file, mailbox: 'Office' })).toMatchObject({
			read: 1,
			added: 0,
			unreadable: 1
		});
		expect(await verify(context)).toMatchObject({ ok: true, messages: 1, bytes: 7 });
	});

	it('takes a tree of files as folders, each file byte for byte', async () => {
		const context = await openOffice();
		const folder = temporaryFolder();
		mkdirSync(path.join(folder, 'Crew', 'Rosters'), { recursive: true });
		const saved = `From a@b.example Thu Aug 22 12:46:39 2002\n${letter('Saved', OLD)}`;
		writeFileSync(path.join(folder, 'a.eml'), letter('Top', OLD));
		writeFileSync(path.join(folder, 'Crew', 'b.eml'), saved);
		writeFileSync(path.join(folder, 'Crew', 'Rosters', 'empty.eml'), '');
		writeFileSync(
			path.join(folder, 'Crew', 'Rosters', 'many'),
			readFileSync(mboxFile([letter('R1', OLD), letter('R2', OLD)]))
		);
		expect(await importMailbox(context, { path: folder, mailbox: 'Office' })).toMatchObject({
			read: 5,
			added: 4,
			unreadable: 1
		});
		const { folders } = await weighMailbox(context, { mailboxId: 1 });
		expect(folders.map(({ path, messages }) => [path, messages])).toEqual([
			['Inbox', 1],
			['Crew', 1],
			['Crew/Rosters', 0],
			['Crew/Rosters/many', 2]
		]);
		const { hits } = await find(context, { query: 'subject:saved', limit: 1 });
		expect((await readRaw(context, { id: hits[0]?.id ?? 0 })).content.toString()).toBe(saved);
	});

	it('puts mail from the trash into the bin, to go back to the inbox (invariant 1)', async () => {
		const context = await openOffice();
		await importMailbox(context, { path: mboxFile([letter('Gone', OLD)]), mailbox: 'Office', folder: 'Trash' });
		expect(await row(context.db, sql`SELECT state, binned_on FROM item`)).toEqual({
			state: 'binned',
			binned_on: '2026-11-25'
		});
		const { hits } = await find(context, { query: 'gone', states: ['binned'], limit: 1 });
		await restore(context, { ids: [hits[0]?.id ?? 0] });
		expect(await row(context.db, sql`SELECT state, path FROM item JOIN folder ON folder.id = folder_id`)).toEqual({
			state: 'live',
			path: 'Inbox'
		});
	});

	it.each([
		['a path that is not there', { path: '/nowhere/at/all', mailbox: 'Office' }, 'There is no file or folder'],
		['a folder without files', { path: '', mailbox: 'Office' }, 'There are no files'],
		['a mailbox without a name', { path: 'x', mailbox: ' ' }, 'A mailbox needs a name']
	])('refuses %s', async (_name, input, says) => {
		const context = await openOffice();
		const place =
			input.path === '' ? temporaryFolder() : input.path === 'x' ? mboxFile([letter('One', OLD)]) : input.path;
		await expect(importMailbox(context, { ...input, path: place })).rejects.toThrow(says);
		expect(await states(context)).toEqual({});
	});

	it('stops between two batches and goes on when it is asked again', async () => {
		const context = await openOffice();
		const file = mboxFile(Array.from({ length: 3_000 }, (_, n) => letter(`No ${n}`, OLD)));
		const stop = new AbortController();
		const stopped = await importMailbox(
			{ ...context, signal: stop.signal, report: () => stop.abort() },
			{ path: file, mailbox: 'Office' }
		);
		expect(stopped.stopped).toBe(true);
		expect(stopped.added).toBeGreaterThan(0);
		expect(stopped.added).toBeLessThan(3_000);
		const again = await importMailbox(context, { path: file, mailbox: 'Office' });
		// the report is that of the whole
		expect(again).toMatchObject({ import: stopped.import, read: 3_000, added: 3_000, already: 0, stopped: false });
		expect(await importMailbox(context, { path: file, mailbox: 'Office' })).toMatchObject({ added: 0, already: 3_000 });
		expect(await verify(context)).toMatchObject({ ok: true, messages: 3_000 });
	});

	it('begins anew where the file has changed since it was stopped, even at the same size', async () => {
		const context = await openOffice();
		const messages = (word: string) => Array.from({ length: 3_000 }, (_, n) => letter(`${word} ${n}`, OLD));
		const file = mboxFile(messages('Old'));
		const stop = new AbortController();
		await importMailbox(
			{ ...context, signal: stop.signal, report: () => stop.abort() },
			{ path: file, mailbox: 'Office' }
		);
		writeFileSync(file, readFileSync(mboxFile(messages('New'))));
		utimesSync(file, 1_900_000_000, 1_900_000_000);
		expect(await importMailbox(context, { path: file, mailbox: 'Office' })).toMatchObject({
			read: 3_000,
			added: 3_000
		});
	});
});

describe('archiving, taking back, restoring', () => {
	it('does what the docket said, and nothing else', async () => {
		const context = await office();
		const draft = await prepareArchiving(context, { mailbox: 'office', before: '2021-01-01' });
		expect(draft.sentences).toEqual([
			`Archive 10 messages from 2 folders received before 1 Jan 2021 (${(draft.bytes / 1000).toFixed(2)}\u00a0kB).`
		]);
		expect((await showDocket(context, { id: draft.id })).folders.map(({ path, messages }) => [path, messages])).toEqual(
			[
				['Inbox', 6],
				['Projects/Slipway', 4]
			]
		);
		expect(await states(context)).toEqual({ live: 15 });
		const outcome = await carryOut(context, { id: draft.id, expected: draft });
		expect(outcome).toMatchObject({
			messages: 10,
			bytes: draft.bytes,
			left: [{ reason: 'newer', messages: 5 }],
			finished: true
		});
		expect(await states(context)).toEqual({ archived: 10, live: 5 });
		const { mailbox, folders } = await weighMailbox(context, { mailboxId: 1 });
		expect(mailbox).toMatchObject({ messages: 5, archived: { messages: 10, bytes: draft.bytes } });
		expect(folders.map(({ path, messages }) => [path, messages])).toEqual([
			['Inbox', 5],
			['Projects', 0],
			['Projects/Slipway', 0]
		]);
		expect(await verify(context)).toMatchObject({ ok: true, weightsDiffering: 0 });
		await expect(carryOut(context, { id: draft.id })).rejects.toThrow('already');

		expect(await takeBack(context, { id: draft.id })).toMatchObject({ messages: 10, left: [] });
		expect(await states(context)).toEqual({ live: 15 });
		expect(await verify(context)).toMatchObject({ ok: true });
		await expect(takeBack(context, { id: draft.id })).rejects.toThrow('nothing to take back');
	});

	it('takes one folder with its subfolders', async () => {
		const context = await office();
		expect(await tryArchiving(context, { mailbox: 'Office', before: '2021', folder: 'projects' })).toMatchObject({
			messages: 4,
			left: []
		});
		await expect(tryArchiving(context, { mailbox: 'Office', before: '2021', folder: 'Nowhere' })).rejects.toThrow(
			'no folder'
		);
		await expect(tryArchiving(context, { mailbox: 'Office', before: 'soon' })).rejects.toThrow('no date');
		await expect(tryArchiving(context, { mailbox: 'Nobody', before: '2021' })).rejects.toThrow('no mailbox');
	});

	it('does nothing where the mailbox has changed since the draft', async () => {
		const context = await office();
		const draft = await prepareArchiving(context, { mailbox: 'Office', before: '2021-01-01' });
		expect(await showDocket(context, { id: draft.id })).toMatchObject({ changed: '' });
		await importMailbox(context, { path: mboxFile([letter('Late', OLD)]), mailbox: 'Office' });
		expect((await showDocket(context, { id: draft.id })).changed).toMatch(
			/it meant 10 messages \(.*\), now it means 11 \(/
		);
		await expect(carryOut(context, { id: draft.id, expected: draft })).rejects.toThrow(
			/it meant 10 messages \(.*\), now it means 11 \(/
		);
		expect(await states(context)).toEqual({ live: 16 });
		expect(await showDocket(context, { id: draft.id })).toMatchObject({ state: 'drafted', messages: 11, changed: '' });
	});

	it('says in the ledger what was done, without lines that changed nothing', async () => {
		const context = await office();
		const none = {
			decision: 'archive' as const,
			options: {},
			scope: { kind: 'query' as const, query: 'zzzz', label: '' }
		};
		const some = { ...none, scope: { ...none.scope, query: 'ramp' } };
		const draft = await prepareDocket(context, { mailboxId: 1, lines: [none, some] });
		await carryOut(context, { id: draft.id });
		const [line] = await listLedger(context.db);
		expect(line?.details).toMatchObject({ what: expect.stringMatching(/^Archived \d+ messages[^.]*\([^)]*\)\.$/) });
		await takeBack(context, { id: draft.id });
		const [back] = await listLedger(context.db);
		expect(back?.details).toMatchObject({ what: expect.stringMatching(/^Archived/) });
	});

	it('leaves what was changed since, when it takes back', async () => {
		const context = await office();
		const draft = await prepareArchiving(context, { mailbox: 'Office', before: '2021-01-01' });
		await carryOut(context, { id: draft.id });
		const { hits } = await find(context, { query: 'ramp', states: ['archived'], limit: 2 });
		expect(await restore(context, { ids: hits.map(({ id }) => id) })).toMatchObject({ restored: 2, left: [] });
		expect(await takeBack(context, { id: draft.id })).toMatchObject({
			messages: 8,
			left: [{ reason: 'changed', messages: 2 }]
		});
		expect(await states(context)).toEqual({ live: 15 });
	});

	it('a later docket taken back leaves the earlier one to be taken back', async () => {
		const context = await office();
		const first = await prepareArchiving(context, { mailbox: 'Office', before: '2021-01-01' });
		await carryOut(context, { id: first.id });
		const { hits } = await find(context, { query: 'ramp', states: ['archived'], limit: 2 });
		const { dockets } = await restore(context, { ids: hits.map(({ id }) => id) });
		await takeBack(context, { id: dockets[0] as number });
		expect(await takeBack(context, { id: first.id })).toMatchObject({ messages: 10, left: [] });
	});

	it('restores to the folder it came from with date, flags and read state, making the folder again', async () => {
		const context = await office();
		const before = await rows(
			context.db,
			sql`SELECT id, folder_id, received_at, received_on, seen, flagged, bytes FROM item ORDER BY id`
		);
		await carryOut(context, { id: (await prepareArchiving(context, { mailbox: 'Office', before: '2021-01-01' })).id });
		await change(
			context.db,
			sql`UPDATE folder SET removed_at = '2026-01-01' WHERE tree = 'mailbox' AND path LIKE 'Projects%'`
		);
		const { hits } = await find(context, { query: '', states: ['archived'], limit: 100 });
		expect(await restore(context, { ids: hits.map(({ id }) => id) })).toMatchObject({ restored: 10, left: [] });
		expect(
			await rows(
				context.db,
				sql`SELECT id, folder_id, received_at, received_on, seen, flagged, bytes FROM item ORDER BY id`
			)
		).toEqual(before);
		expect((await weighMailbox(context, { mailboxId: 1 })).folders.map(({ path }) => path)).toContain(
			'Projects/Slipway'
		);
	});

	it('says which numbers it cannot restore, and why', async () => {
		const context = await office();
		expect(await restore(context, { ids: [1, 2, 9_999] })).toMatchObject({
			restored: 0,
			unknown: 1,
			left: [{ reason: 'live', messages: 2 }]
		});
		await expect(restore(context, { ids: [9_999] })).rejects.toThrow('no such messages');
	});

	it('collects decisions on one docket; another date for the same folder takes the place of the first', async () => {
		const context = await office();
		const first = await decideArchiving(context, { mailbox: 'Office', before: '2021' });
		const second = await decideArchiving(context, { mailbox: 'Office', before: '2019' });
		expect(second).toMatchObject({ id: first.id, messages: 0, lines: [{ messages: 0 }] });
		const other = await decideArchiving(actingAs(context, administratorNamed('somebody else')), {
			mailbox: 'Office',
			before: '2021'
		});
		expect(other.id).not.toBe(first.id);
		await discardDocket(context, { id: second.id });
		expect((await showSlip(context, { mailboxId: 1, others: 5 })).docket).toBeUndefined();
		await expect(carryOut(context, { id: first.id })).rejects.toThrow('dropped already');
	});
});

describe('finding and reading', () => {
	it.each<[string, number]>([
		['ramp', 6],
		['reservation', 6],
		['RÉSERVATION number', 6],
		['"number 3"', 1],
		['subject:"ramp 3"', 1],
		['from:tove', 15],
		['from:skerryline.example quay', 5],
		['since:2021', 5],
		['before:2020-02-03', 0],
		['before:2020-02-04', 10],
		['since:2020-02-03 before:2020-02-04', 10],
		['qua*', 5],
		['qua', 0],
		["'; DROP TABLE item; --", 0]
	])('%s finds %d', async (query, total) => {
		const context = await office();
		expect((await find(context, { query, limit: 1 })).total).toBe(total);
	});

	it('does not change the read state of a message (invariant 3)', async () => {
		const context = await office();
		const before = await rows(context.db, sql`SELECT id, seen FROM item ORDER BY id`);
		const { hits } = await find(context, { query: 'slip', limit: 1 });
		expect(await readMessage(context, { id: hits[0]?.id ?? 0 })).toMatchObject({ text: 'Words.' });
		expect(await rows(context.db, sql`SELECT id, seen FROM item ORDER BY id`)).toEqual(before);
		await expect(readHtml(context, { id: hits[0]?.id ?? 0 })).rejects.toThrow('no HTML');
		await expect(readMessage(context, { id: 9_999 })).rejects.toThrow('no message');
	});

	it('puts sorted pages together without a gap', async () => {
		const context = await office();
		const all = (await find(context, { query: '', sort: 'oldest', limit: 100 })).hits.map(({ id }) => id);
		const paged: number[] = [];
		for (let offset = 0; offset < 15; offset += 4)
			paged.push(...(await find(context, { query: '', sort: 'oldest', limit: 4, offset })).hits.map(({ id }) => id));
		expect(paged).toEqual(all);
		expect(all.length).toBe(15);
	});
});

describe('exporting', () => {
	it('writes the bytes that came in, in the folders where they lie', async () => {
		const context = await office();
		const out = path.join(temporaryFolder(), 'out');
		const result = await exportMail(context, { mailbox: 'Office', format: 'eml', out });
		expect(result.written).toBe(15);
		const written = readdirSync(out, { recursive: true, withFileTypes: true }).filter(
			(entry) => entry.isFile() && entry.name.endsWith('.eml')
		);
		const hashes = written
			.map((entry) =>
				createHash('sha256')
					.update(readFileSync(path.join(entry.parentPath, entry.name)))
					.digest('hex')
			)
			.sort();
		const stored = await rows<{ sha: string }>(
			context.db,
			sql`SELECT lower(hex(sha256)) AS sha FROM content ORDER BY 1`
		);
		expect(hashes).toEqual(stored.map(({ sha }) => sha));
		await expect(exportMail(context, { mailbox: 'Office', format: 'eml', out })).rejects.toThrow('not empty');
		expect(
			await exportMail(context, { mailbox: 'Office', query: 'quay', format: 'eml', out: path.join(out, 'quay') })
		).toMatchObject({ written: 5 });
	});
});
