import { writeFileSync } from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, describe, expect, it } from 'vitest';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { change } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { carryOut } from '../docket/carry-out.ts';
import type { Context } from '../context/context.ts';
import { find } from './find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { prepareArchiving } from '../archive/prepare-archiving.ts';

afterAll(closeParsePool);

const WORDS = ['ramp', 'Limit', 'réservation', 'quay', 'ramps', 'Ärger', 'slip'];
const PEOPLE = ['Tove Ås <tove@skerryline.example>', 'Kjell <kjell@slipworks.example>', 'quay@north.example'];
const FOLDERS = ['Inbox', 'Vessels', 'Vessels/MV Terne', 'Réclamations'];

interface Plain {
	subject: string;
	from: string;
	to: string;
	cc: string;
	text: string;
	quoted: string;
	file: string | undefined;
	folder: string;
	on: string;
	list: string;
	tags: string[];
	unread: boolean;
	flagged: boolean;
	bytes: number;
}

const plainMessage = fc.record({
	subject: fc.array(fc.constantFrom(...WORDS), { maxLength: 4 }).map((words) => words.join(' ')),
	from: fc.constantFrom(...PEOPLE),
	to: fc.constantFrom(...PEOPLE),
	cc: fc.constantFrom('', ...PEOPLE),
	text: fc.array(fc.constantFrom(...WORDS), { maxLength: 6 }).map((words) => words.join(' ')),
	quoted: fc.array(fc.constantFrom(...WORDS), { maxLength: 3 }).map((words) => words.join(' ')),
	file: fc.constantFrom(undefined, 'ramp plan.pdf', 'quay.png', 'roster.csv'),
	folder: fc.constantFrom(...FOLDERS),
	on: fc.constantFrom('2023-12-31', '2024-01-01', '2024-01-02', '2024-02-01'),
	tags: fc.uniqueArray(fc.constantFrom('berths', 'berths/4', 'trial'), { maxLength: 2 }),
	list: fc.constantFrom('', 'weekly.harbour.example', 'deals.deck.example'),
	unread: fc.boolean(),
	flagged: fc.boolean()
});

function compose(message: Omit<Plain, 'bytes'>, number: number): string {
	const file = message.file
		? `--b\nContent-Type: application/octet-stream\nContent-Disposition: attachment; filename="${message.file}"\n\nx\n`
		: '';
	return [
		`From: ${message.from}`,
		`To: ${message.to}`,
		...(message.cc ? [`Cc: ${message.cc}`] : []),
		`Subject: ${message.subject}`,
		`Date: ${new Date(`${message.on}T12:00:00Z`).toUTCString()}`,
		`Message-ID: <${number}@x.example>`,
		...(message.list ? [`List-Id: <${message.list}>`] : []),
		`Status: ${message.unread ? 'O' : 'RO'}`,
		...(message.flagged ? ['X-Status: F'] : []),
		'Content-Type: multipart/mixed; boundary=b',
		'',
		`--b\nContent-Type: text/plain; charset=utf-8\n\n${message.text}\n> ${message.quoted}\n${file}--b--\n`
	].join('\n');
}

/* An independent implementation: no index, no SQL; reads each message word by word. */
const divided = (text: string) =>
	text
		.normalize('NFD')
		.replace(/\p{M}/gu, '')
		.toLowerCase()
		.split(/[^\p{L}\p{N}]+/u)
		.filter(Boolean);
const hasPhrase = (text: string, phrase: string, prefix = false) => {
	const words = divided(text);
	const wanted = divided(phrase);
	return words.some((_, at) =>
		wanted.every((word, i) =>
			prefix && i === wanted.length - 1 ? (words[at + i] ?? '').startsWith(word) : words[at + i] === word
		)
	);
};
const fieldsOf = ({ subject, from, to, cc, text, quoted, file }: Plain) => [
	subject,
	from,
	to,
	cc,
	text,
	quoted,
	file ?? ''
];

interface Case {
	query: string;
	matches(message: Plain): boolean;
}

