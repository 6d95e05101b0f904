import { spawnSync } from 'node:child_process';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { Dice } from '../../../../demo/random.ts';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import type { Context } from '../context/context.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { takeBack } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { carryOut } from '../docket/carry-out.ts';
import { find } from '../find/find.ts';
import { checkLedger } from '../ledger/index.ts';
import { closeParsePool } from '../mail/parse-pool.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { useCase } from '../process/use-cases.ts';
import { type Disturbing, startProxy } from '../testing/imap-proxy.ts';
import { hasImapServer, ImapServer } from '../testing/imap-server.ts';
import { letter, openOffice, temporaryFolder } from '../testing/office.ts';
import { connectSource, listSources } from './connect.ts';
import { followSources } from './follow.ts';

afterAll(closeParsePool);

const MAILBOX = 'Office';
const login = (port: number) => ({ host: '127.0.0.1', port, tls: 'none' as const, user: 'tester', secret: 'secret' });
const bytesOf = (subject: string, day = 2) =>
	Buffer.from(letter(subject, `Mon, ${day} Mar 2026 10:00:00 +0000`).replaceAll('\n', '\r\n'));

/* What the server says, by Python's imaplib: folder, subject, flags and keywords, INTERNALDATE, SHA-256 of the bytes. */
const AS_PYTHON = `
import imaplib, sys, json, hashlib, re
box = imaplib.IMAP4('127.0.0.1', int(sys.argv[1]))
box.login('tester', 'secret')
found = []
for line in box.list()[1]:
    name = line.decode().split(' "/" ')[1].strip('"')
    if box.select('"%s"' % name, readonly=True)[0] != 'OK': continue
    for number in box.search(None, 'ALL')[1][0].split():
        answer = box.fetch(number, '(FLAGS INTERNALDATE BODY.PEEK[])')[1]
        head, body = answer[0][0].decode(), answer[0][1]
        tail = b''.join(part for part in answer[1:] if isinstance(part, bytes)).decode()
        flags = re.search(r'FLAGS \\(([^)]*)\\)', head + tail).group(1).split()
        date = re.search(r'INTERNALDATE "([^"]*)"', head + tail).group(1).strip()
        subject = re.search(rb'^Subject: (.*?)\\r$', body, re.M).group(1).decode()
        found.append([name, subject, sorted(flag for flag in flags if flag != '\\\\Recent'), date, hashlib.sha256(body).hexdigest()])
print(json.dumps(found))
`;
interface Seen {
	folder: string;
	subject: string;
	flags: string[];
	date: string;
	sha256: string;
}
function seenByPython(port: number): Seen[] {
	const { stdout, stderr } = spawnSync('python3', ['-c', AS_PYTHON, String(port)], { encoding: 'utf8' });
	expect(stderr).toBe('');
	return (JSON.parse(stdout) as [string, string, string[], string, string][]).map(
		([folder, subject, flags, date, sha256]) => ({ folder, subject, flags, date, sha256 })
	);
}

/* Decides and carries out; as a docket of its own. @returns its number */
async function decide(
	context: Context,
	query: string,
	decision: Decision,
	options: DecisionOptions = {}
): Promise<number> {
	const { hits } = await find(context, { query, limit: 1_000 });
	const { id } = await prepareDocket(context, {
		mailboxId: 1,
		lines: [{ decision, options, scope: { kind: 'items', ids: hits.map(({ id: item }) => item), label: query } }]
	});
	await carryOut(context, { id });
	return id;
}

const pass = async (context: Context) => (await followSources(context, { mailbox: MAILBOX })).passes[0];

async function office(disturbing: Disturbing = {}): Promise<{ context: Context; imap: ImapServer }> {
	const imap = await ImapServer.start(temporaryFolder(), onTestFinished);
	const context = await openOffice();
	for (const name of ['Vessels', 'Bin']) await imap.command(`CREATE ${name}`);
	await imap.append('INBOX', [bytesOf('Ramp'), bytesOf('Quay', 9), bytesOf('Ice', 16)]);
	await imap.append('Vessels', [bytesOf('Engine')]);
	const { port } = await startProxy(onTestFinished, imap.port, disturbing);
	await connectSource(context, { mailbox: MAILBOX, ...login(port), writes: true });
	expect(await pass(context)).toMatchObject({ new: 4, waiting: 0, errors: [] });
	return { context, imap };
}

