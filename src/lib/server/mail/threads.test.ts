import { afterAll, describe, expect, it } from 'vitest';
import { type ThreadNode, threadsOf } from '../../../core/threads/thread.ts';
import { closeParsePool } from './parse-pool.ts';
import { readContent } from './contents-store.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { itemsOfThreads, type ThreadItem, threadIds } from './threads-store.ts';
import { CORPORA } from '../testing/corpora.ts';
import { type AnsweredThread, hasImapServer, ImapServer, readThreadAnswer } from '../testing/imap-server.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { demoFolder } from '../testing/demo-mail.ts';

afterAll(closeParsePool);

/* A tree in canonical form: messages by number, children in the order of numbers. 0: a placeholder. */
type Tree = [number, ...Tree[]];
const least = ([number, ...below]: Tree): number => Math.min(number || Infinity, ...below.map(least));
const inOrder = (trees: Tree[]) => trees.sort((a, b) => least(a) - least(b));
const ours = ({ message, children }: ThreadNode): Tree => [message?.id ?? 0, ...inOrder(children.map(ours))];
const theirs = ({ number, children }: AnsweredThread, ids: readonly number[]): Tree => [
	number === undefined ? 0 : (ids[number - 1] as number),
	...inOrder(children.map((child) => theirs(child, ids)))
];

/** The stored threads of a mailbox. */
async function storedTrees(context: Context): Promise<Tree[]> {
	const byThread = new Map<number, ThreadItem[]>();
	for (const item of await itemsOfThreads(context.db, await threadIds(context.db, 1, 0, 1e6)))
		byThread.set(item.threadId, [...(byThread.get(item.threadId) ?? []), item]);
	return inOrder([...byThread.values()].flatMap((items) => threadsOf(items).map(ours)));
}

async function* messagesOf(context: Context, items: readonly { contentId: number }[]): AsyncGenerator<Buffer> {
	for (const { contentId } of items) {
		const bytes = (await readContent(context.db, contentId)) as Buffer;
		// the mbox line before a message is no part of it
		yield bytes.subarray(bytes.subarray(0, 5).toString('latin1') === 'From ' ? bytes.indexOf(10) + 1 : 0);
	}
}

/** The IMAP server's answer to THREAD=REFERENCES on the same mail in the same order. */
async function serverTrees(context: Context): Promise<Tree[]> {
	const server = await ImapServer.start();
	const items = await rows<{ id: number; contentId: number }>(
		context.db,
		sql`SELECT item.id, content_id AS contentId FROM item JOIN message ON message.id = item.message_id
		 WHERE state IN ('live', 'archived') ORDER BY item.id`
	);
	await server.append('INBOX', messagesOf(context, items));
	await server.command('SELECT INBOX');
	const answer = await server.command('THREAD REFERENCES UTF-8 ALL');
	await server.stop();
	const ids = items.map(({ id }) => id);
	return inOrder(readThreadAnswer(answer).map((thread) => theirs(thread, ids)));
}

describe('threads equal to an IMAP server (Debian dovecot-imapd, RFC 5256 THREAD=REFERENCES)', () => {
	it.runIf(hasImapServer()).each([
		['lists', CORPORA.lists, 250],
		['python', CORPORA.python, 1],
		['enmime', CORPORA.enmime, 1],
		['the demo', undefined, 25]
	])('%s', { timeout: 120_000 }, async (_name, source, several) => {
		const context = await openOffice();
		const folder = source ?? demoFolder();
		// one folder, so that equal bytes are one message on both sides
		await importMailbox(context, { path: folder, mailbox: 'All' });
		const [mine, server] = [await storedTrees(context), await serverTrees(context)];
		const written = (trees: Tree[]) => trees.map((tree) => JSON.stringify(tree));
		expect(written(mine)).toEqual(written(server));
		// the check is not empty: there are threads of several messages
		expect(mine.filter(([, ...below]) => below.length > 0).length).toBeGreaterThanOrEqual(several);
	});
});