const someWord = fc.constantFrom(...WORDS, 'tove', 'north', 'plan');
const leaf: fc.Arbitrary<Case> = fc.oneof(
	someWord.map((word) => ({ query: word, matches: (m: Plain) => fieldsOf(m).some((field) => hasPhrase(field, word)) })),
	someWord.map((word) => ({
		query: `${word.slice(0, 3)}*`,
		matches: (m: Plain) => fieldsOf(m).some((field) => hasPhrase(field, word.slice(0, 3), true))
	})),
	fc.tuple(someWord, someWord).map(([a, b]) => ({
		query: `"${a} ${b}"`,
		matches: (m: Plain) => fieldsOf(m).some((field) => hasPhrase(field, `${a} ${b}`))
	})),
	fc
		.tuple(
			fc.constantFrom<['from' | 'to' | 'cc' | 'subject', keyof Plain]>(
				['from', 'from'],
				['to', 'to'],
				['cc', 'cc'],
				['subject', 'subject']
			),
			someWord
		)
		.map(([[key, field], word]) => ({
			query: `${key}:${word}`,
			matches: (m: Plain) => hasPhrase(String(m[field]), word)
		})),
	someWord.map((word) => ({
		query: `body:${word}`,
		matches: (m: Plain) => hasPhrase(m.text, word) || hasPhrase(m.quoted, word)
	})),
	fc
		.constantFrom('2023', '2024-01-01', '2024-01-02', '2024-02')
		.map((date) => ({ query: `since:${date}`, matches: (m: Plain) => m.on >= `${date}-01-01`.slice(0, 10) })),
	fc
		.constantFrom('2024', '2024-01-02', '2025')
		.map((date) => ({ query: `before:${date}`, matches: (m: Plain) => m.on < `${date}-01-01`.slice(0, 10) })),
	fc
		.constantFrom('2024-01-01', '2024-02-01')
		.map((date) => ({ query: `on:${date}`, matches: (m: Plain) => m.on === date })),
	fc.constantFrom(450, 500, 550).map((bytes) => ({ query: `larger:${bytes}`, matches: (m: Plain) => m.bytes > bytes })),
	fc
		.constantFrom(450, 500, 550)
		.map((bytes) => ({ query: `smaller:${bytes}`, matches: (m: Plain) => m.bytes < bytes })),
	fc.constant({ query: 'unread', matches: (m: Plain) => m.unread }),
	fc.constant({ query: 'flagged', matches: (m: Plain) => m.flagged }),
	// a folder is paused with those below; the pauses of single messages have ended, or end today
	fc.constant({ query: 'paused', matches: (m: Plain) => m.folder.startsWith('Vessels') }),
	fc.constant({ query: 'attachment:any', matches: (m: Plain) => m.file !== undefined }),
	fc.constant({ query: 'attachment:pdf', matches: (m: Plain) => m.file === 'ramp plan.pdf' }),
	fc.constantFrom('quay', 'QUAY', 'lan.pd', 'mp', 'p pl', 'y.p', 'ay*', '%', 'roster.csv').map((text) => ({
		query: `attachment:"${text}"`,
		matches: (m: Plain) => (m.file ?? '').includes(text.toLowerCase().replace('*', ''))
	})),
	fc.constantFrom('berths', 'Berths', 'berths/4', 'trial', 'berth').map((tag) => ({
		query: `tag:"${tag}"`,
		matches: (m: Plain) => m.tags.some((name) => name === tag.toLowerCase() || name.startsWith(`${tag.toLowerCase()}/`))
	})),
	fc.constant({ query: 'folder:vessels', matches: (m: Plain) => m.folder.startsWith('Vessels') }),
	fc.constant({ query: 'folder:"vessels/mv terne"', matches: (m: Plain) => m.folder === 'Vessels/MV Terne' }),
	fc.constant({ query: 'folder:reclamations', matches: (m: Plain) => m.folder === 'Réclamations' }),
	fc
		.constantFrom('harbour', 'deals.deck', 'weekly.harbour.example', '%')
		.map((text) => ({ query: `list:${text}`, matches: (m: Plain) => m.list.includes(text) })),
	fc
		.constantFrom('harbour', 'deals.deck.example')
		.map((text) => ({ query: `list:"=${text}"`, matches: (m: Plain) => m.list === text })),
	fc.constantFrom('slipworks.example', 'SKERRYLINE.example', 'works').map((text) => ({
		query: `organisation:${text}`,
		matches: (m: Plain) => m.from.includes(`@${text.toLowerCase()}`)
	})),
	fc.constantFrom('anna@slipworks.example', 'TOVE@skerryline.example', 'anna', 'none').map((text) => ({
		query: `address:${text}`,
		matches: (m: Plain) => m.from.endsWith(`<${text.toLowerCase()}>`) || (text === 'none' && !m.from.includes('@'))
	})),
	// half of it is archived (below): everything received before that day
	fc
		.constantFrom<[string, (m: Plain) => boolean]>(
			['live', ({ on }) => on >= '2024-01-02'],
			['archived', ({ on }) => on < '2024-01-02'],
			['binned', () => false]
		)
		.map(([state, matches]) => ({ query: `state:${state}`, matches })),
	fc
		.constantFrom('office', 'elsewhere')
		.map((name) => ({ query: `mailbox:${name}`, matches: () => name === 'office' })),
	fc.constant({ query: 'importance:normal', matches: () => true })
);