const NONE = ['CONDSTORE', 'QRESYNC', 'MOVE', 'UIDPLUS', 'QUOTA', 'SPECIAL-USE', 'LIST-STATUS', 'ESEARCH'];
const SERVERS: [which: string, hides: string[]][] = [
	['that has all extensions', []],
	['without MOVE', ['MOVE']],
	['without UIDPLUS', ['UIDPLUS']],
	['that numbers no changes', ['CONDSTORE', 'QRESYNC']],
	['that has none of them', NONE]
];

describe.skipIf(!hasImapServer())('what is decided here', () => {
	it.each(SERVERS)('is so on a server %s, bytes, dates and marks included, and back again', async (_which, hides) => {
		const { context, imap } = await office({ hides });
		await imap.command('SELECT INBOX');
		await imap.command('STORE 1 +FLAGS (\\Flagged Urgent)');
		await pass(context);
		const before = seenByPython(imap.port);
		const placed = () =>
			Object.fromEntries(
				seenByPython(imap.port).map(({ subject, folder, flags }) => [subject, [folder, ...flags].join(' ')])
			);
		const carried = async (...expected: [subject: string, place: string | undefined][]) => {
			expect(await pass(context)).toMatchObject({ new: 0, gone: 0, waiting: 0, errors: [] });
			const there = placed();
			for (const [subject, place] of expected) expect([subject, there[subject]]).toEqual([subject, place]);
			expect(await compareWeights(context.db)).toBe(0);
		};
		const archived = await decide(context, 'subject:ramp', 'archive');
		await carried(['Ramp', undefined]);
		const moved = await decide(context, 'subject:quay', 'move', { folder: 'Berths/Torsay' });
		await carried(['Quay', 'Berths/Torsay']);
		expect(await imap.command('LSUB "" "*"')).toContain('Berths/Torsay');
		const deleted = await decide(context, 'subject:ice', 'delete');
		await carried(['Ice', 'Bin']);
		const tagged = await decide(context, 'subject:engine', 'tag', { tag: 'Crew papers' });
		const flagged = await decide(context, 'subject:engine', 'flag');
		const read = await decide(context, 'subject:engine', 'read');
		await carried(['Engine', 'Vessels Crew_papers \\Flagged \\Seen']);
		for (const docket of [read, flagged, tagged, deleted, moved, archived]) await takeBack(context, { id: docket });
		await carried(['Ice', 'INBOX'], ['Quay', 'INBOX'], ['Engine', 'Vessels'], ['Ramp', 'INBOX Urgent \\Flagged']);
		const order = (seen: Seen[]) => [...seen].sort((a, b) => (a.subject < b.subject ? -1 : 1));
		expect(order(seenByPython(imap.port))).toEqual(order(before));
		// nothing came in anew by all of this
		expect((await find(context, { query: '', limit: 1 })).total).toBe(4);
		expect((await checkLedger(context.db)).brokenAt).toBeUndefined();
	});

	it('is destroyed there as well when the bin is emptied', async () => {
		const { context, imap } = await office();
		await decide(context, 'subject:ice', 'delete');
		await pass(context);
		expect(seenByPython(imap.port).map(({ folder, subject }) => `${folder} ${subject}`)).toContain('Bin Ice');
		const { id } = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'destroy', options: {}, scope: { kind: 'bin', binnedBy: undefined } }]
		});
		expect(await carryOut(context, { id, confirm: MAILBOX })).toMatchObject({ messages: 1 });
		expect(await pass(context)).toMatchObject({ new: 0, waiting: 0, errors: [] });
		expect(seenByPython(imap.port).map(({ subject }) => subject)).not.toContain('Ice');
		expect(await pass(context)).toMatchObject({ new: 0, changed: 0 });
	});
});
