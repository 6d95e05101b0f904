import { existsSync, readFileSync, readlinkSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it, onTestFinished } from 'vitest';
import { scriptsOf, sieveString } from '../../../core/sources/managesieve.ts';
import type { Context } from '../context/context.ts';
import { allowWriting, connectSource, requireSource, withSieveServer } from '../sources/index.ts';
import { certificateFor } from '../testing/certificate.ts';
import { hasSieveServer, ImapServer } from '../testing/imap-server.ts';
import { openOffice, temporaryFolder } from '../testing/office.ts';
import { addRule, switchRule } from './rules.ts';
import { putScriptOnServer, scriptOnServer } from './server-script.ts';

const MAILBOX = 'Office';

/* Debian's dovecot-managesieved on loopback, on an encrypted line. */
describe.skipIf(!hasSieveServer())('standing decisions on a mail server', () => {
	async function office({ secret = 'secret', writes = true } = {}) {
		const tls = await certificateFor('localhost');
		const folder = temporaryFolder();
		const imap = await ImapServer.start(folder, onTestFinished, { tls, sieve: true });
		const context = await openOffice();
		await imap.command('CREATE Bin');
		const server = { host: 'localhost', port: imap.port, tls: 'starttls' as const, user: 'tester', secret };
		await connectSource(context, { mailbox: MAILBOX, ...server, certificate: tls.cert, writes });
		const decisions = [
			{ query: 'address:quay@harbour.example', then: 'move' as const, options: { folder: 'Inbox/Quay' } },
			{ query: 'address:mate@skerryline.example', then: 'delete' as const, options: {} },
			{ query: 'address:log@skerryline.example', then: 'archive' as const, options: {} }
		];
		for (const [at, rule] of decisions.entries())
			await addRule(context, { mailbox: MAILBOX, rule: { ...rule, name: `Decision ${at}`, stay: {} } });
		const home = path.join(folder, 'mail', 'tester');
		const put = (options = {}) => putScriptOnServer(context, { mailbox: MAILBOX, port: imap.sievePort, ...options });
		return { context, imap, put, home };
	}
	const onServer = async (context: Context, port: number, command: string) => {
		const { source } = await requireSource(context, MAILBOX);
		return withSieveServer(context, source, port, (line) => line.command(command));
	};

	it('are checked and made active there, by the names of its folders; what it cannot do stays with Kovrel', async () => {
		const { context, put, home, imap } = await office();
		expect(await put()).toMatchObject({
			written: [1, 2],
			left: [{ rule: 3, why: 'archived mail goes into Kovrel, not onto the server' }],
			isActive: true,
			sentences: [
				'2 standing decisions act on localhost from now on, when mail is delivered.',
				expect.stringContaining('the page says that the script there is older'),
				'Decision 2 stays with Kovrel: archived mail goes into Kovrel, not onto the server.'
			]
		});
		const script = readFileSync(path.join(home, 'sieve', 'Kovrel.sieve'), 'utf8');
		expect(script).toContain('fileinto :create "INBOX/Quay";');
		expect(script).toContain('fileinto :create "Bin";');
		expect(readlinkSync(path.join(home, 'active.sieve'))).toMatch(/Kovrel\.sieve$/);
		expect((await onServer(context, imap.sievePort, 'GETSCRIPT "Kovrel"')).lines).toEqual([[script]]);
		// again, after a decision was switched off
		const standing = () => scriptOnServer(context, { mailboxId: 1 });
		expect(await standing()).toBe('current');
		await switchRule(context, { id: 2, isOn: false });
		expect(await standing()).toBe('older');
		expect(await put()).toMatchObject({ written: [1], isActive: true });
		expect(await standing()).toBe('current');
		expect(readFileSync(path.join(home, 'sieve', 'Kovrel.sieve'), 'utf8')).not.toContain('"Bin";');
		// archived mail lies there where the mailbox says so
		await allowWriting(context, { mailbox: MAILBOX, writes: true, archiveOn: 'server' });
		expect(await put()).toMatchObject({ written: [1, 3] });
		// where none is left, the server does not go on with what nobody wants any more
		for (const id of [1, 3]) await switchRule(context, { id, isOn: false });
		expect(await put()).toMatchObject({ written: [], isActive: false });
		expect(await standing()).toBe('none');
		expect(existsSync(path.join(home, 'sieve', 'Kovrel.sieve'))).toBe(false);
		expect(existsSync(path.join(home, 'active.sieve'))).toBe(false);
		expect(await put()).toMatchObject({ written: [], isActive: false });
	});

	it('do not act in place of another script until that is said', async () => {
		const { context, put, imap } = await office();
		await onServer(context, imap.sievePort, `PUTSCRIPT "holiday" ${sieveString('keep;\r\n')}`);
		await onServer(context, imap.sievePort, 'SETACTIVE "holiday"');
		const stored = await put();
		expect(stored.isActive).toBe(false);
		expect(stored.sentences[0]).toContain('do not act: the script “holiday” is active there');
		const scripts = async () => scriptsOf(await onServer(context, imap.sievePort, 'LISTSCRIPTS'));
		expect(await scripts()).toEqual(
			expect.arrayContaining([
				{ name: 'holiday', isActive: true },
				{ name: 'Kovrel', isActive: false }
			])
		);
		expect(await put({ replaces: true })).toMatchObject({ isActive: true });
		expect(await scripts()).toEqual(
			expect.arrayContaining([
				{ name: 'holiday', isActive: false },
				{ name: 'Kovrel', isActive: true }
			])
		);
	});

	it('are not put where Kovrel only reads, or nothing answers; nothing changes then', async () => {
		const { context, put, home } = await office({ writes: false });
		await expect(put()).rejects.toThrow(/only reads localhost.*Nothing was done/);
		await allowWriting(context, { mailbox: MAILBOX, writes: true });
		await expect(put({ port: 1 })).rejects.toThrow(
			/ManageSieve server of localhost: nothing listens at its port. The former script there stays as it was/
		);
		expect(existsSync(path.join(home, 'sieve', 'Kovrel.sieve'))).toBe(false);
	});
});