/* Incomplete last words of a query: the beginning of a word or a name, or an incomplete value. */
const begun: fc.Arbitrary<Case> = fc.oneof(
	fc.tuple(someWord, fc.integer({ min: 1, max: 6 })).map(([word, letters]) => ({
		query: word.slice(0, letters),
		matches: (m: Plain) => fieldsOf(m).some((field) => hasPhrase(field, word.slice(0, letters), true))
	})),
	fc.integer({ min: 1, max: 6 }).map((letters) => ({
		query: `tag:${'berths'.slice(0, letters)}`,
		matches: (m: Plain) => m.tags.some((name) => name.startsWith('berths'.slice(0, letters)))
	})),
	fc.integer({ min: 1, max: 7 }).map((letters) => ({
		query: `folder:${'Vessels'.slice(0, letters)}`,
		matches: (m: Plain) => m.folder.startsWith('Vessels')
	})),
	fc
		.constantFrom('since:20', 'before:2024-', 'larger:', 'state:arch', 'kind:n', 'from:', 'class:', 'or', 'not', '(')
		.map((query) => ({ query, matches: () => true })),
	fc.constant({ query: 'paused', matches: (m: Plain) => m.folder.startsWith('Vessels') }),
	fc.constantFrom('held', 'kept').map((query) => ({ query, matches: () => false })),
	fc.constant({ query: 'unread', matches: (m: Plain) => m.unread })
);

const anyQuery: fc.Arbitrary<Case> = fc.letrec<{ query: Case }>((tie) => ({
	query: fc.oneof(
		{ maxDepth: 3, withCrossShrink: true },
		leaf,
		tie('query').map((part) => ({ query: `not (${part.query})`, matches: (m: Plain) => !part.matches(m) })),
		fc
			.tuple(tie('query'), tie('query'))
			.map(([a, b]) => ({ query: `(${a.query}) (${b.query})`, matches: (m: Plain) => a.matches(m) && b.matches(m) })),
		fc
			.tuple(tie('query'), tie('query'))
			.map(([a, b]) => ({ query: `(${a.query}) or (${b.query})`, matches: (m: Plain) => a.matches(m) || b.matches(m) }))
	)
})).query;

async function filled(): Promise<{ context: Context; messages: Plain[] }> {
	const context = await openOffice();
	const messages: Plain[] = [];
	const made = fc.sample(plainMessage, { numRuns: 300, seed: 4711 });
	for (const folder of FOLDERS) {
		const here = made
			.map((message, number) => ({ message, number }))
			.filter(({ message }) => message.folder === folder);
		const file = path.join(temporaryFolder(), 'mail.mbox');
		const texts = here.map(({ message, number }) => compose(message, number));
		writeFileSync(file, texts.map((text) => `From a@b.example Thu Jan  1 00:00:00 1970\n${text}\n`).join(''));
		here.forEach(({ message }, at) => messages.push({ ...message, bytes: Buffer.byteLength(texts[at] ?? '') }));
		await importMailbox(context, { path: file, mailbox: 'Office', folder });
	}
	const { db } = context;
	await change(
		db,
		sql`INSERT INTO tag (id, name, name_key, colour) VALUES (1, 'berths', 'berths', ''), (2, 'Berths/4', 'berths/4', ''), (3, 'trial', 'trial', '')`
	);
	await change(
		db,
		sql`INSERT INTO item_tag SELECT item.id, tag.id FROM json_each(${JSON.stringify(made.flatMap(({ tags }, number) => tags.map((tag) => [`<${number}@x.example>`, tag])))}) given JOIN message ON message.message_id = given.value ->> 0
		 JOIN item ON item.message_id = message.id JOIN tag ON tag.name_key = given.value ->> 1`
	);
	await change(
		db,
		sql`INSERT INTO pause (id, mailbox_id, folder_id, until, because, made_by, made_at) SELECT 1, 1, id, '2027-01-01', 'x', 'x', '' FROM folder WHERE path = 'Vessels'
		 UNION ALL SELECT 2, 1, NULL, '2026-11-25', 'x', 'x', '' UNION ALL SELECT 3, 1, NULL, '2020-01-01', 'x', 'x', ''`
	);
	await change(db, sql`UPDATE item SET pause_id = 2 + (id % 2) WHERE flagged = 1`);
	// half of it is archived: the same queries give the same answers
	const draft = await prepareArchiving(context, { mailbox: 'Office', before: '2024-01-02' });
	await carryOut(context, { id: draft.id });
	return { context, messages };
}

