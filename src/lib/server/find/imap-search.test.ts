import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import fc from 'fast-check';
import type { MessageOrder } from '../../../core/search/orders.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { hasImapServer, ImapServer } from '../testing/imap-server.ts';
import { openOffice, temporaryFolder } from '../testing/office.ts';
import { decideMessages } from './decide-messages.ts';
import { find } from './find.ts';

afterAll(closeParsePool);

/*
 * Search and sort order beside those of an IMAP server (Debian dovecot-imapd: RFC 9051 SEARCH, RFC 5256 SORT), where both
 * have the key. The words are such that none is a part of another: SEARCH compares parts of words, Kovrel whole ones.
 */

const WORDS = ['ramp', 'quay', 'fender', 'winch', 'lantern'];
const PEOPLE = [
	'tove@skerryline.example',
	'kjell@slipworks.example',
	'ann-mari@slipworks.example',
	'ann@slipworks.example',
	'Bo.Ek@quay.example'
];
const MESSAGES = 150;

const at = <T>(all: readonly T[], n: number) => all[n % all.length] as T;
const DAYS = ['2019-12-31', '2020-01-01', '2020-02-29', '2024-06-15', '2026-03-01'];

function bytes(n: number): Buffer {
	const date = new Date(`${at(DAYS, n * 7)}T${String(n % 24).padStart(2, '0')}:0${n % 6}:00Z`);
	const subject = `${n % 4 === 0 ? 'Re: ' : n % 9 === 0 ? '[crew] ' : ''}${at(WORDS, n * 3)} ${at(['plan', 'Plan', 'list'], n)} ${n % 12}`;
	const lines = [
		`From: Person ${n % 5} <${at(PEOPLE, n)}>`,
		`To: ${at(PEOPLE, n + 1)}`,
		...(n % 3 === 0 ? [`Cc: ${at(PEOPLE, n + 2)}`] : []),
		`Subject: ${subject}`,
		`Date: ${date.toUTCString().replace('GMT', '+0000')}`,
		`Message-ID: <m${n}@x.example>`,
		'Content-Type: text/plain; charset=utf-8',
		'',
		`About the ${at(WORDS, n * 5 + 1)}.`,
		...Array.from({ length: (n * 13) % 40 }, (_, line) => `Line ${line} of it.`)
	];
	return Buffer.from(`${lines.join('\r\n')}\r\n`);
}

const sentAt = (number: number) => /^Date: (.*)$/m.exec(bytes(number - 1).toString())?.[1];

const FLAGS: [flag: string, isSet: (n: number) => boolean][] = [
	['\\Flagged', (n) => n % 5 === 0],
	['\\Seen', (n) => n % 2 === 0],
	['berth', (n) => n % 11 === 0]
];

async function both(): Promise<{ context: Context; server: ImapServer; numberOf: Map<number, number> }> {
	const context = await openOffice();
	const folder = path.join(temporaryFolder(), 'mail');
	mkdirSync(folder);
	for (let n = 0; n < MESSAGES; n++) writeFileSync(path.join(folder, `${String(n).padStart(4, '0')}.eml`), bytes(n));
	await importMailbox(context, { path: folder, mailbox: 'Office' });
	const stored = await rows<{ id: number; n: number }>(
		context.db,
		sql`SELECT item.id, cast(substr(message.message_id, 3) AS INTEGER) AS n FROM item JOIN message ON message.id = item.message_id`
	);
	// a number of the server's is the message's place in this file, from 1
	const numberOf = new Map(stored.map(({ id, n }) => [id, n + 1]));
	const idsWhere = (isMeant: (n: number) => boolean) => stored.filter(({ n }) => isMeant(n)).map(({ id }) => id);
	const decide = (decision: 'flag' | 'read' | 'unread' | 'tag', ids: number[], options = {}) =>
		Promise.all([
			decideMessages(context, { ids: ids.slice(0, 100), decision, options }),
			ids.length > 100 ? decideMessages(context, { ids: ids.slice(100), decision, options }) : undefined
		]);
	const [flagged, seen, tagged] = FLAGS.map(([, isSet]) => idsWhere(isSet)) as [number[], number[], number[]];
	await decide('flag', flagged);
	await decide('read', seen);
	await decide(
		'unread',
		idsWhere((n) => n % 2 !== 0)
	);
	await decide('tag', tagged, { tag: 'berth' });

	const server = await ImapServer.start(temporaryFolder(), onTestFinished);
	await server.append(
		'INBOX',
		Array.from({ length: MESSAGES }, (_, n) => bytes(n))
	);
	await server.command('SELECT INBOX');
	for (const [flag, isSet] of FLAGS) {
		const numbers = Array.from({ length: MESSAGES }, (_, n) => n + 1).filter((number) => isSet(number - 1));
		await server.command(`STORE ${numbers.join(',')} +FLAGS.SILENT (${flag})`);
	}
	return { context, server, numberOf };
}

const numbersIn = (answer: string, command: 'SEARCH' | 'SORT') =>
	(new RegExp(`^\\* ${command}([ \\d]*)`, 'm').exec(answer)?.[1] ?? '').split(' ').filter(Boolean).map(Number);

async function ours(context: Context, query: string, sort: MessageOrder = 'oldest'): Promise<number[]> {
	const { hits } = await find(context, { query, mailbox: 1, states: ['live'], sort, limit: MESSAGES, offset: 0 });
	return hits.map(({ id }) => id);
}

/* A search in both languages. */
interface Asked {
	kovrel: string;
	imap: string;
}
const imapDay = (day: string) =>
	`${Number(day.slice(8))}-${['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'][Number(day.slice(5, 7)) - 1]}-${day.slice(0, 4)}`;
