import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { type AddressInfo, createServer } from 'node:net';
import path from 'node:path';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { setClearing } from '../archive/bin.ts';
import { backUp } from '../backup/back-up.ts';
import { restoreBackup } from '../backup/restore-backup.ts';
import type { Context } from '../context/context.ts';
import { openUpToDate } from '../process/open-context.ts';
import { find } from '../find/find.ts';
import { readMessage, readRaw } from '../find/read-message.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { openOutside } from '../outside/index.ts';
import { useCase } from '../process/use-cases.ts';
import { hasImapServer, ImapServer } from '../testing/imap-server.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { itemId } from '../testing/retaining.ts';
import { type RunningStandIns, startStandIns } from '../standins/start.ts';
import { getOutgoing, takeToSend } from './outgoing-store.ts';
import { sendDueMail, sendMail } from './send-mail.ts';
import { type BegunMail, type MailGiven, setSignature, storeMail } from './writing.ts';

afterAll(closeParsePool);

const OWN = 'office@skerryline.example';
const begin = (context: Context, itemId: number | undefined, kind = 'reply') =>
	useCase('beginMail').run(context, { mailboxId: 1, kind, itemId } as never) as Promise<BegunMail>;
const given = (mail: BegunMail, more: Partial<MailGiven> = {}): MailGiven => ({
	mailboxId: 1,
	kind: mail.kind,
	itemId: mail.original?.id,
	from: mail.from,
	to: mail.to,
	cc: mail.cc,
	subject: mail.subject,
	text: `Tomorrow at noon.${mail.text}`,
	attachesOriginal: mail.attachesOriginal,
	filing: {},
	...more
});
const at = (context: Context, moment: string): Context => ({ ...context, now: () => new Date(moment) });

