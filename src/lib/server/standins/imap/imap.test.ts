import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { carryOut, takeBack } from '../../docket/carry-out.ts';
import { prepareDocket } from '../../docket/prepare-docket.ts';
import { find } from '../../find/find.ts';
import { closeParsePool } from '../../mail/reading/parse-pool.ts';
import { connectSource, followSources } from '../../sources/index.ts';
import { letter, openOffice, temporaryFolder } from '../../testing/office.ts';
import { imapServer } from './server.ts';
import { MailStore } from './store.ts';
import { inSet, literalOf, readDateTime, showDateTime, wordsOf } from './words.ts';

afterAll(closeParsePool);

describe('words of a command', () => {
	it.each([
		['a1 LOGIN me "a \\"b\\" c"', [], ['a1', 'LOGIN', 'me', 'a "b" c']],
		['a STORE 1:4 +FLAGS (\\Seen Ramp)', [], ['a', 'STORE', '1:4', '+FLAGS', ['\\Seen', 'Ramp']]],
		['a UID FETCH 1,3 (UID BODY.PEEK[] (X))', [], ['a', 'UID', 'FETCH', '1,3', ['UID', 'BODY.PEEK[]', ['X']]]],
		['a APPEND INBOX {5}', ['Hello'], ['a', 'APPEND', 'INBOX', 'Hello']],
		['a FETCH 1 BODY.PEEK[HEADER.FIELDS (A B)]', [], ['a', 'FETCH', '1', 'BODY.PEEK[HEADER.FIELDS (A B)]']]
	])('%s', (line, literals, expected) => expect(wordsOf(line, literals)).toEqual(expected));

	it.each(['a (b', 'a b)', 'a "b'])('refuses %s', (line) => expect(() => wordsOf(line, [])).toThrow());

	it.each([
		['x {12}', { bytes: 12, waits: true }],
		['x {12+}', { bytes: 12, waits: false }],
		['x {12} y', undefined]
	])('%s announces %j', (line, expected) => expect(literalOf(line)).toEqual(expected));

	it.each([
		['1:3', 3, true],
		['1:3', 4, false],
		['2,5:*', 9, true],
		['*', 9, true],
		['*', 8, false],
		['5:2', 3, true]
	])('%s holds %i of nine: %s', (set, number, expected) => expect(inSet(set, number, 9)).toBe(expected));

	// RFC 3501 section 2.3.3
	it('reads and writes dates', () => {
		expect(readDateTime('17-Jul-1996 02:44:25 -0700')).toBe(Date.UTC(1996, 6, 17, 9, 44, 25));
		expect(showDateTime(Date.UTC(2026, 2, 2, 10))).toBe(' 2-Mar-2026 10:00:00 +0000');
		expect(readDateTime('yesterday')).toBeUndefined();
	});
});

const QUOTA = 50_000;
async function standIn(quota = QUOTA): Promise<{ port: number; store: MailStore }> {
	const store = new MailStore(path.join(temporaryFolder(), 'pier'), quota);
	const server = imapServer(store, { user: 'pier', password: 'secret' });
	onTestFinished(() => void server.close());
	await new Promise<void>((listening) => server.listen(0, '127.0.0.1', listening));
	return { port: (server.address() as AddressInfo).port, store };
}
const bytesOf = (subject: string) =>
	Buffer.from(letter(subject, 'Mon, 2 Mar 2026 10:00:00 +0000').replaceAll('\n', '\r\n'));

/* Python's standard library (imaplib) as another client. */
const AS_PYTHON = `
import imaplib, sys, hashlib
port = int(sys.argv[1])
try:
    imaplib.IMAP4('127.0.0.1', port).login('pier', 'wrong')
except imaplib.IMAP4.error as error:
    print('refused', 'AUTHENTICATIONFAILED' in str(error))
box = imaplib.IMAP4('127.0.0.1', port)
box.login('pier', 'secret')
mail = b'From: a@b.example\\r\\nSubject: One\\r\\n\\r\\nThe r\\xc3\\xa4mp.\\r\\n'
print(box.create('"Old berths"')[0], box.create('INBOX')[0])
print(box.append('INBOX', '(\\\\Flagged Ramp)', '"02-Mar-2026 10:00:00 +0000"', mail))
print(box.select('INBOX')[1])
print(box.uid('SEARCH', 'ALL')[1])
answer = box.uid('FETCH', '1', '(FLAGS INTERNALDATE RFC822.SIZE BODY.PEEK[])')[1][0]
print(answer[0].decode(), hashlib.sha256(answer[1]).hexdigest() == hashlib.sha256(mail).hexdigest())
head = box.uid('FETCH', '1', '(UID BODY.PEEK[HEADER.FIELDS (FROM DATE)])')[1][0]
print(head[0].decode(), head[1])
print(box.uid('STORE', '1', '-FLAGS.SILENT', '(Ramp)')[0], box.uid('STORE', '1', '+FLAGS', '(\\\\Seen)')[1])
print(box.uid('MOVE', '1', '"Old berths"')[0], box.untagged_responses.get('COPYUID'))
print(box.select('"Old berths"', readonly=True)[1], box.uid('STORE', '1', '+FLAGS', '(\\\\Deleted)')[0])
box.select('"Old berths"')
print(box.uid('STORE', '1', '+FLAGS', '(\\\\Deleted)')[0], box.uid('EXPUNGE', '1')[0], box.select('"Old berths"')[1])
print(box.append('INBOX', None, None, b'x' * 60000)[0])
print(box.getquotaroot('INBOX')[1][1])
print(box.logout()[0])
`;