describe('search against a scan of every message', () => {
	it('finds the same for 500 generated queries', async () => {
		const { context, messages } = await filled();
		await fc.assert(
			fc.asyncProperty(anyQuery, async ({ query, matches }) => {
				const { total } = await find(context, { query, mailbox: 'Office', limit: 0 });
				expect(total, query).toBe(messages.filter(matches).length);
			}),
			{ numRuns: 500 }
		);
	});

	it('finds the same for 300 queries that are still being written', async () => {
		const { context, messages } = await filled();
		await fc.assert(
			fc.asyncProperty(anyQuery, begun, async (whole, begun) => {
				const query = `(${whole.query}) ${begun.query}`;
				const { total } = await find(context, { query, mailbox: 'Office', typing: true, limit: 0 });
				expect(total, query).toBe(messages.filter((m) => whole.matches(m) && begun.matches(m)).length);
			}),
			{ numRuns: 300 }
		);
	});

	it('finds the very messages, whatever the order', async () => {
		const { context, messages } = await filled();
		const expected = messages
			.filter((m) => m.unread && m.subject.includes('quay'))
			.map(({ subject, on }) => `${on} ${subject}`)
			.sort();
		for (const sort of [
			'relevance',
			'newest',
			'oldest',
			'largest',
			'sender',
			'subject',
			'importance',
			'attachments'
		] as const) {
			const { hits } = await find(context, { query: 'subject:quay unread', limit: 500, sort });
			expect(hits.map(({ subject, receivedOn }) => `${receivedOn} ${subject}`).sort()).toEqual(expected);
		}
	});
});

describe('relevance', () => {
	const said = (
		subject: string,
		text: string,
		{ date = 'Mon, 02 Mar 2020 10:00:00 +0000', from = 'a@x.example', file = '' } = {}
	) =>
		letter(subject, date, text, from).replace(
			/\n\n([\s\S]*)$/,
			file
				? `\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\n\n$1\n--b\nContent-Type: text/plain; name="${file}"\nContent-Disposition: attachment; filename="${file}"\n\nx\n--b--\n`
				: '\n\n$1'
		);
	const FILLING = 'Other words of about the same length stand here, so that no text is short.';

	/* A word ranks higher the closer it is to the subject of a message. */
	it('puts subject and names over own text, own text over quoted text', async () => {
		const context = await openOffice();
		const mail = [
			said('Quoted', `${FILLING}\n\n> kelp`),
			said('Text', `${FILLING} kelp`),
			said('Name', FILLING, { from: 'Kelp <k@x.example>' }),
			said('Kelp subject', FILLING),
			...Array.from({ length: 20 }, (_, n) => said(`Other ${n}`, FILLING))
		];
		await importMailbox(context, { path: mboxFile(mail), mailbox: 'Office' });
		const { hits } = await find(context, { query: 'kelp', limit: 10 });
		expect(hits.map(({ subject }) => subject)).toEqual(['Kelp subject', 'Name', 'Text', 'Quoted']);
	});

	it('of what is as good, puts the newer first', async () => {
		const context = await openOffice();
		const years = [2019, 2023, 2021, 2020, 2022];
		const mail = years.map((year) =>
			said('Kelp', `${FILLING} ${year}`, { date: `Mon, 02 Mar ${year} 10:00:00 +0000` })
		);
		await importMailbox(context, { path: mboxFile(mail), mailbox: 'Office' });
		const { hits } = await find(context, { query: 'kelp', limit: 10 });
		expect(hits.map(({ receivedOn }) => receivedOn?.slice(0, 4))).toEqual(['2023', '2022', '2021', '2020', '2019']);
	});
});