/* A server of SMTP (RFC 5321) that hangs up in the middle. */
async function breakingServer(breaksAt: RegExp): Promise<string> {
	const server = createServer((socket) => {
		let heard = '';
		socket.on('error', () => undefined);
		socket.write('220 quay.example\r\n');
		socket.on('data', (bytes) => {
			heard += bytes.toString();
			if (breaksAt.test(heard)) socket.destroy();
			else if (/^DATA/m.test(heard)) socket.write(heard.endsWith('DATA\r\n') ? '354 go on\r\n' : '');
			else if (heard.endsWith('\r\n')) socket.write('250 well\r\n');
		});
	});
	onTestFinished(() => void server.close());
	await new Promise<void>((listening) => server.listen(0, '127.0.0.1', listening));
	return `smtp://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

async function office(): Promise<{ context: Context; world: RunningStandIns }> {
	const world = await startStandIns(temporaryFolder(), { manners: new Map(), post: () => () => [] });
	onTestFinished(() => world.close());
	const context: Context = { ...(await openOffice()), outside: openOutside({ standIns: world.where }) };
	await importMailbox(context, {
		path: mboxFile(
			[
				letter(
					'Crates',
					'Mon, 23 Nov 2026 10:00:00 +0000',
					'When do they come? Vesterøy asks.',
					'Nora Vik <nora@quay.example>'
				).replace('Subject:', 'References: <order@quay.example>\nSubject:')
			],
			'Status: O\n'
		),
		mailbox: 'Office',
		folder: 'Inbox'
	});
	await setClearing(context, { mailbox: 'Office', addresses: [OWN] });
	return { context, world };
}

/** What Python's email reads in bytes (Python standard library, policy default). */
function python(bytes: Buffer): Record<string, unknown> {
	const run = spawnSync(
		'python3',
		[
			'-c',
			`import email, email.policy, json, sys
m = email.message_from_bytes(sys.stdin.buffer.read(), policy=email.policy.default)
body = m.get_body(('plain',))
print(json.dumps({'headers': sorted(k.lower() for k in m.keys()), 'from': m['from'].addresses[0].addr_spec,
 'to': [a.addr_spec for a in m['to'].addresses], 'subject': m['subject'], 'reply': m['in-reply-to'], 'refs': m['references'],
 'type': m.get_content_type(), 'format': body.get_param('format'), 'text': body.get_content(),
 'parts': [p.get_content_type() for p in m.walk()], 'defects': sum(len(p.defects) for p in m.walk())}))`
		],
		{ input: bytes, encoding: 'utf8' }
	);
	expect(run.stderr).toBe('');
	return JSON.parse(run.stdout) as Record<string, unknown>;
}

describe('a reply', () => {
	it('goes out as Python reads it, is filed with its marks, and marks what it answers', async () => {
		const { context, world } = await office();
		await setSignature(context, { mailboxId: 1, signature: 'Ylva\r\nHarbour office' });
		const original = await itemId(context, 'Crates');
		const begun = await begin(context, original);
		expect(begun).toMatchObject({ from: OWN, to: 'Nora Vik <nora@quay.example>', subject: 'Re: Crates' });
		const { id } = await storeMail(context, given(begun, { filing: { tags: ['Freight'], class: 'working' } }));
		const outcome = await sendMail(context, { id });
		expect(outcome).toMatchObject({ isSent: true, said: expect.stringContaining('mail taken') as string });

		const went = world.taker.read(world.taker.numbers()[0] ?? 0) ?? Buffer.alloc(0);
		expect(python(went)).toMatchObject({
			from: OWN,
			to: ['nora@quay.example'],
			subject: 'Re: Crates',
			reply: '<Crates@x.example>',
			refs: '<order@quay.example> <Crates@x.example>',
			type: 'text/plain',
			format: 'flowed',
			defects: 0
		});
		expect(String(python(went).text).replaceAll('\r\n', '\n')).toContain(
			'> When do they come? Vesterøy asks.\n\n-- \nYlva\nHarbour office'
		);
		// the copy is what went, byte for byte, in the folder of what was sent
		const copy = await readMessage(context, { id: outcome.itemId ?? 0 });
		expect(copy).toMatchObject({
			folder: 'Sent',
			subject: 'Re: Crates',
			tags: [{ name: 'Freight' }],
			standing: { class: 'working' }
		});
		expect(Buffer.from((await readRaw(context, { id: copy.id })).content).toString()).toBe(went.toString());
		const answered = await readMessage(context, { id: original });
		expect(answered).toMatchObject({ answered: 1, threadId: copy.threadId });
		await expect(sendMail(context, { id })).rejects.toThrow('has gone');
	});

	it('stands where an IMAP server threads it (Debian dovecot-imapd, THREAD=REFS)', async ({ skip }) => {
		if (!hasImapServer()) skip('dovecot-imapd is not installed, or this is not root');
		const { context, world } = await office();
		const original = await itemId(context, 'Crates');
		await sendMail(context, await storeMail(context, given(await begin(context, original))));
		const server = await ImapServer.start(temporaryFolder(), onTestFinished);
		await server.append('INBOX', [
			Buffer.from((await readRaw(context, { id: original })).content),
			Buffer.from(letter('Other', 'Mon, 23 Nov 2026 10:00:00 +0000')),
			world.taker.read(1) ?? Buffer.alloc(0)
		]);
		await server.command('SELECT INBOX');
		expect(await server.command('THREAD REFS UTF-8 ALL')).toMatch(/THREAD (\(1 3\)\(2\)|\(2\)\(1 3\))/);
	});

	it('stays and says why where it cannot go, and goes when it is tried again', async () => {
		const { context } = await office();
		const refusing = { ...context, outside: openOutside({ standIns: undefined, smtp: 'smtp://127.0.0.1:1' }) };
		const { id } = await storeMail(context, given(await begin(context, await itemId(context, 'Crates'))));
		expect(await sendMail(refusing, { id })).toMatchObject({
			isSent: false,
			said: expect.stringContaining('could not be sent') as string
		});
		expect(await getOutgoing(context.db, id)).toMatchObject({ state: 'failed' });
		expect((await find(context, { query: 'folder:Sent', limit: 5 })).hits).toEqual([]);
		expect(await sendMail(context, { id })).toMatchObject({ isSent: true });
		expect((await find(context, { query: 'folder:Sent', limit: 5 })).hits).toHaveLength(1);
	});

	it.each([
		{ after: 'before the mail was handed over', breaksAt: /^MAIL/m, isUnknown: false, state: 'failed' },
		{ after: 'after the last line of it', breaksAt: /\r\n\.\r\n$/, isUnknown: true, state: 'sending' }
	])('says what is known when the connection breaks $after', async ({ breaksAt, isUnknown, state }) => {
		const { context } = await office();
		const smtp = await breakingServer(breaksAt);
		const there = { ...context, outside: openOutside({ standIns: undefined, smtp }) };
		const { id } = await storeMail(context, given(await begin(context, await itemId(context, 'Crates'))));
		expect(await sendMail(there, { id })).toMatchObject({ isSent: false, isUnknown });
		expect(await getOutgoing(context.db, id)).toMatchObject({ state });
		// it goes again when a person says so, at once, and never by itself
		expect(await sendDueMail(at(context, '2026-11-26T12:00:00Z'))).toEqual({ sent: 0, failed: 0 });
		expect(await sendMail(context, { id })).toMatchObject({ isSent: true, isUnknown: false });
	});

	it('is not sent again by itself when its process ended in the middle', async () => {
		const { context, world } = await office();
		const { id } = await storeMail(context, given(await begin(context, await itemId(context, 'Crates'))));
		await takeToSend(context.db, id, context.now());
		await expect(sendMail(context, { id })).rejects.toThrow('is going now');
		expect(await sendDueMail(at(context, '2026-11-26T12:00:00Z'))).toEqual({ sent: 0, failed: 0 });
		expect(world.taker.numbers()).toEqual([]);
		// a person says that it went: it is filed
		const later = at(context, '2026-11-26T12:00:00Z');
		const noted = (await useCase('noteSent').run(later, { id } as never)) as { itemId?: number };
		expect(noted.itemId).toBeGreaterThan(0);
	});
});

describe('other mail', () => {
	it('does not go by itself out of a restored backup: it may have gone since', async () => {
		const { context, world } = await office();
		const mail = { ...given(await begin(context, undefined, 'new')), to: 'emre@quay.example' };
		const { id } = await storeMail(context, { ...mail, sendAt: '2026-11-26T08:00:00Z' });
		const { file } = await backUp(context, { out: temporaryFolder() });
		const dataFolder = temporaryFolder();
		await restoreBackup({ file, dataFolder, replace: false }, openUpToDate);
		const restored = { ...(await openOffice(dataFolder)), outside: context.outside };
		expect(await sendDueMail(at(restored, '2026-11-27T08:00:00Z'))).toEqual({ sent: 0, failed: 0 });
		expect(await getOutgoing(restored.db, id)).toMatchObject({
			state: 'failed',
			said: expect.stringContaining('backup') as string
		});
		expect(world.taker.numbers()).toEqual([]);
	});

	it('goes at its time, may be changed until then, and survives a restart', async () => {
		const { context, world } = await office();
		const mail = {
			...given(await begin(context, undefined, 'new')),
			to: 'emre@quay.example',
			subject: 'Tides',
			sendAt: '2026-11-26T08:00:00Z'
		};
		const { id } = await storeMail(context, mail);
		expect(await sendDueMail(context)).toEqual({ sent: 0, failed: 0 });
		await storeMail(context, { ...mail, id, subject: 'Tides of December', sendAt: '2026-11-27T08:00:00Z' });
		expect(await sendDueMail(at(context, '2026-11-26T08:00:00Z'))).toEqual({ sent: 0, failed: 0 });
		// what a person made a draft meanwhile is not taken by itself
		await context.db('outgoing').where({ id }).update({ state: 'draft' });
		expect(await takeToSend(context.db, id, new Date('2026-11-27T08:00:00Z'), true)).toBe(false);
		await context.db('outgoing').where({ id }).update({ state: 'waiting' });
		expect(await sendDueMail(at(context, '2026-11-27T08:00:00Z'))).toEqual({ sent: 1, failed: 0 });
		// its text is kept in its copy alone, which can be destroyed
		expect(await getOutgoing(context.db, id)).toMatchObject({ text: '' });
		expect(python(world.taker.read(1) ?? Buffer.alloc(0))).toMatchObject({ subject: 'Tides of December', reply: null });
		await expect(storeMail(context, { ...mail, id })).rejects.toThrow('has gone');
	});

	it('forwards with the original, as Python reads it', async () => {
		const { context, world } = await office();
		const original = await itemId(context, 'Crates');
		const begun = await begin(context, original, 'forward');
		await sendMail(context, await storeMail(context, given(begun, { to: 'Øyvind <oyvind@quay.example>' })));
		const read = python(world.taker.read(1) ?? Buffer.alloc(0));
		expect(read).toMatchObject({
			subject: 'Fwd: Crates',
			reply: null,
			parts: ['multipart/mixed', 'text/plain', 'message/rfc822', 'text/plain'],
			defects: 0
		});
		expect(await readMessage(context, { id: original })).toMatchObject({ answered: 0 });
	});

	// nothing that is typed or quoted injects a header (invariant 19)
	it.each([
		['subject', 'Hello\r\nBcc: all@b.example'],
		['to', 'a@b.example\nBcc: all@b.example'],
		['cc', 'a@b.example\r\n\r\nText'],
		['from', `${OWN}\r\nX-Header: yes`]
	])('with a line break in %s is refused', async (field, value) => {
		const { context, world } = await office();
		const mail = { ...given(await begin(context, undefined, 'new')), to: 'a@b.example', [field]: value };
		const stored = await storeMail(context, mail).catch((error: unknown) => error as Error);
		if (stored instanceof Error) expect(stored.message).toContain('Nothing was stored');
		else await expect(sendMail(context, stored)).rejects.toThrow('Nothing was sent');
		expect(world.taker.numbers()).toEqual([]);
	});

	it('quotes a hostile message without its headers getting out', async () => {
		const { context, world } = await office();
		const hostile = Buffer.from(
			'From: =?utf-8?B?QQ0KQmNjOiBhbGxAYi5leGFtcGxl?= <a@b.example>\r\nTo: office@skerryline.example\r\nMessage-ID: <x\ty@b.example>\r\nReferences: <ok@b.example> <<bad>\r\nSubject: =?utf-8?Q?Hi=0D=0ABcc:_all@b.example?=\r\nDate: Mon, 23 Nov 2026 10:00:00 +0000\r\n\r\nFrom me\r\n.\r\n'
		);
		const file = mboxFile([hostile.toString('latin1')]);
		await importMailbox(context, { path: file, mailbox: 'Office', folder: 'Odd' });
		const { hits } = await find(context, { query: 'folder:Odd', limit: 5 });
		const mail = given(await begin(context, hits[0]?.id), { to: 'a@b.example' });
		await sendMail(context, await storeMail(context, { ...mail, subject: mail.subject.replace(/\p{Cc}/gu, ' ') }));
		const { headers } = python(world.taker.read(1) ?? Buffer.alloc(0));
		expect(headers).not.toContain('bcc');
	});

	it('leaves nothing behind in the folder of the data', async () => {
		const { context } = await office();
		await sendMail(context, await storeMail(context, given(await begin(context, await itemId(context, 'Crates')))));
		expect(() => readFileSync(path.join(context.dataFolder, 'outgoing', '1.eml'))).toThrow('ENOENT');
	});
});