const one = fc.oneof(
	fc.constantFrom(...WORDS).map((word) => ({ kovrel: `subject:${word}`, imap: `SUBJECT ${word}` })),
	fc.constantFrom(...WORDS).map((word) => ({ kovrel: `body:${word}`, imap: `BODY ${word}` })),
	fc.constantFrom('tove', 'kjell').map((word) => ({ kovrel: `from:${word}`, imap: `FROM ${word}` })),
	fc.constantFrom('tove', 'kjell').map((word) => ({ kovrel: `to:${word}`, imap: `TO ${word}` })),
	fc.constantFrom('tove', 'kjell').map((word) => ({ kovrel: `cc:${word}`, imap: `CC ${word}` })),
	fc.constantFrom(...DAYS).map((day) => ({ kovrel: `since:${day}`, imap: `SENTSINCE ${imapDay(day)}` })),
	fc.constantFrom(...DAYS).map((day) => ({ kovrel: `before:${day}`, imap: `SENTBEFORE ${imapDay(day)}` })),
	fc.constantFrom(...DAYS).map((day) => ({ kovrel: `on:${day}`, imap: `SENTON ${imapDay(day)}` })),
	fc.constantFrom(300, 500, 700, 900).map((size) => ({ kovrel: `larger:${size}`, imap: `LARGER ${size}` })),
	fc.constantFrom(300, 500, 700, 900).map((size) => ({ kovrel: `smaller:${size}`, imap: `SMALLER ${size}` })),
	fc.constant({ kovrel: 'flagged', imap: 'FLAGGED' }),
	fc.constant({ kovrel: 'unread', imap: 'UNSEEN' }),
	fc.constant({ kovrel: 'tag:berth', imap: 'KEYWORD berth' })
);
/*
 * Dovecot 2.3 makes one test of two of a kind, or of one that is asked and negated, and is wrong about it once they are
 * negated: they are not asked together.
 */
const KINDS = [/SENT/, /LARGER|SMALLER/, /FLAGGED|UNSEEN/, /KEYWORD/];
const TEXTS = /(SUBJECT|BODY|FROM|TO|CC) \w+/g;
const areApart = ([a, b]: [Asked, Asked]) =>
	KINDS.every((kind) => !(kind.test(a.imap) && kind.test(b.imap))) &&
	(a.imap.match(TEXTS) ?? []).every((text) => !b.imap.includes(text));

const { asked } = fc.letrec<{ asked: Asked }>((tie) => ({
	asked: fc.oneof(
		{ depthSize: 'small' },
		one,
		tie('asked').map(({ kovrel, imap }) => ({ kovrel: `not (${kovrel})`, imap: `NOT (${imap})` })),
		fc
			.tuple(tie('asked'), tie('asked'))
			.filter(areApart)
			.map(([a, b]) => ({ kovrel: `(${a.kovrel} ${b.kovrel})`, imap: `(${a.imap} ${b.imap})` })),
		fc
			.tuple(tie('asked'), tie('asked'))
			.filter(areApart)
			.map(([a, b]) => ({ kovrel: `(${a.kovrel} or ${b.kovrel})`, imap: `OR (${a.imap}) (${b.imap})` }))
	)
}));

describe.runIf(hasImapServer())('beside an IMAP server', () => {
	it('a search finds what SEARCH finds, for generated questions', async () => {
		const { context, server, numberOf } = await both();
		let found = 0;
		await fc.assert(
			fc.asyncProperty(asked, async ({ kovrel, imap }) => {
				const theirs = numbersIn(await server.command(`SEARCH ${imap}`), 'SEARCH');
				const mine = (await ours(context, kovrel)).map((id) => numberOf.get(id) as number);
				found += theirs.length;
				expect([kovrel, mine.sort((a, b) => a - b)]).toEqual([kovrel, theirs.sort((a, b) => a - b)]);
			}),
			{ numRuns: 100 }
		);
		expect(found).toBeGreaterThan(500);
		await server.stop();
	});

	/* In an order of ours, the server's own order of the same key must not go back: ties are ours to break. */
	it('each order is that of SORT, ties aside', async () => {
		const ORDERS: [MessageOrder, string][] = [
			['oldest', 'DATE'],
			['newest', 'REVERSE DATE'],
			['largest', 'REVERSE SIZE'],
			['smallest', 'SIZE'],
			['subject', 'SUBJECT'],
			['subject-last', 'REVERSE SUBJECT'],
			['sender', 'FROM'],
			['sender-last', 'REVERSE FROM']
		];
		const { context, server, numberOf } = await both();
		const places = async (keys: string) => {
			const numbers = numbersIn(await server.command(`SORT (${keys}) UTF-8 ALL`), 'SORT');
			return new Map(numbers.map((number, place) => [number, place]));
		};
		for (const [order, key] of ORDERS) {
			// two messages are tied where the second order turns them round, or where they were sent at the same time
			const both = [await places(`${key} DATE`), await places(`${key} REVERSE DATE`)];
			const mine = (await ours(context, '', order)).map((id) => numberOf.get(id) as number);
			expect(mine).toHaveLength(MESSAGES);
			for (const [n, number] of mine.slice(0, -1).entries()) {
				const next = mine[n + 1] as number;
				const isBefore = both.some((of) => (of.get(number) as number) < (of.get(next) as number));
				expect([order, number, next, isBefore || sentAt(number) === sentAt(next)]).toEqual([order, number, next, true]);
			}
		}
		await server.stop();
	});
});
