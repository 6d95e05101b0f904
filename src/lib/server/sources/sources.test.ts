import { readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { backUp } from '../backup/back-up.ts';
import { checkLedger } from '../ledger/index.ts';
import { Dice } from '../../../../demo/random.ts';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import { EXTENSIONS } from '../../../core/sources/server.ts';
import type { Context } from '../context/context.ts';
import { carryOut } from '../docket/carry-out.ts';
import { showDocket } from '../docket/show-docket.ts';
import { find } from '../find/find.ts';
import { decideMessages } from '../find/decide-messages.ts';
import { readRaw } from '../find/read-message.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { getMailbox } from '../mail/mailboxes-store.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { useCase } from '../process/use-cases.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { change, rows } from '../database/rows.ts';
import { raw, sql } from '../database/sql.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { startProxy } from '../testing/imap-proxy.ts';
import { hasImapServer, ImapServer } from '../testing/imap-server.ts';
import { clearingOverview } from '../weigh/clearing.ts';
import { weighMailbox } from '../weigh/weigh.ts';
import { connectSource, disconnectSource, knownServers, listSources, type SourceView } from './connect.ts';
import { followSources } from './follow.ts';
import { open, seal } from './sealed.ts';
import { stopListening } from './watch.ts';

afterAll(closeParsePool);

const MAILBOX = 'Office';
const server = (port: number) => ({
	host: '127.0.0.1',
	port,
	tls: 'none' as const,
	user: 'tester',
	secret: 'secret'
});
const bytesOf = (subject: string, day = 2) =>
	Buffer.from(letter(subject, `Mon, ${day} Mar 2026 10:00:00 +0000`).replaceAll('\n', '\r\n'));

describe('a password of a mail server', () => {
	it('is read only with the key beside the data file, and for its own server', () => {
		const [folder, other] = [temporaryFolder(), temporaryFolder()];
		const sealed = seal(folder, 'four ferries', 'tester at a.example');
		expect(sealed.toString('latin1')).not.toContain('ferries');
		expect(open(folder, sealed, 'tester at a.example')).toBe('four ferries');
		expect(statSync(path.join(folder, 'mail-servers.key')).mode & 0o077).toBe(0);
		for (const [where, about] of [
			[folder, 'tester at b.example'],
			[other, 'tester at a.example']
		] as const)
			expect(() => open(where, sealed, about)).toThrow('connect the mailbox again');
		const bent = Buffer.from(sealed);
		bent.writeUInt8(bent.readUInt8(20) ^ 1, 20);
		expect(() => open(folder, bent, 'tester at a.example')).toThrow('cannot be read here');
	});
});

/* Debian's dovecot-imapd on loopback; a second client changes what lies there. */
describe.skipIf(!hasImapServer())('a live mailbox', () => {
	async function office(): Promise<{ context: Context; imap: ImapServer }> {
		const imap = await ImapServer.start(temporaryFolder(), onTestFinished);
		const context = await openOffice();
		await imap.command('CREATE Vessels');
		await imap.command('CREATE "Vessels/Skua"');
		await imap.append('INBOX', [bytesOf('Ramp'), bytesOf('Quay', 9), bytesOf('Ice', 16)]);
		await imap.append('Vessels/Skua', [bytesOf('Engine'), bytesOf('Hull', 9)]);
		return { context, imap };
	}
	const connected = async () => {
		const made = await office();
		await connectSource(made.context, { mailbox: MAILBOX, ...server(made.imap.port) });
		return made;
	};
	const pass = async (context: Context) => (await followSources(context, { mailbox: MAILBOX })).passes[0];
	/* Where each message lies, and in what state, by its subject. */
	const places = async ({ db }: Context) =>
		Object.fromEntries(
			(
				await rows<{ subject: string; said: string }>(
					db,
					sql`SELECT subject, group_concat(item.state || ' ' || folder.path, '; ') AS said FROM item JOIN message ON message.id = item.message_id
						JOIN folder ON folder.id = item.folder_id GROUP BY subject ORDER BY subject`
				)
			).map(({ subject, said }) => [subject, said])
		);

	it('says what works and what the server can do, and stores nothing of a server that does not answer', async () => {
		const { context, imap } = await office();
		const done = await connectSource(context, { mailbox: MAILBOX, ...server(imap.port) });
		expect(done.sentences.join(' ')).toMatch(/tester is signed in .* 3 folders with 5 messages .* writes nothing/);
		expect(done.extensions.map(({ name, has }) => [name, has])).toEqual([
			['CONDSTORE', true],
			['QRESYNC', true],
			['SPECIAL-USE', true],
			['QUOTA', true],
			['MOVE', true],
			['UIDPLUS', true]
		]);
		const other = { mailbox: 'Crew', ...server(imap.port) };
		await expect(connectSource(context, { ...other, secret: 'wrong' })).rejects.toThrow(
			/does not accept this user and password.*Nothing was changed/
		);
		await expect(connectSource(context, { ...other, port: 1 })).rejects.toThrow(/Nothing listens/);
		await expect(connectSource(context, { ...other, tls: 'implicit' })).rejects.toThrow(/encryption|did not/);
		await expect(connectSource(context, { ...other, host: 'mail.skerryline.example' })).rejects.toThrow(/this machine/);
		await expect(connectSource(context, { ...other, leftOut: ['Nowhere'] })).rejects.toThrow(/no folder “Nowhere”/);
		await expect(connectSource(context, other)).rejects.toThrow(
			/tester on 127\.0\.0\.1 is the live mailbox Office already/
		);
		expect(await listSources(context)).toMatchObject([{ mailbox: MAILBOX, messages: 0, error: null }]);
	});

	it('brings in what is there, byte for byte, and then only what is new', async () => {
		const { context, imap } = await connected();
		expect(await pass(context)).toMatchObject({ folders: 3, new: 5, changed: 0, gone: 0, waiting: 0, errors: [] });
		expect(await places(context)).toEqual({
			Engine: 'live Vessels/Skua',
			Hull: 'live Vessels/Skua',
			Ice: 'live Inbox',
			Quay: 'live Inbox',
			Ramp: 'live Inbox'
		});
		const [hit] = (await find(context, { query: 'subject:ramp', limit: 1 })).hits;
		expect(Buffer.from((await readRaw(context, { id: hit?.id ?? 0 })).content)).toEqual(bytesOf('Ramp'));
		expect(await pass(context)).toMatchObject({ new: 0, changed: 0, gone: 0 });
		await imap.append('INBOX', [bytesOf('Tides', 23)]);
		expect(await pass(context)).toMatchObject({ new: 1 });
		expect(await listSources(context)).toMatchObject([{ messages: 6, error: null, quotaLimit: 2 * 1024 ** 3 }]);
		expect((await getMailbox(context.db, 1))?.quotaBytes).toBe(2 * 1024 ** 3);
		// nothing was written there: nothing is seen, and nothing is new to whoever looks next
		expect(await imap.command('EXAMINE INBOX')).toContain('4 EXISTS');
		expect(await imap.command('SEARCH SEEN')).toMatch(/^\* SEARCH\r$/m);
	});

	it('says nothing to the server that could change anything there', async () => {
		const { context, imap } = await office();
		const { port, said } = await startProxy(onTestFinished, imap.port);
		await connectSource(context, { mailbox: MAILBOX, ...server(port) });
		await pass(context);
		await imap.append('INBOX', [bytesOf('Tides', 23)]);
		await pass(context);
		const verbs = said().map((line) => /^\S+ ((?:UID )?\w+)/.exec(line)?.[1]?.toUpperCase());
		// RFC 9051 sections 6.1 to 6.4, and its extensions: those that read
		const reading = ['CAPABILITY', 'ID', 'LOGIN', 'NAMESPACE', 'ENABLE', 'LIST', 'LSUB', 'STATUS', 'EXAMINE', 'NOOP'];
		const allowed = [...reading, 'AUTHENTICATE', 'UID SEARCH', 'UID FETCH', 'GETQUOTAROOT', 'LOGOUT'];
		expect(verbs.filter((verb) => !allowed.includes(verb ?? ''))).toEqual([]);
		expect(verbs.filter((verb) => verb === 'UID FETCH').length).toBeGreaterThan(2);
		const fetched = said().filter((line) => /BODY/.test(line));
		expect(fetched.filter((line) => !line.includes('BODY.PEEK['))).toEqual([]);
		expect(fetched.length).toBeGreaterThan(0);
	});

	it.each([
		['that has all extensions', []],
		['that numbers no changes', ['CONDSTORE', 'QRESYNC']],
		[
			'that has none of them',
			['CONDSTORE', 'QRESYNC', 'MOVE', 'UIDPLUS', 'QUOTA', 'SPECIAL-USE', 'LIST-STATUS', 'ESEARCH']
		]
	])(
		'follows marks, keywords and moves of others on a server %s; what was decided goes along',
		async (_which, hides) => {
			const { context, imap } = await office();
			const { port } = await startProxy(onTestFinished, imap.port, { hides });
			const { extensions } = await connectSource(context, { mailbox: MAILBOX, ...server(port) });
			expect(extensions.filter(({ has }) => !has).map(({ name }) => name)).toEqual(
				EXTENSIONS.map(({ name }) => name).filter((name) => hides.includes(name))
			);
			await pass(context);
			const [before] = (await find(context, { query: 'subject:quay', limit: 1 })).hits;
			await decideMessages(context, { ids: [before?.id ?? 0], decision: 'keep', options: {} });
			await imap.command('SELECT INBOX');
			await imap.command('STORE 1 +FLAGS (\\Seen \\Flagged Urgent)');
			await imap.command('MOVE 2 Vessels');
			expect(await pass(context)).toMatchObject({ new: 0, changed: 2, gone: 0, errors: [] });
			const [ramp] = (await find(context, { query: 'subject:ramp flagged tag:Urgent not unread', limit: 2 })).hits;
			expect(ramp).toBeDefined();
			const moved = (await find(context, { query: 'subject:quay', limit: 5 })).hits;
			expect(moved).toMatchObject([{ id: before?.id, folder: 'Vessels', kept: 1 }]);
			await imap.command('SELECT INBOX');
			await imap.command('STORE 1 -FLAGS (\\Flagged Urgent)');
			expect(await pass(context)).toMatchObject({ changed: 1 });
			expect((await find(context, { query: 'subject:ramp flagged or tag:Urgent', limit: 2 })).hits).toEqual([]);
			expect((await checkLedger(context.db)).brokenAt).toBeUndefined();
		}
	);

	it('puts what others removed into the bin, and takes it back out of theirs', async () => {
		const { context, imap } = await connected();
		await pass(context);
		await imap.command('CREATE Bin');
		await imap.command('SELECT INBOX');
		await imap.command('MOVE 1 Bin');
		await imap.command('STORE 1 +FLAGS (\\Deleted)');
		await imap.command('EXPUNGE');
		expect(await pass(context)).toMatchObject({ new: 0, changed: 1, gone: 1 });
		expect(await places(context)).toMatchObject({ Ramp: 'binned Bin', Quay: 'binned Bin', Ice: 'live Inbox' });
		await imap.command('SELECT Bin');
		await imap.command('MOVE 1 Vessels');
		expect(await pass(context)).toMatchObject({ changed: 1, gone: 0 });
		expect(await places(context)).toMatchObject({ Ramp: 'live Vessels', Quay: 'binned Bin' });
	});

	it('restores what is not marked as deleted there any more, unless a person deleted it here', async () => {
		const { context, imap } = await connected();
		await imap.command('SELECT INBOX');
		await imap.command('STORE 1:2 +FLAGS (\\Deleted)');
		await pass(context);
		expect(await places(context)).toMatchObject({ Ramp: 'binned Trash', Quay: 'binned Trash', Ice: 'live Inbox' });
		const ids = (await find(context, { query: 'subject:quay state:binned', limit: 1 })).hits.map(({ id }) => id);
		await decideMessages(context, { decision: 'restore', options: {}, ids });
		await decideMessages(context, { decision: 'delete', options: {}, ids });
		await imap.command('STORE 1:2 -FLAGS (\\Deleted)');
		expect(await pass(context)).toMatchObject({ new: 0, changed: 2, gone: 0, errors: [] });
		expect(await places(context)).toMatchObject({ Ramp: 'live Inbox', Quay: 'binned Trash', Ice: 'live Inbox' });
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('has tags go along where a program without MOVE copies a message and expunges the former one later', async () => {
		const { context, imap } = await connected();
		await pass(context);
		const ids = (await find(context, { query: 'subject:ramp', limit: 1 })).hits.map(({ id }) => id);
		await decideMessages(context, { decision: 'tag', options: { tag: 'Berth permits' }, ids });
		const tagged = async (state = 'live') =>
			(await find(context, { query: `tag:"Berth permits" state:${state}`, limit: 9 })).hits;
		await imap.command('SELECT INBOX');
		await imap.command('COPY 1 Vessels');
		await imap.command('STORE 1 +FLAGS (\\Deleted)');
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, errors: [] });
		expect(await tagged()).toMatchObject([{ id: ids[0], state: 'live', folder: 'Vessels' }]);
		// taken back there: two messages, of which the copy has the tag
		await imap.command('STORE 1 -FLAGS (\\Deleted)');
		expect(await pass(context)).toMatchObject({ new: 1, gone: 0, errors: [] });
		expect((await find(context, { query: 'subject:ramp state:live', limit: 9 })).total).toBe(2);
		await imap.command('STORE 1 +FLAGS (\\Deleted)');
		await imap.command('EXPUNGE');
		expect(await pass(context)).toMatchObject({ new: 0, gone: 1, errors: [] });
		expect(await tagged()).toMatchObject([{ id: ids[0], state: 'live', folder: 'Vessels' }]);
		// and so into the bin
		await imap.command('CREATE Bin');
		await imap.command('SELECT Vessels');
		await imap.command('STORE 1:* -FLAGS (\\Deleted)');
		const number = /\* SEARCH (\d+)/.exec(await imap.command('SEARCH SUBJECT Ramp'))?.[1] ?? '';
		await imap.command(`COPY ${number} Bin`);
		await imap.command(`STORE ${number} +FLAGS (\\Deleted)`);
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, errors: [] });
		await imap.command('EXPUNGE');
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, errors: [] });
		expect(await tagged('binned')).toMatchObject([{ id: ids[0] }]);
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('weighs mail by its headers while its bytes are on their way, and weighs the same once they are here', async () => {
		const { context, imap } = await office();
		const made = Array.from({ length: 400 }, (_, n) =>
			Buffer.from(
				letter(
					`Log ${n}`,
					`Mon, ${1 + (n % 28)} Mar 2026 10:00:00 +0000`,
					'Sea state three. '.repeat(n % 40),
					n % 3 ? 'Harbour <quay@harbour.example>' : 'Mr Øster <mate@skerryline.example>'
				).replaceAll('\n', '\r\n')
			)
		);
		await imap.append('Vessels', made);
		await connectSource(context, { mailbox: MAILBOX, ...server(imap.port), fetching: { fetchFirst: 'heaviest' } });
		const stop = new AbortController();
		const weigh = async () => {
			const all = await Promise.all(
				(['organisation', 'address', 'month', 'year', 'size'] as const).map(async (by) =>
					(await weighMailbox(context, { mailboxId: 1, by })).rows.map((row) => ({ ...row, label: '' }))
				)
			);
			const { mailbox, folders } = await weighMailbox(context, { mailboxId: 1 });
			const { inbox } = (await clearingOverview(context, { mailboxId: 1 })).finish;
			return { all, folders, inbox, total: [mailbox.messages, mailbox.bytes, mailbox.unread] };
		};
		const reports: string[] = [];
		await pass({
			...context,
			signal: stop.signal,
			report: ({ note = '', done }) => {
				reports.push(note);
				if (done > 0) stop.abort();
			}
		});
		expect(reports.slice(0, 3).join()).toMatch(/405 headers read|of 405 headers read/);
		const [{ ahead }] = (await listSources(context)) as [SourceView];
		expect(ahead.messages).toBeGreaterThan(0);
		expect(ahead.messages).toBeLessThan(405);
		// the heaviest came first
		const average = async (table: string) =>
			(await rows<{ n: number }>(context.db, sql`SELECT avg(bytes) AS n FROM ${raw(table)}`))[0]?.n ?? 0;
		expect(await average('item')).toBeGreaterThan(1.5 * (await average('source_ahead')));
		const atOnce = await weigh();
		expect(await pass(context)).toMatchObject({ errors: [] });
		expect(atOnce).toEqual(await weigh());
		expect(await listSources(context)).toMatchObject([{ messages: 405, ahead: { messages: 0, bytes: 0 } }]);
		expect(await compareWeights(context.db)).toBe(0);
		// what is removed there before it came is not waited for
		await imap.append(
			'Vessels',
			made.map((bytes) => Buffer.concat([bytes, Buffer.from('Again.\r\n')]))
		);
		const second = new AbortController();
		await pass({ ...context, signal: second.signal, report: ({ done }) => void (done > 0 && second.abort()) });
		await imap.command('SELECT Vessels');
		await imap.command('STORE 401:800 +FLAGS (\\Deleted)');
		await imap.command('EXPUNGE');
		await pass(context);
		expect(await listSources(context)).toMatchObject([{ ahead: { messages: 0 } }]);
	});

	it('is one of several mailboxes that an account sees', async () => {
		const imap = await ImapServer.start(temporaryFolder(), onTestFinished, { shares: true });
		const context = await openOffice();
		for (const folder of ['Shared/Office', 'Shared/Office/Claims', 'Shared/Officers'])
			await imap.command(`CREATE ${folder}`);
		await imap.append('INBOX', [bytesOf('Own')]);
		await imap.append('Shared/Office', [bytesOf('Berth'), bytesOf('Tide', 9)]);
		await imap.append('Shared/Office/Claims', [bytesOf('Bumper')]);
		const desk = { mailbox: 'Desk', ...server(imap.port), root: 'Shared/Office', writes: true };
		await expect(connectSource(context, { ...desk, root: 'Shared/Nobody' })).rejects.toThrow(
			/tester sees no folder “Shared\/Nobody”.*Nothing was changed/
		);
		expect((await connectSource(context, desk)).sentences.join(' ')).toMatch(
			/2 folders with 3 messages are in Shared.Office/
		);
		const own = await connectSource(context, { mailbox: MAILBOX, ...server(imap.port) });
		expect(own.sentences.join(' ')).toMatch(
			/1 folder with 1 message is there. It also sees 3 folders of other mailboxes, such as Shared/
		);
		await followSources(context, {});
		const lies = async () =>
			(
				await rows<{ said: string }>(
					context.db,
					sql`SELECT mailbox.name || ': ' || item.state || ' ' || folder.path || ', ' || subject AS said FROM item JOIN message ON message.id = item.message_id
					 JOIN folder ON folder.id = item.folder_id JOIN mailbox ON mailbox.id = item.mailbox_id ORDER BY 1`
				)
			).map(({ said }) => said);
		const before = [
			'Desk: live Claims, Bumper',
			'Desk: live Inbox, Berth',
			'Desk: live Inbox, Tide',
			'Office: live Inbox, Own'
		];
		expect(await lies()).toEqual(before);
		// what is decided is carried to its own folders there
		const [berth] = (await find(context, { query: 'subject:berth', limit: 1 })).hits;
		await decideMessages(context, { ids: [berth?.id ?? 0], decision: 'move', options: { folder: 'Permits' } });
		await followSources(context, {});
		expect(await imap.command('STATUS Shared/Office/Permits (MESSAGES)')).toContain('MESSAGES 1');
		expect(await imap.command('STATUS Shared/Office (MESSAGES)')).toContain('MESSAGES 1');
		expect(await lies()).toEqual(before.map((line) => line.replace('Inbox, Berth', 'Permits, Berth')).sort());
		expect(await followSources(context, {})).toMatchObject({
			passes: [
				{ new: 0, gone: 0 },
				{ new: 0, gone: 0 }
			]
		});
	});

	const LOGS = 700;
	it.each(['a person stops it', 'the line breaks'])('goes on where it was when %s', async (by) => {
		const { context, imap } = await office();
		await imap.append(
			'Vessels',
			Array.from({ length: LOGS }, (_, n) => bytesOf(`Log ${n}`, 1 + (n % 28)))
		);
		// enough for the headers and some batches, and not for all
		const { port } = await startProxy(
			onTestFinished,
			imap.port,
			by === 'the line breaks' ? { cutAfter: LOGS * 450 } : {}
		);
		await connectSource(context, { mailbox: MAILBOX, ...server(port) });
		const stop = new AbortController();
		const report = ({ done }: { done: number }) => {
			if (by === 'a person stops it' && done > 0) stop.abort();
		};
		await pass({ ...context, signal: stop.signal, report });
		const here = async () => (await find(context, { query: '', mailbox: MAILBOX, limit: 1 })).total;
		const first = await here();
		expect(first).toBeGreaterThan(0);
		expect(first).toBeLessThan(LOGS + 5);
		await connectSource(context, { mailbox: MAILBOX, ...server(imap.port) });
		expect(await pass(context)).toMatchObject({ new: LOGS + 5 - first, errors: [] });
		expect(await here()).toBe(LOGS + 5);
		expect(await pass(context)).toMatchObject({ new: 0, changed: 0, gone: 0 });
	});

	it.each(['disconnected', 'connected to another server'])('ends a pass when it is %s meanwhile', async (what) => {
		const { context, imap } = await connected();
		const logs = Array.from({ length: LOGS }, (_, n) => bytesOf(`Log ${n}`, 1 + (n % 28)));
		await imap.append('Vessels', logs);
		let changing: Promise<unknown> | undefined;
		// asked for between two batches, it comes before the next one
		const report = ({ done }: { done: number }) => {
			if (done > 0)
				changing ??=
					what === 'disconnected'
						? disconnectSource(context, { mailbox: MAILBOX, unfinished: true })
						: change(context.db, sql`UPDATE source SET host = 'localhost'`);
		};
		expect((await pass({ ...context, report }))?.errors).toEqual([
			expect.stringMatching(/was disconnected from 127\.0\.0\.1 while .* stays here/)
		]);
		await changing;
		const here = (await find(context, { query: '', mailbox: MAILBOX, limit: 1 })).total;
		expect(here).toBeGreaterThan(0);
		expect(here).toBeLessThan(LOGS + 5);
		expect((await checkLedger(context.db)).brokenAt).toBeUndefined();
		expect(await compareWeights(context.db)).toBe(0);
		if (what === 'disconnected') expect(await listSources(context)).toEqual([]);
		else expect(await listSources(context)).toMatchObject([{ host: 'localhost', error: null, passedAt: null }]);
	});

	it('asks a person first when much of a mailbox is gone at once', async () => {
		const { context, imap } = await connected();
		await imap.append(
			'Vessels',
			Array.from({ length: 60 }, (_, n) => bytesOf(`Log ${n}`, 1 + (n % 28)))
		);
		await pass(context);
		await imap.command('SELECT Vessels');
		await imap.command('STORE 1:* +FLAGS (\\Deleted)');
		await imap.command('EXPUNGE');
		const done = await pass(context);
		expect(done).toMatchObject({
			gone: 0,
			errors: [expect.stringMatching(/60 messages of 65 .* stay here: docket \d+, to delete them, waits/)]
		});
		expect((await find(context, { query: 'subject:log state:live', limit: 1 })).total).toBe(60);
		// said once: the next pass has nothing to say, and the docket is a person's
		expect(await pass(context)).toMatchObject({ gone: 0, errors: [] });
		const [docket] = await rows<{ id: number; state: string }>(context.db, sql`SELECT id, state FROM docket`);
		expect(docket?.state).toBe('drafted');
		// the server was restored since, as to most of them
		await imap.append(
			'Vessels',
			Array.from({ length: 50 }, (_, n) => bytesOf(`Log ${n}`, 1 + (n % 28)))
		);
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, errors: [] });
		await expect(carryOut(context, { id: docket?.id ?? 0 })).rejects.toThrow('now it means 10');
		await carryOut(context, { id: docket?.id ?? 0 });
		expect((await showDocket(context, { id: docket?.id ?? 0 })).lines).toMatchObject([
			{ doneMessages: 10, left: [{ reason: 'on-server', messages: 50 }] }
		]);
		expect((await find(context, { query: 'subject:log state:live', limit: 1 })).total).toBe(50);
		expect(await imap.command('EXAMINE Vessels')).toContain('50 EXISTS');
	});

	it.each([false, true])('restores what somebody puts back on the server (writing: %s)', async (writes) => {
		const { context, imap } = await office();
		await connectSource(context, { mailbox: MAILBOX, ...server(imap.port), writes });
		await pass(context);
		await imap.command('SELECT INBOX');
		await imap.command('STORE 1:* +FLAGS (\\Deleted)');
		await imap.command('EXPUNGE');
		expect(await pass(context)).toMatchObject({ gone: 3, errors: [] });

		await imap.append('INBOX', [bytesOf('Ramp')]);
		await imap.append('Vessels', [bytesOf('Quay', 9)]);
		expect(await pass(context)).toMatchObject({ new: 0, changed: 2, gone: 0, waiting: 0, errors: [] });
		const expected = { Ramp: 'live Inbox', Quay: 'live Vessels', Ice: expect.stringMatching(/^binned/) as unknown };
		expect(await places(context)).toMatchObject(expected);
		expect(await pass(context)).toMatchObject({ new: 0, changed: 0, gone: 0, waiting: 0, errors: [] });
		expect(await places(context)).toMatchObject(expected);
		expect(await imap.command('EXAMINE INBOX')).toContain('1 EXISTS');
		expect(await imap.command('EXAMINE Vessels')).toContain('1 EXISTS');
		// what a person deleted here while the server is only read stays in the bin, whatever its numbers there
		const ids = (await find(context, { query: 'subject:ramp', limit: 1 })).hits.map(({ id }) => id);
		await decideMessages(context, { decision: 'delete', options: {}, ids });
		expect(await pass(context)).toMatchObject({ errors: [] });
		if (!writes) await change(context.db, sql`UPDATE source_folder SET uid_validity = 'before' WHERE path = 'INBOX'`);
		expect(await pass(context)).toMatchObject({ errors: [] });
		expect(await places(context)).toMatchObject({ Ramp: expect.stringMatching(/^binned/) as unknown });
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('neither doubles nor loses mail when folders are renamed, made anew and numbered anew', async () => {
		const { context, imap } = await connected();
		await pass(context);
		const ids = async () =>
			(await rows<{ id: number }>(context.db, sql`SELECT id FROM item WHERE state = 'live' ORDER BY id`)).map(
				({ id }) => id
			);
		const before = await ids();
		await imap.command('RENAME "Vessels/Skua" "Vessels/Terne"');
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, errors: [] });
		expect(await places(context)).toMatchObject({ Engine: 'live Vessels/Terne', Hull: 'live Vessels/Terne' });
		// the same mail in a folder of the same name, with another UIDVALIDITY
		await imap.command('CREATE Aside');
		await imap.command('SELECT "Vessels/Terne"');
		await imap.command('COPY 1:* Aside');
		await imap.command('CLOSE');
		await imap.command('DELETE "Vessels/Terne"');
		await imap.command('RENAME Aside "Vessels/Terne"');
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, errors: [] });
		expect(await ids()).toEqual(before);
	});

	const ROUNDS = 16;
	it('agrees with the server after whatever others do there while lines break at random', async () => {
		const { context, imap } = await office();
		const dice = new Dice(21);
		const folders = ['INBOX', 'Vessels', 'Vessels/Skua', 'Fees'];
		await imap.command('CREATE Fees');
		let made = 0;
		for (const folder of folders)
			await imap.append(
				folder,
				Array.from({ length: 12 }, () => bytesOf(`Note ${made++}`, 1 + (made % 28)))
			);
		/* The subjects in each folder, by the server. */
		const there = async () => {
			const found: Record<string, string[]> = {};
			for (const folder of folders) {
				const answer = await imap.command(`EXAMINE "${folder}"`);
				const subjects = / 0 EXISTS/.test(answer)
					? []
					: [...(await imap.command('FETCH 1:* BODY.PEEK[HEADER.FIELDS (SUBJECT)]')).matchAll(/^Subject: (.*)\r$/gm)];
				found[folder === 'INBOX' ? 'Inbox' : folder] = subjects.map(([, subject = '']) => subject).sort();
			}
			return found;
		};
		const here = async () => {
			const found = await rows<{ path: string; subject: string }>(
				context.db,
				sql`SELECT folder.path, subject FROM item JOIN message ON message.id = item.message_id JOIN folder ON folder.id = item.folder_id
				 WHERE item.state = 'live' ORDER BY subject`
			);
			const empty = folders.map((folder): [string, string[]] => [folder === 'INBOX' ? 'Inbox' : folder, []]);
			const by = Object.fromEntries(empty);
			for (const { path: folder, subject } of found) (by[folder] ??= []).push(subject);
			return by;
		};
		const someOf = async () => {
			const folder = folders[dice.between(0, folders.length - 1)] as string;
			const count = Number(/\* (\d+) EXISTS/.exec(await imap.command(`SELECT "${folder}"`))?.[1]);
			return { folder, number: count === 0 ? undefined : dice.between(1, count) };
		};
		for (let round = 0; round < ROUNDS; round++) {
			for (let n = dice.between(1, 4); n > 0; n--) {
				const { folder, number } = await someOf();
				const does = dice.between(0, 3);
				if (does === 0 || number === undefined) await imap.append(folder, [bytesOf(`Note ${made++}`, 1 + (made % 28))]);
				else if (does === 1) {
					const to = folders.filter((other) => other !== folder)[dice.between(0, 2)] as string;
					await imap.command(`MOVE ${number} "${to}"`);
				} else if (does === 2) await imap.command(`STORE ${number} +FLAGS (\\Seen)`);
				else {
					await imap.command(`STORE ${number} +FLAGS.SILENT (\\Deleted)`);
					await imap.command('EXPUNGE');
				}
			}
			// every third pass breaks off somewhere
			const cutAfter = round % 3 === 2 ? dice.between(500, 6_000) : Infinity;
			const { port } = await startProxy(onTestFinished, imap.port, { cutAfter });
			if (round === 0) await connectSource(context, { mailbox: MAILBOX, ...server(port) });
			await context.db('source').where({ id: 1 }).update({ port });
			await pass(context);
			if (cutAfter < Infinity) continue;
			expect(await here(), `round ${round}`).toEqual(await there());
		}
		await context.db('source').where({ id: 1 }).update({ port: imap.port });
		expect(await pass(context)).toMatchObject({ errors: [] });
		expect(await here()).toEqual(await there());
		// each message that was ever there is here once, live or in the bin
		const all = await rows<{ subject: string; n: number }>(
			context.db,
			sql`SELECT subject, count(*) AS n FROM item JOIN message ON message.id = item.message_id GROUP BY subject HAVING n > 1`
		);
		expect(all).toEqual([]);
		expect(await compareWeights(context.db)).toBe(0);
		expect((await checkLedger(context.db)).brokenAt).toBeUndefined();
	});

	it('leaves out a folder that shows all mail once more, also one that it followed before', async () => {
		const { context, imap } = await office();
		await imap.command('CREATE Everything');
		await imap.append('Everything', [bytesOf('Ramp'), bytesOf('Only there', 5)]);
		const { sentences, folders } = await connectSource(context, { mailbox: MAILBOX, ...server(imap.port) });
		expect(sentences.join(' ')).toMatch(
			/3 folders with 5 messages are there\. “Everything” shows messages of other folders/
		);
		expect(folders).not.toContain('Everything');
		expect(await pass(context)).toMatchObject({ folders: 3, new: 5, errors: [] });
		await connectSource(context, { mailbox: 'All', ...server(imap.port), root: 'Everything' });
		expect((await followSources(context, { mailbox: 'All' })).passes).toMatchObject([
			{ folders: 1, new: 2, errors: [] }
		]);
		// as an earlier Kovrel did
		await disconnectSource(context, { mailbox: 'All' });
		await change(
			context.db,
			sql`INSERT INTO source_folder (source_id, path, folder_id, path_here, uid_validity, uid_next, messages)
			 SELECT 1, 'Everything', folder.id, folder.path, '', 0, 0 FROM folder WHERE path = 'Vessels'`
		);
		expect(await pass(context)).toMatchObject({ folders: 3, new: 0, gone: 0, errors: [] });
		expect(
			await rows(context.db, sql`SELECT 1 FROM source_folder WHERE path = 'Everything' AND source_id = 1`)
		).toEqual([]);
	});

	it('knows its mail again on another server, where the same numbers are other messages', async () => {
		const { context } = await connected();
		await pass(context);
		const later = await ImapServer.start(temporaryFolder(), onTestFinished);
		await later.append('INBOX', [bytesOf('Ice', 16), bytesOf('Ramp'), bytesOf('Quay', 9)]);
		await later.command('CREATE Vessels/Skua');
		await later.append('Vessels/Skua', [bytesOf('Hull', 9)]);
		// as if it happened to number its folder like the former one
		const [, validity = ''] = /UIDVALIDITY (\d+)/.exec(await later.command('STATUS INBOX (UIDVALIDITY)')) ?? [];
		await change(context.db, sql`UPDATE source_folder SET uid_validity = ${validity} WHERE path = 'INBOX'`);
		const before = await places(context);
		const elsewhere = { ...server(later.port), host: 'localhost', writes: true };
		const { sentences } = await connectSource(context, { mailbox: MAILBOX, ...elsewhere });
		expect(sentences[0]).toMatch(/^Office was connected to 127\.0\.0\.1 as tester until now/);
		// one was not moved there: nobody removed it
		expect(await pass(context)).toMatchObject({
			new: 0,
			gone: 0,
			errors: [
				expect.stringMatching(
					/^1 message of 5 is not on localhost any more.* since it was connected or replaced.* to delete it, waits/
				)
			]
		});
		expect(await places(context)).toEqual(before);
		const ids = (await find(context, { query: 'subject:ramp', limit: 1 })).hits.map(({ id }) => id);
		await decideMessages(context, { decision: 'delete', options: {}, ids });
		expect(await pass(context)).toMatchObject({ waiting: 0, errors: [] });
		await later.command('SELECT INBOX');
		expect(await later.command('SEARCH SUBJECT Ramp')).toMatch(/^\* SEARCH\r$/m);
		expect(await later.command('SEARCH ALL')).toMatch(/^\* SEARCH 1 2\r$/m);
	});

	it('knows mail that was imported from files before', async () => {
		const { context, imap } = await office();
		const folder = temporaryFolder();
		const file = path.join(folder, 'ramp.eml');
		writeFileSync(file, bytesOf('Ramp'));
		await importMailbox(context, { path: file, mailbox: MAILBOX });
		await importMailbox(context, {
			path: mboxFile([letter('Other', 'Mon, 2 Mar 2026 10:00:00 +0000')]),
			mailbox: MAILBOX
		});
		await connectSource(context, { mailbox: MAILBOX, ...server(imap.port) });
		expect(await pass(context)).toMatchObject({ new: 4, gone: 0 });
		// what was never there is nobody's to remove
		expect(await places(context)).toMatchObject({ Ramp: 'live Inbox', Other: 'live Inbox' });
	});

	it('knows mail of a mail file, whose lines end otherwise, in whatever folder it was, with what was decided', async () => {
		const { context, imap } = await office();
		const letters = ['Ramp', 'Quay', 'Ice', 'Engine'].map((subject) =>
			bytesOf(subject, subject === 'Quay' ? 9 : subject === 'Ice' ? 16 : 2)
				.toString('latin1')
				.replaceAll('\r\n', '\n')
		);
		await importMailbox(context, { path: mboxFile(letters), mailbox: MAILBOX, folder: 'Export of May' });
		const idOf = async (subject: string) =>
			(await find(context, { query: `subject:${subject}`, limit: 1 })).hits.map(({ id }) => id);
		const decide = async (subject: string, decision: Decision, options: DecisionOptions = {}) =>
			decideMessages(context, { decision, options, ids: await idOf(subject) });
		const thrownAway = ['Ferry', 'Tug'].map((subject) => bytesOf(subject));
		const alsoThere = thrownAway.map((bytes) => bytes.toString('latin1').replaceAll('\r\n', '\n'));
		await importMailbox(context, { path: mboxFile(alsoThere), mailbox: MAILBOX, folder: 'Export of May' });
		await imap.command('CREATE Bin');
		await imap.append('Bin', thrownAway.slice(0, 1));
		await imap.append('Vessels', thrownAway.slice(1));
		await imap.command('SELECT Vessels');
		await imap.command('STORE 1 +FLAGS (\\Deleted)');
		await decide('Ramp', 'tag', { tag: 'Claims' });
		await decide('Quay', 'archive');
		await decide('Engine', 'delete');
		await decide('Ice', 'move', { folder: 'Winter' });
		await connectSource(context, { mailbox: MAILBOX, ...server(imap.port) });
		expect(await pass(context)).toMatchObject({ new: 3, gone: 0, errors: [] });
		expect(await places(context)).toEqual({
			// in the bin there, or marked as deleted: what was imported stays as it is, beside it
			Ferry: 'live Export of May; binned Trash',
			Tug: 'live Export of May; binned Trash',
			Ramp: 'live Inbox',
			Quay: 'archived Export of May',
			Engine: 'binned Trash',
			Ice: 'live Winter',
			Hull: 'live Vessels/Skua'
		});
		expect((await find(context, { query: 'tag:Claims', limit: 9 })).total).toBe(1);
		expect(await compareWeights(context.db)).toBe(0);
		expect(await pass(context)).toMatchObject({ new: 0, changed: 0, gone: 0 });
		// numbered anew: by the bytes, again
		await imap.command('DELETE "Vessels/Skua"');
		await imap.command('CREATE "Vessels/Skua"');
		await imap.append('Vessels/Skua', [bytesOf('Engine'), bytesOf('Hull', 9)]);
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, errors: [] });
	});

	it('has one bin, whatever it is called there and was called here', async () => {
		const { context, imap } = await office();
		const older = mboxFile(['Old', 'Older'].map((subject) => letter(subject, 'Mon, 2 Mar 2020 10:00:00 +0000')));
		await importMailbox(context, { path: older, mailbox: MAILBOX });
		const old = (await find(context, { query: 'subject:old', limit: 1 })).hits.map(({ id }) => id);
		await decideMessages(context, { decision: 'delete', options: {}, ids: old });
		for (const name of ['Bin', 'Bin/2024', 'Sent', 'Papierkorb']) await imap.command(`CREATE "${name}"`);
		await imap.append('Bin/2024', [bytesOf('Ferry')]);
		await imap.append('Papierkorb', [bytesOf('Tug')]);
		await connectSource(context, { mailbox: MAILBOX, ...server(imap.port), writes: true });
		expect(await pass(context)).toMatchObject({ gone: 0, errors: [] });
		expect(await places(context)).toMatchObject({
			Old: 'binned Trash',
			Ferry: 'binned Trash/2024',
			Tug: 'binned Papierkorb'
		});
		const ramp = (await find(context, { query: 'subject:ramp', limit: 1 })).hits.map(({ id }) => id);
		await decideMessages(context, { decision: 'delete', options: {}, ids: ramp });
		await imap.command('SELECT INBOX');
		await imap.command('MOVE 2 Papierkorb');
		await imap.command('MOVE 2 Bin');
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, waiting: 0, errors: [] });
		expect(await places(context)).toMatchObject({ Ramp: 'binned Trash', Ice: 'binned Trash' });
		await imap.command('SELECT Bin');
		expect(await imap.command('SEARCH SUBJECT Ramp')).toMatch(/SEARCH \d/);
		expect(await imap.command('LIST "" "*"')).not.toContain('"/" Trash');
	});

	it('gives the name of the bin here to the folder of that name there, if there is one', async () => {
		const { context, imap } = await office();
		const older = mboxFile([letter('Old', 'Mon, 2 Mar 2020 10:00:00 +0000')]);
		await importMailbox(context, { path: older, mailbox: MAILBOX });
		const ids = (await find(context, { query: 'subject:old', limit: 1 })).hits.map(({ id }) => id);
		await decideMessages(context, { decision: 'delete', options: {}, ids });
		for (const name of ['Bin', 'Trash']) await imap.command(`CREATE ${name}`);
		await imap.append('Bin', [bytesOf('Ferry')]);
		await imap.append('Trash', [bytesOf('Tug')]);
		await connectSource(context, { mailbox: MAILBOX, ...server(imap.port) });
		expect(await pass(context)).toMatchObject({ errors: [] });
		expect(await places(context)).toMatchObject({ Old: 'binned Trash', Ferry: 'binned Bin', Tug: 'binned Trash' });
	});

	it.each([true, false])(
		'keeps what was set when it gets a new password, and so after it was disconnected: %s',
		async (isEnded) => {
			const { context, imap } = await office();
			const certificate = '-----BEGIN CERTIFICATE-----\nof the office';
			const fetching = { fetchFirst: 'heaviest', bytesASecond: 2_000_000, connections: 1 } as const;
			const set = { leftOut: ['Vessels'], certificate, fetching };
			await connectSource(context, { mailbox: MAILBOX, ...server(imap.port), writes: true, ...set });
			await pass(context);
			await imap.command('CREATE Shared');
			if (isEnded) await disconnectSource(context, { mailbox: MAILBOX });
			const known = async () => (await knownServers(context)).map((server) => ({ ...server, disconnectedAt: null }));
			const before = await known();
			await connectSource(context, { mailbox: MAILBOX.toUpperCase(), ...server(imap.port) });
			expect(await known()).toEqual(before);
			expect(before).toMatchObject([{ ...fetching, certificate, leftOut: ['Vessels'], writes: isEnded ? 0 : 1 }]);
			expect(await pass(context)).toMatchObject({ new: 0, gone: 0 });
			// said otherwise, and of a folder that is there no more
			await imap.command('DELETE Vessels/Skua');
			await imap.command('DELETE Vessels');
			await connectSource(context, { mailbox: MAILBOX, ...server(imap.port), certificate: '' });
			expect(await known()).toMatchObject([{ certificate: null, leftOut: [] }]);
		}
	);

	it('leaves folders out, says why a server is not followed, and goes on when it is back', async () => {
		const { context, imap } = await office();
		await connectSource(context, { mailbox: MAILBOX, ...server(imap.port), leftOut: ['Vessels'] });
		expect(await pass(context)).toMatchObject({ folders: 1, new: 3 });
		await imap.stop();
		const stopped = await pass(context);
		expect(stopped).toMatchObject({ new: 0, gone: 0, errors: [expect.stringMatching(/Nothing listens|did not/)] });
		expect(await listSources(context)).toMatchObject([{ error: stopped?.errors[0] }]);
		expect(Object.keys(await places(context))).toHaveLength(3);
		await disconnectSource(context, { mailbox: MAILBOX });
		expect(await listSources(context)).toEqual([]);
		expect(Object.keys(await places(context))).toHaveLength(3);
		await expect(followSources(context, { mailbox: MAILBOX })).rejects.toThrow('no live mailbox');
	});

	it('is disconnected with mail on the server alone only where that is wished', async () => {
		const { context, imap } = await office();
		await connectSource(context, { mailbox: MAILBOX, ...server(imap.port), writes: true });
		const disconnect = (unfinished?: boolean) => disconnectSource(context, { mailbox: MAILBOX, unfinished });
		await expect(disconnect()).rejects.toThrow(/not disconnected.*has not been through.*may have more mail/);
		await pass(context);
		const ids = (await find(context, { query: 'subject:ramp', limit: 1 })).hits.map(({ id }) => id);
		await decideMessages(context, { decision: 'archive', options: {}, ids });
		await expect(disconnect()).rejects.toThrow(/not disconnected\. 1 message waits for 127\.0\.0\.1/);
		expect(await listSources(context)).toHaveLength(1);
		expect((await disconnect(true)).sentence).toMatch(/1 message waits .* The other mail stays here/);
		expect(await listSources(context)).toEqual([]);
		expect(await imap.command('EXAMINE INBOX')).toContain('3 EXISTS');
	});

	it.each(['127.0.0.1', 'localhost'])('goes on when it is connected again, as %s', async (host) => {
		const { context, imap } = await connected();
		await pass(context);
		await disconnectSource(context, { mailbox: MAILBOX });
		expect(await getMailbox(context.db, 1)).toMatchObject({ name: MAILBOX, server: undefined });
		expect(await rows(context.db, sql`SELECT 1 FROM source WHERE length(secret) > 0 OR writes = 1`)).toEqual([]);
		const [ice] = (await find(context, { query: 'subject:ice', limit: 1 })).hits;
		await decideMessages(context, { decision: 'archive', options: {}, ids: [ice?.id ?? 0] });
		await imap.command('SELECT INBOX');
		await imap.command('MOVE 1 Vessels');
		await imap.command('STORE 1 +FLAGS (\\Deleted)');
		await imap.command('EXPUNGE');
		await imap.append('INBOX', [bytesOf('Tides', 23)]);
		const given = { mailbox: MAILBOX, ...server(imap.port), host, writes: true };
		expect((await connectSource(context, given)).sentences[0]).toMatch(
			host === 'localhost'
				? /^Office was connected to 127\.0\.0\.1 as tester until \d/
				: /^Office .* goes on from there/
		);
		// nobody told Kovrel of the one that was removed, and nothing is carried there unasked
		expect(await pass(context)).toMatchObject({
			...{ new: 1, changed: 1, gone: 0, waiting: 0 },
			errors: [
				expect.stringMatching(
					`^1 message of 6 is not on ${host} any more.* since it was connected .* to delete it, waits`
				)
			]
		});
		expect(await places(context)).toEqual({
			Engine: 'live Vessels/Skua',
			Hull: 'live Vessels/Skua',
			Ice: 'archived Inbox',
			Quay: 'live Inbox',
			Ramp: 'live Vessels',
			Tides: 'live Inbox'
		});
		expect(await imap.command('EXAMINE INBOX')).toContain('2 EXISTS');
		expect(await pass(context)).toMatchObject({ new: 0, changed: 0, gone: 0, errors: [] });
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('is looked at again by itself: when something is new, and when a server that was silent is back', async () => {
		const { context, imap } = await connected();
		const news = (minutes: number) => {
			const now = () => new Date(context.now().getTime() + minutes * 60_000);
			return useCase('serversHaveNews').run({ ...context, now }, undefined as never);
		};
		const moveTo = (port: number) => context.db('source').where({ id: 1 }).update({ port });
		expect(await news(0)).toBe(true);
		await pass(context);
		expect(await news(0)).toBe(false);
		await imap.append('Vessels', [bytesOf('Anchor')]);
		expect(await news(0)).toBe(true);
		await pass(context);
		await moveTo(1);
		// said once
		expect(await news(0)).toBe(true);
		await pass(context);
		expect(await news(1)).toBe(false);
		expect(await news(16)).toBe(false);
		await moveTo(imap.port);
		expect(await news(1)).toBe(false);
		expect(await news(16)).toBe(true);
		expect(await pass(context)).toMatchObject({ new: 0, errors: [] });
		expect(await listSources(context)).toMatchObject([{ error: null }]);
	});

	it('is heard when something happens in its inbox (IDLE)', async () => {
		onTestFinished(stopListening);
		const { context, imap } = await connected();
		const spoken = async () =>
			((await useCase('serversHaveSpoken').run(context, undefined as never)) as { mailboxes: string[] }).mailboxes;
		const isHeard = () => expect.poll(spoken, { timeout: 20_000 }).toEqual([MAILBOX]);
		// nothing is listened to before the first pass
		expect(await spoken()).toEqual([]);
		await pass(context);
		await imap.command('SELECT INBOX');
		// until the line stands
		await expect
			.poll(
				async () => {
					await imap.command('STORE 1 +FLAGS (\\Seen)');
					await imap.command('STORE 1 -FLAGS (\\Seen)');
					return spoken();
				},
				{ timeout: 20_000 }
			)
			.toEqual([MAILBOX]);
		await imap.append('INBOX', [bytesOf('Tides', 23)]);
		await isHeard();
		await imap.command('STORE 1 +FLAGS (\\Flagged)');
		await isHeard();
		expect(await pass(context)).toMatchObject({ new: 1, changed: 1 });
		await disconnectSource(context, { mailbox: MAILBOX });
		expect(await spoken()).toEqual([]);
	});

	it('keeps the password out of the ledger and of backups', async () => {
		const { context } = await connected();
		const { file } = await backUp(context, { out: temporaryFolder() });
		const key = readFileSync(path.join(context.dataFolder, 'mail-servers.key'), 'utf8').trim();
		const backup = readFileSync(file);
		for (const inside of [Buffer.from(key, 'base64'), Buffer.from(key)]) expect(backup.includes(inside)).toBe(false);
		const said = await rows<{ details: string }>(context.db, sql`SELECT details FROM ledger`);
		expect(JSON.stringify(said)).not.toContain('secret');
	});
});
