import { formerSubject } from '../../../core/threads/base-subject.ts';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { type ThreadNode, threadsOf } from '../../../core/threads/thread.ts';
import { closeParsePool } from './reading/parse-pool.ts';
import { readContent } from './contents-store.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { itemsOfThreads, threadIds } from './threads-store.ts';
import { filledOffice } from '../testing/filled-office.ts';
import { type AnsweredThread, hasImapServer, ImapServer, readThreadAnswer } from '../testing/imap-server.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { find } from '../find/find.ts';
import { listLots } from '../lots/lots.ts';
import { destroy } from '../testing/small-office.ts';

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

/** The threads of all mail by RFC 5256 alone, subjects joined as it says. */
async function referencesTrees(context: Context): Promise<Tree[]> {
	const items = await itemsOfThreads(context.db, await threadIds(context.db, 1, 0, 1e6));
	return inOrder(threadsOf(items.sort((a, b) => a.id - b.id)).map(ours));
}

/** The stored threads of a mailbox: the items of each. */
async function storedThreads(context: Context): Promise<number[][]> {
	const found = await rows<{ ids: string }>(
		context.db,
		sql`SELECT group_concat(id) AS ids FROM item WHERE state IN ('live', 'archived') GROUP BY thread_id`
	);
	return found.map(({ ids }) => ids.split(',').map(Number));
}

async function* messagesOf(context: Context, items: readonly { contentId: number }[]): AsyncGenerator<Buffer> {
	for (const { contentId } of items) {
		const bytes = (await readContent(context.db, contentId)) as Buffer;
		// the mbox line before a message is no part of it
		yield bytes.subarray(bytes.subarray(0, 5).toString('latin1') === 'From ' ? bytes.indexOf(10) + 1 : 0);
	}
}

/** The IMAP server's answers to THREAD=REFERENCES and THREAD=REFS on the same mail in the same order. */
async function serverTrees(context: Context): Promise<{ references: Tree[]; refs: Tree[] }> {
	const server = await ImapServer.start(temporaryFolder(), onTestFinished, { format: 'sdbox' });
	const items = await rows<{ id: number; contentId: number }>(
		context.db,
		sql`SELECT item.id, content_id AS contentId FROM item JOIN message ON message.id = item.message_id
		 WHERE state IN ('live', 'archived') ORDER BY item.id`
	);
	await server.append('INBOX', messagesOf(context, items));
	await server.command('SELECT INBOX');
	const [references, refs] = [
		await server.command('THREAD REFERENCES UTF-8 ALL'),
		await server.command('THREAD REFS UTF-8 ALL')
	];
	await server.stop();
	const ids = items.map(({ id }) => id);
	const trees = (answer: string) => inOrder(readThreadAnswer(answer).map((thread) => theirs(thread, ids)));
	return { references: trees(references), refs: trees(refs) };
}

const idsIn = ([number, ...below]: Tree): number[] => [...(number ? [number] : []), ...below.flatMap(idsIn)];
/* Whether each of some groups lies whole in one of others, beside those that named their former subject. */
function expectWithin(groups: readonly number[][], others: readonly number[][], renamed = new Set<number>()): void {
	const of = new Map(others.flatMap((ids, at) => ids.map((id) => [id, at])));
	for (const ids of groups) {
		const joined = ids.filter((id) => renamed.has(id)).length;
		const spread = new Set(ids.map((id) => of.get(id))).size;
		expect([ids, spread <= 1 + joined]).toEqual([ids, true]);
	}
}

/* Mail without links whose subject names its former one: it joins by that, which RFC 5256 does not know. */
async function renamedIn({ db }: Context): Promise<Set<number>> {
	const found = await rows<{ id: number; subject: string }>(
		db,
		sql`SELECT item.id, subject FROM item JOIN message ON message.id = item.message_id WHERE reference_ids = '[]'`
	);
	return new Set(found.filter(({ subject }) => formerSubject(subject) !== undefined).map(({ id }) => id));
}