describe('threading new mail', () => {
	const mail = [
		letter('Ramp', 'Mon, 02 Mar 2020 10:00:00 +0000'),
		letter('Re: Ramp', 'Mon, 02 Mar 2020 11:00:00 +0000').replace('\n\n', '\nReferences: <Ramp@x.example>\n\n'),
		letter('Other', 'Mon, 02 Mar 2020 12:00:00 +0000'),
		letter('Third', 'Mon, 02 Mar 2020 13:00:00 +0000').replace(
			'\n\n',
			'\nReferences: <missing@x.example> <Other@x.example>\n\n'
		),
		letter('Fourth', 'Mon, 02 Mar 2020 14:00:00 +0000').replace('\n\n', '\nIn-Reply-To: <ReRamp@x.example>\n\n'),
		letter('[Ferry] Re: Ramp (fwd)', 'Tue, 03 Mar 2020 10:00:00 +0000'),
		letter('', 'Tue, 03 Mar 2020 11:00:00 +0000').replace('<@x.example>', '<empty1@x.example>'),
		letter('', 'Tue, 03 Mar 2020 12:00:00 +0000').replace('<@x.example>', '<empty2@x.example>')
	];

	it('gives the same threads in whatever pieces and order the mail comes in', async () => {
		const whole = await openOffice();
		await importMailbox(whole, { path: mboxFile(mail), mailbox: 'All' });
		const ids = async (context: Context) => {
			const found = await rows<{ ids: string }>(
				context.db,
				sql`SELECT group_concat(message.message_id, ' ' ORDER BY message.message_id) AS ids FROM item
				 JOIN message ON message.id = item.message_id GROUP BY thread_id ORDER BY 1`
			);
			return found.map((thread) => thread.ids);
		};
		const expected = await ids(whole);
		expect(expected).toEqual([
			'<FerryReRampfwd@x.example> <Fourth@x.example> <Ramp@x.example> <ReRamp@x.example>',
			'<Other@x.example> <Third@x.example>',
			'<empty1@x.example>',
			'<empty2@x.example>'
		]);
		for (const order of [
			[4, 3, 2, 1, 0, 7, 6, 5],
			[5, 4, 0, 6, 3, 7, 1, 2]
		]) {
			const context = await openOffice();
			for (const at of order) await importMailbox(context, { path: mboxFile([mail[at] as string]), mailbox: 'All' });
			expect(await ids(context)).toEqual(expected);
		}
	});

	it('asks the tables by what it looks for, not by all that is there', async () => {
		const { db } = await openOffice();
		const { referenceSets, itemsOfThreads } = await import('./threads-store.ts');
		const plans: string[] = [];
		const asked = db.raw.bind(db);
		const planned = {
			raw: async (sql: string, bindings: never) => {
				const plan = (await asked(`EXPLAIN QUERY PLAN ${sql}`, bindings)) as { detail: string }[];
				plans.push(plan[0]?.detail ?? '');
				return asked(sql, bindings);
			}
		} as unknown as typeof db;
		await referenceSets(planned, 1, [1]);
		await itemsOfThreads(planned, [1]);
		for (const plan of plans) expect(plan).toMatch(/^SCAN wanted VIRTUAL TABLE/);
		expect(plans.length).toBe(2);
	});

	it('looks only at what the new mail refers to, and notes when a message was answered', async () => {
		const context = await openOffice();
		await importMailbox(context, { path: mboxFile(mail.slice(0, 4)), mailbox: 'All' });
		await rows(context.db, sql`UPDATE item SET reference_set = -id WHERE id = 3`); // a set that must not be looked at again
		await importMailbox(context, { path: mboxFile(mail.slice(4, 5)), mailbox: 'All' });
		expect(await rows(context.db, sql`SELECT reference_set AS "set" FROM item WHERE id = 3`)).toEqual([{ set: -3 }]);
		expect(
			await rows(context.db, sql`SELECT id, answered_on AS "on" FROM item WHERE answered_on IS NOT NULL ORDER BY id`)
		).toEqual([
			{ id: 1, on: '2020-03-02' },
			{ id: 2, on: '2020-03-02' },
			{ id: 3, on: '2020-03-02' }
		]);
	});
});