describe('the mail server of the demo', () => {
	it('is spoken to by Python (imaplib)', async () => {
		const { port } = await standIn();
		const python = spawn('python3', ['-c', AS_PYTHON, String(port)]);
		let said = '';
		for (const output of [python.stdout, python.stderr]) output.on('data', (text: Buffer) => (said += text.toString()));
		await new Promise((resolve) => python.once('close', resolve));
		expect(said.trim().split('\n')).toEqual([
			'refused True',
			'OK NO',
			"('OK', [b'[APPENDUID 1 1] Taken'])",
			"[b'1']",
			"[b'1']",
			expect.stringMatching(
				/^1 \(UID 1 FLAGS \(\\Flagged Ramp\) INTERNALDATE " 2-Mar-2026 10:00:00 \+0000" RFC822\.SIZE \d+ BODY\[\] \{\d+\} True$/
			),
			"1 (UID 1 BODY[HEADER.FIELDS (FROM DATE)] {21} b'From: a@b.example\\r\\n\\r\\n'",
			"OK [b'1 (UID 1 FLAGS (\\\\Flagged \\\\Seen))']",
			"OK [b'6 1 1']",
			"[b'1'] NO",
			"OK OK [b'0']",
			'NO',
			`[b'"mail" (STORAGE 0 ${Math.floor(QUOTA / 1024)})']`,
			'BYE'
		]);
	});

	it('gives headers first, as a mailbox of the demo is fetched', async () => {
		const { port, store } = await standIn(10 ** 6);
		store.appendAll(
			'INBOX',
			Array.from({ length: 210 }, (_, n) => ({ bytes: bytesOf(`Log ${n}`), flags: [], date: Date.UTC(2026, 2, 2) }))
		);
		const context = await openOffice();
		const account = { host: '127.0.0.1', port, tls: 'none' as const, user: 'pier', secret: 'secret' };
		await connectSource(context, { mailbox: 'Pier', ...account });
		const notes: string[] = [];
		const report = ({ note = '' }) => void notes.push(note);
		const { passes } = await followSources({ ...context, report }, { mailbox: 'Pier' });
		expect(passes).toMatchObject([{ new: 210, errors: [] }]);
		expect(notes).toContain('210 of 210 headers read');
	});

	it('is followed and worked on like any other, and keeps its mail over a restart', async () => {
		const { port, store } = await standIn();
		store.appendAll(
			'INBOX',
			['Ramp', 'Quay'].map((subject) => ({ bytes: bytesOf(subject), flags: [], date: Date.UTC(2026, 2, 2) }))
		);
		const context = await openOffice();
		const account = { host: '127.0.0.1', port, tls: 'none' as const, user: 'pier', secret: 'secret' };
		await connectSource(context, { mailbox: 'Pier', ...account, writes: true });
		const pass = async () => (await followSources(context, { mailbox: 'Pier' })).passes[0];
		expect(await pass()).toMatchObject({ new: 2, errors: [], quota: { limit: Math.floor(QUOTA / 1024) * 1024 } });
		const { hits } = await find(context, { query: 'subject:quay', limit: 1 });
		const { id } = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'archive', options: {}, scope: { kind: 'items', ids: hits.map((hit) => hit.id), label: '' } }]
		});
		await carryOut(context, { id });
		expect(await pass()).toMatchObject({ new: 0, waiting: 0, errors: [] });
		expect(store.folder('INBOX')?.mails).toHaveLength(1);
		await takeBack(context, { id });
		expect(await pass()).toMatchObject({ new: 0, waiting: 0, errors: [] });
		const back = store.folder('inbox')?.mails.at(-1);
		expect(back).toMatchObject({ date: Date.UTC(2026, 2, 2) });
		const sha = (bytes: Buffer) => createHash('sha256').update(bytes).digest('hex');
		expect(back && sha(store.read(back))).toBe(sha(bytesOf('Quay')));
	});
});