describe('threads beside those of an IMAP server (Debian dovecot-imapd: RFC 5256 THREAD=REFERENCES, and its extension REFS)', () => {
	it.runIf(hasImapServer()).each([
		['lists', 250],
		['python', 1],
		['enmime', 0],
		['demo', 25]
	] as const)('%s', async (mail, several) => {
		const context = await filledOffice(mail);
		const server = await serverTrees(context);
		const written = (trees: Tree[]) => trees.map((tree) => JSON.stringify(tree));
		expect(written(await referencesTrees(context))).toEqual(written(server.references));
		// what refers to each other is never divided, and a subject joins no more than RFC 5256 lets it
		const stored = await storedThreads(context);
		expectWithin(stored, server.references.map(idsIn), await renamedIn(context));
		expectWithin(server.refs.map(idsIn), stored);
		expect(stored.flat().length).toBe(server.refs.flatMap(idsIn).length);
		// the check is not empty: there are threads of several messages
		expect(stored.filter((ids) => ids.length > 1).length).toBeGreaterThanOrEqual(several);
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

	it('joins an answer without links whose subject names the former one', async () => {
		const context = await openOffice();
		const renamed = letter('Fares in winter (was: Ramp)', 'Tue, 03 Mar 2020 10:00:00 +0000');
		await importMailbox(context, { path: mboxFile([...mail.slice(0, 1), renamed]), mailbox: 'All' });
		expect(await storedThreads(context)).toEqual([[1, 2]]);
	});

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

describe('a conversation', () => {
	const day = (n: number) => new Date(Date.UTC(2024, 0, 1 + n, 10)).toUTCString().replace('GMT', '+0000');
	const from = (n: number) => `Person ${n} <person${n}@people.example>`;
	const withId = (text: string, id: string) => text.replace(/Message-ID: <.*>/, `Message-ID: <${id}@x.example>`);
	const threads = ({ db }: Context) =>
		rows<{ title: string; n: number }>(
			db,
			sql`SELECT title, count(*) AS n FROM thread JOIN item ON item.thread_id = thread.id GROUP BY thread.id ORDER BY 2 DESC, 1`
		);

	it('is not made of what only shares a subject: seventy letters of one title are seventy threads', async () => {
		const context = await openOffice();
		const letters = Array.from({ length: 70 }, (_, n) =>
			withId(letter('Your letter', day(n), 'Words.', from(n)), `letter${n}`)
		);
		const answers = [3, 40].map((n) =>
			withId(letter('Re: Your letter', day(n + 9), 'An answer.', from(n)), `answer${n}`)
		);
		await importMailbox(context, { path: mboxFile([...letters, ...answers]), mailbox: 'All' });
		const found = await threads(context);
		expect(found).toHaveLength(70);
		// named as it was written, not in capitals
		expect(found.slice(0, 3)).toEqual([
			{ title: 'Your letter', n: 2 },
			{ title: 'Your letter', n: 2 },
			{ title: 'Your letter', n: 1 }
		]);
		// every thread is found by its number, whole
		const numbered = await rows<{ id: number; n: number }>(
			context.db,
			sql`SELECT thread_id AS id, count(*) AS n FROM item GROUP BY 1 ORDER BY 2 DESC LIMIT 5`
		);
		for (const { id, n } of numbered) {
			const hits = await find(context, { query: `thread:${id}`, states: ['live'], limit: 9, offset: 0 });
			expect(hits.total).toBe(n);
		}
		const { lots } = await listLots(context, { mailboxId: 1, by: 'thread', limit: 100 });
		expect([lots.length, lots[0]?.label]).toEqual([70, 'Your letter']);
	});

	it('is the same in whatever pieces the mail comes in, an answer before its letter among them', async () => {
		const all = Array.from({ length: 24 }, (_, n) => {
			const isAnswer = n % 3 !== 0;
			return withId(letter(isAnswer ? 'Re: Ramp' : 'Ramp', day(n * 11), `Words ${n}.`, from(n % 4)), `m${n}`);
		});
		const groups = async ({ db }: Context) =>
			(
				await rows<{ ids: string }>(
					db,
					sql`SELECT group_concat(message.message_id, ' ' ORDER BY message.message_id) AS ids FROM item
					 JOIN message ON message.id = item.message_id GROUP BY thread_id ORDER BY 1`
				)
			).map(({ ids }) => ids);
		const whole = await openOffice();
		await importMailbox(whole, { path: mboxFile(all), mailbox: 'All' });
		const expected = await groups(whole);
		expect(expected.some((ids) => ids.includes(' '))).toBe(true);
		const reversed = await openOffice();
		for (const from of [16, 8, 0])
			await importMailbox(reversed, { path: mboxFile(all.slice(from, from + 8).reverse()), mailbox: 'All' });
		expect(await groups(reversed)).toEqual(expected);
	});

	it('keeps no word of a message that was destroyed, and is named by what is left', async () => {
		const context = await openOffice();
		const answer = withId(letter('Fenders', day(1), 'Other words.'), 'f').replace(
			'\n\n',
			'\nReferences: <root@x.example>\n\n'
		);
		await importMailbox(context, {
			path: mboxFile([withId(letter('Zanzibar plan', day(0), 'Words.'), 'root'), answer]),
			mailbox: 'Office'
		});
		expect(await threads(context)).toEqual([{ title: 'Zanzibar plan', n: 2 }]);
		await destroy(context, 'Zanzibar plan');
		expect(await threads(context)).toEqual([{ title: 'Fenders', n: 1 }]);
		expect(await rows(context.db, sql`SELECT subject FROM thread`)).toEqual([{ subject: 'FENDERS' }]);
	});
});
