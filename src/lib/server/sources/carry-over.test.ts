import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { Dice } from '../../../../demo/random.ts';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import type { Context } from '../context/context.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { showDocket } from '../docket/show-docket.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { checkLedger } from '../ledger/index.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { verify } from '../backup/verify-archive.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { useCase } from '../process/use-cases.ts';
import { type Disturbing, startProxy } from '../testing/imap-proxy.ts';
import { hasImapServer, ImapServer } from '../testing/imap-server.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { allowWriting, retryRefused } from './allow-writing.ts';
import { connectSource, disconnectSource, listSources } from './connect.ts';
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

/* Folder and subject of everything on the server. */
const places = (imap: ImapServer) =>
	seenByPython(imap.port)
		.map(({ folder, subject }) => `${folder} ${subject}`)
		.sort();

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
	it.each(SERVERS)(
		'reaches no other message on a server %s that was replaced under its name',
		async (_which, hides) => {
			const { context, imap } = await office({ hides });
			// the same numbers under the same UIDVALIDITY, of other messages
			imap.replaceMail('INBOX', [bytesOf('Quay', 9), bytesOf('Ramp'), bytesOf('Buoy', 23)]);
			await decide(context, 'subject:ramp', 'archive');
			await decide(context, 'subject:quay', 'move', { folder: 'Vessels' });
			await decide(context, 'subject:ice', 'flag');
			expect(await pass(context)).toMatchObject({
				new: 1,
				gone: 0,
				waiting: 0,
				errors: [
					expect.stringMatching(/has other messages under the numbers that it gave before/),
					expect.stringMatching(/1 message of 5 is not on .* any more/)
				]
			});
			expect(places(imap)).toEqual(['INBOX Buoy', 'Vessels Engine', 'Vessels Quay']);
			expect(seenByPython(imap.port).flatMap(({ flags }) => flags)).toEqual([]);
			expect(await compareWeights(context.db)).toBe(0);
			expect(await pass(context)).toMatchObject({ new: 0, gone: 0, waiting: 0, errors: [] });
		}
	);

	it('knows messages by their bytes where the server gives what it moves another date', async () => {
		const { context, imap } = await office();
		imap.setDates('INBOX', new Date('2026-04-01T00:00:00Z'));
		await decide(context, 'subject:ramp', 'archive');
		await decide(context, 'subject:quay', 'move', { folder: 'Vessels' });
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, waiting: 0, errors: [] });
		expect(places(imap)).toEqual(['INBOX Ice', 'Vessels Engine', 'Vessels Quay']);
		// of a destroyed message only the date is known: another one in its place stays
		await decide(context, 'subject:ice', 'delete');
		await pass(context);
		imap.setDates('Bin', new Date('2026-05-01T00:00:00Z'));
		const { id } = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'destroy', options: {}, scope: { kind: 'bin', binnedBy: undefined } }]
		});
		await carryOut(context, { id, confirm: 'destroy' });
		expect(await pass(context)).toMatchObject({
			errors: [expect.stringMatching(/another date in the place of destroyed/)]
		});
		expect(places(imap)).toContain('Bin Ice');
	});

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
			expect((await verify(context)).damaged).toEqual([]);
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

	it.each(SERVERS)('leaves no mark of Kovrel on what stays after all, on a server %s', async (_which, hides) => {
		// marked as deleted, and then not expunged: as where the line breaks in between
		const { context, imap } = await office({ hides, garbles: ['EXPUNGE'] });
		const flagsOf = (wanted: string) => seenByPython(imap.port).find(({ subject }) => subject === wanted)?.flags;
		const archived = await decide(context, 'subject:ramp', 'archive');
		expect(await pass(context)).toMatchObject({ waiting: 1 });
		expect(flagsOf('Ramp')).toEqual(['\\Deleted']);
		await takeBack(context, { id: archived });
		await decide(context, 'subject:quay', 'move', { folder: 'Vessels' });
		const { port } = await startProxy(onTestFinished, imap.port, { hides });
		await context.db('source').where({ id: 1 }).update({ port });
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, waiting: 0, errors: [] });
		expect(flagsOf('Ramp')).toEqual([]);
		expect(places(imap)).toEqual(['INBOX Ice', 'INBOX Ramp', 'Vessels Engine', 'Vessels Quay']);
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, waiting: 0, errors: [] });
	});

	it.each(SERVERS)(
		'puts mail of a file, whose lines end otherwise, as mail travels on a server %s',
		async (_which, hides) => {
			const { context, imap } = await office({ hides });
			const old = letter('Old', 'Mon, 2 Mar 2020 10:00:00 +0000');
			await importMailbox(context, { path: mboxFile([old]), mailbox: MAILBOX, folder: 'Export' });
			await decide(context, 'subject:old', 'move', { folder: 'Vessels' });
			for (let n = 0; n < 2; n++)
				expect(await pass(context)).toMatchObject({ new: 0, gone: 0, waiting: 0, errors: [] });
			const travelling = createHash('sha256').update(old.replaceAll('\n', '\r\n')).digest('hex');
			expect(seenByPython(imap.port).filter(({ subject }) => subject === 'Old')).toMatchObject([
				{ folder: 'Vessels', sha256: travelling }
			]);
			expect((await find(context, { query: 'subject:old', limit: 9 })).hits).toMatchObject([{ folder: 'Vessels' }]);
		}
	);

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

	it('is destroyed there though nobody could reach it, and no new mail is taken for it', async () => {
		const { context, imap } = await office();
		const highest = await rows<{ id: number; subject: string }>(
			context.db,
			sql`SELECT item.id, subject FROM item JOIN message ON message.id = item.message_id ORDER BY item.id DESC LIMIT 1`
		);
		const { id: number = 0, subject = '' } = highest[0] ?? {};
		await decide(context, `subject:${subject}`, 'delete');
		await pass(context);
		await context.db('source').where({ id: 1 }).update({ port: 1 });
		const { id } = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'destroy', options: {}, scope: { kind: 'bin', binnedBy: undefined } }]
		});
		await carryOut(context, { id, confirm: MAILBOX });
		const more = mboxFile([letter('More', 'Mon, 2 Mar 2026 10:00:00 +0000')]);
		await importMailbox(context, { path: more, mailbox: MAILBOX, folder: 'Vessels' });
		const [added] = (await find(context, { query: 'subject:more', limit: 1 })).hits;
		expect(added?.id).toBeGreaterThan(number);
		await context.db('source').where({ id: 1 }).update({ port: imap.port });
		expect(await pass(context)).toMatchObject({ new: 0, waiting: 0, errors: [] });
		expect(places(imap).join(' ')).not.toContain(subject);
		expect((await find(context, { query: 'subject:more', limit: 1 })).hits).toMatchObject([
			{ state: 'live', waits: 0 }
		]);
	});

	it('is refused with the words of the server, stays here, and is tried again when told', async () => {
		const { context, imap } = await office();
		const { port } = await startProxy(onTestFinished, imap.port, { garbles: ['UID MOVE'] });
		await context.db('source').where({ id: 1 }).update({ port });
		const docket = await decide(context, 'subject:quay', 'move', { folder: 'Vessels' });
		expect((await showDocket(context, { id: docket })).server).toEqual({ waiting: 1, refused: 0 });
		expect(await pass(context)).toMatchObject({
			waiting: 1,
			errors: [
				expect.stringMatching(/^127\.0\.0\.1 did not move messages from INBOX to Vessels: “.*” \(1 message\)\.$/)
			]
		});
		expect((await showDocket(context, { id: docket })).server).toEqual({ waiting: 1, refused: 1 });
		expect((await find(context, { query: 'subject:quay', limit: 1 })).hits).toMatchObject([
			{ folder: 'Vessels', waits: 1 }
		]);
		// a person's turn: it is not tried again by itself
		expect(await pass(context)).toMatchObject({ waiting: 1, errors: [] });
		await context.db('source').where({ id: 1 }).update({ port: imap.port });
		expect(await retryRefused(context, { mailbox: MAILBOX })).toMatchObject({ messages: 1 });
		expect(await pass(context)).toMatchObject({ waiting: 0, errors: [] });
		expect(places(imap)).toContain('Vessels Quay');
	});

	it('takes nothing off the server of which the bytes here are damaged', async () => {
		const { context, imap } = await office();
		await decide(context, 'subject:quay', 'archive');
		await context.db.raw(
			`UPDATE content SET data = zeroblob(length(data)) WHERE id = (SELECT content_id FROM message WHERE subject = 'Quay')`
		);
		expect(await pass(context)).toMatchObject({ waiting: 1, errors: [expect.stringMatching(/damaged.*stays/)] });
		expect(places(imap)).toContain('INBOX Quay');
	});

	it('stays here while the server is only read; later it is carried there when that is said', async () => {
		const { context, imap } = await office();
		await allowWriting(context, { mailbox: MAILBOX, writes: false });
		await decide(context, 'subject:quay', 'archive');
		await decide(context, 'subject:ice', 'delete');
		expect(await pass(context)).toMatchObject({ waiting: 0, errors: [] });
		expect(places(imap)).toEqual(['INBOX Ice', 'INBOX Quay', 'INBOX Ramp', 'Vessels Engine']);
		expect(await allowWriting(context, { mailbox: MAILBOX, writes: true })).toMatchObject({ earlier: 2 });
		expect(await pass(context)).toMatchObject({ waiting: 0, errors: [] });
		expect(places(imap)).toContain('INBOX Quay');
		expect(await allowWriting(context, { mailbox: MAILBOX, writes: true, earlier: true })).toMatchObject({
			earlier: 0
		});
		expect(await pass(context)).toMatchObject({ waiting: 0, errors: [] });
		expect(places(imap)).toEqual(['Bin Ice', 'INBOX Ramp', 'Vessels Engine']);
	});

	it.each(SERVERS)(
		'is archived in the archive folder of a server %s, by choice, and comes back',
		async (_which, hides) => {
			const { context, imap } = await office({ hides });
			await allowWriting(context, { mailbox: MAILBOX, writes: true, archiveOn: 'server' });
			const docket = await decide(context, 'subject:engine', 'archive');
			const { lines } = await showDocket(context, { id: docket });
			expect(lines[0]?.consequence).toMatch(/archive folder .* frees nothing/);
			expect(await pass(context)).toMatchObject({ new: 0, waiting: 0, errors: [] });
			expect(places(imap)).toContain('Archive/Vessels Engine');
			expect(await pass(context)).toMatchObject({ new: 0, changed: 0, gone: 0 });
			expect((await find(context, { query: 'subject:engine', limit: 2 })).hits).toMatchObject([{ state: 'archived' }]);
			await takeBack(context, { id: docket });
			expect(await pass(context)).toMatchObject({ new: 0, waiting: 0, errors: [] });
			expect(places(imap)).toContain('Vessels Engine');
		}
	);

	it('keeps tags here that the server does not keep as keywords', async () => {
		// as of a folder that says that it takes no new keywords (RFC 3501 section 7.1, PERMANENTFLAGS)
		const { context, imap } = await office({ hides: ['\\*'] });
		await decide(context, 'subject:ramp', 'tag', { tag: 'Urgent' });
		await decide(context, 'subject:ramp', 'flag');
		for (let n = 0; n < 2; n++) expect(await pass(context)).toMatchObject({ errors: [], changed: 0, waiting: 0 });
		expect(seenByPython(imap.port).find(({ subject }) => subject === 'Ramp')?.flags).toEqual(['\\Flagged']);
		expect((await find(context, { query: 'tag:urgent flagged', limit: 2 })).total).toBe(1);
	});

	it('puts nothing into a folder that is left out, and says so; the mail of one that is left out later stays', async () => {
		const { context, imap } = await office();
		const given = { mailbox: MAILBOX, ...login(imap.port), leftOut: ['Vessels'] };
		await connectSource(context, given);
		expect(await pass(context)).toMatchObject({ gone: 0, errors: [] });
		expect((await find(context, { query: 'subject:engine state:live', limit: 2 })).total).toBe(1);
		await decide(context, 'subject:quay', 'move', { folder: 'Vessels' });
		expect(await pass(context)).toMatchObject({ waiting: 1, errors: [expect.stringMatching(/^Vessels is left out/)] });
		expect(await pass(context)).toMatchObject({ gone: 0 });
		expect(places(imap)).toContain('INBOX Quay');
		expect((await find(context, { query: 'subject:quay state:live', limit: 2 })).total).toBe(1);
	});

	it('keeps the names of folders apart that were renamed here while the server was only read', async () => {
		const { context, imap } = await office();
		await allowWriting(context, { mailbox: MAILBOX, writes: false });
		await useCase('renameFolder').run(context, { mailbox: MAILBOX, folder: 'Vessels', to: 'Ships' } as never);
		await allowWriting(context, { mailbox: MAILBOX, writes: true });
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, errors: [] });
		expect(places(imap)).toContain('Vessels Engine');
		expect((await find(context, { query: 'folder:Ships', limit: 2 })).total).toBe(1);
	});

	it('keeps folders apart whose names are the same here, and renames none on its own', async () => {
		const { context, imap } = await office();
		// "Ports" came from a file before; modified UTF-7 (RFC 3501 section 5.1.3): B&APw-ro is "Büro"
		await importMailbox(context, {
			path: mboxFile([letter('Old', 'Mon, 2 Mar 2020 10:00:00 +0000')]),
			mailbox: MAILBOX,
			folder: 'Ports'
		});
		const names = ['PORTS', 'Crew', 'CREW', 'crew', 'B&APw-ro', 'Buro', 'crew/Rotas', 'Crew/rotas', '" Slips "'];
		for (const [at, name] of names.entries()) {
			await imap.command(`CREATE ${name}`);
			await imap.append(name.replaceAll('"', ''), [bytesOf(`Letter ${at}`), bytesOf('Same in all', 9)]);
		}
		const before = seenByPython(imap.port);
		expect(await pass(context)).toMatchObject({ new: 2 * names.length, errors: [] });
		expect(await pass(context)).toMatchObject({ new: 0, changed: 0, gone: 0, errors: [] });
		expect(seenByPython(imap.port)).toEqual(before);
		const here = await rows<{ path: string }>(
			context.db,
			sql`SELECT DISTINCT path FROM folder JOIN item ON item.folder_id = folder.id WHERE path <> 'Inbox' ORDER BY path`
		);
		// the one that the server lists first has no number
		const unnumbered = here.map(({ path }) => path.replaceAll(/ \(\d\)/g, '').toLowerCase()).sort();
		expect(unnumbered).toEqual(
			['buro', 'büro', 'crew', 'crew', 'crew', 'crew/rotas', 'crew/rotas', 'ports', 'slips', 'vessels'].sort()
		);
		expect(here).toContainEqual({ path: 'Ports' });
		const id = await decide(context, 'state:live', 'archive');
		expect(await pass(context)).toMatchObject({ waiting: 0, errors: [] });
		await takeBack(context, { id });
		expect(await pass(context)).toMatchObject({ waiting: 0, errors: [] });
		const place = ({ folder, subject, sha256 }: Seen) => `${folder} ${subject} ${sha256}`;
		const after = seenByPython(imap.port);
		expect(before.map(place).filter((one) => !after.map(place).includes(one))).toEqual([]);
	});

	it('makes no second folder here for a name that the server writes otherwise', async () => {
		const imap = await ImapServer.start(temporaryFolder(), onTestFinished, { separator: '.' });
		const context = await openOffice();
		await imap.append('INBOX', [bytesOf('Ramp')]);
		await connectSource(context, { mailbox: MAILBOX, ...login(imap.port), writes: true });
		await pass(context);
		await decide(context, 'subject:ramp', 'move', { folder: 'Berths/St. Brannoc' });
		for (let passes = 0; passes < 2; passes++) expect(await pass(context)).toMatchObject({ waiting: 0, errors: [] });
		expect(await imap.command('LIST "" "*"')).toContain('"." "Berths.St_ Brannoc"');
		const here = await rows<{ path: string }>(
			context.db,
			sql`SELECT path FROM folder WHERE path LIKE 'Berths%' ORDER BY path`
		);
		expect(here.map(({ path }) => path)).toEqual(['Berths', 'Berths/St. Brannoc']);
	});

	it('has the folders of a server that has them all below INBOX beside the inbox', async () => {
		const imap = await ImapServer.start(temporaryFolder(), onTestFinished, { separator: '.', prefix: 'INBOX.' });
		const context = await openOffice();
		for (const name of ['Vessels', 'Vessels.Skua', 'Bin', 'Fees']) await imap.command(`CREATE INBOX.${name}`);
		await imap.append('INBOX', [bytesOf('Ramp'), bytesOf('Quay', 9), bytesOf('Ice', 16)]);
		await imap.append('INBOX.Vessels.Skua', [bytesOf('Engine')]);
		await imap.append('INBOX.Bin', [bytesOf('Tug')]);
		await connectSource(context, { mailbox: MAILBOX, ...login(imap.port), writes: true });
		expect(await pass(context)).toMatchObject({ new: 5, errors: [] });
		const here = async () =>
			(
				await rows<{ said: string }>(
					context.db,
					sql`SELECT subject || ': ' || state || ' ' || path AS said FROM item JOIN folder ON folder.id = item.folder_id
						JOIN message ON message.id = item.message_id ORDER BY 1`
				)
			).map(({ said }) => said);
		expect(await here()).toEqual([
			...['Engine: live Vessels/Skua', 'Ice: live Inbox', 'Quay: live Inbox', 'Ramp: live Inbox', 'Tug: binned Bin']
		]);
		await allowWriting(context, { mailbox: MAILBOX, writes: true, archiveOn: 'server' });
		await decide(context, 'subject:ramp', 'delete');
		await decide(context, 'subject:quay', 'move', { folder: 'Berths/Torsay' });
		await decide(context, 'subject:engine', 'archive');
		await useCase('renameFolder').run(context, { mailbox: MAILBOX, folder: 'Fees', to: 'Dues' } as never);
		for (let n = 0; n < 2; n++) expect(await pass(context)).toMatchObject({ new: 0, gone: 0, waiting: 0, errors: [] });
		const list = await imap.command('LIST "" "*"');
		expect([...list.matchAll(/"\." (\S+)\r/g)].map(([, name]) => name).sort()).toEqual(
			['', '.Archive', '.Archive.Vessels', '.Archive.Vessels.Skua', '.Berths', '.Berths.Torsay', '.Bin', '.Dues']
				.concat('.Vessels', '.Vessels.Skua')
				.map((name) => `INBOX${name}`)
		);
		await imap.command('SELECT INBOX.Bin');
		expect(await imap.command('SEARCH SUBJECT Ramp')).toMatch(/SEARCH \d/);
	});

	it('renames folders there as here, and removes empty ones', async () => {
		const { context, imap } = await office();
		for (const name of ['Vessels/Skua', 'Fees']) await imap.command(`CREATE ${name}`);
		await imap.append('Vessels/Skua', [bytesOf('Hull')]);
		await pass(context);
		const run = (name: string, input: unknown) => useCase(name).run(context, input as never);
		await run('renameFolder', { mailbox: MAILBOX, folder: 'Vessels', to: 'Ships' });
		await run('removeFolders', { mailbox: MAILBOX, folders: ['Fees'] });
		expect(await pass(context)).toMatchObject({ new: 0, gone: 0, waiting: 0, errors: [] });
		expect(places(imap)).toEqual(['INBOX Ice', 'INBOX Quay', 'INBOX Ramp', 'Ships Engine', 'Ships/Skua Hull']);
		expect(await imap.command('LIST "" "*"')).not.toMatch(/Vessels|Fees/);
		expect(await pass(context)).toMatchObject({ new: 0, changed: 0, gone: 0 });
	});

	it('meets what others did meanwhile: it is taken over and said, not fought', async () => {
		const { context, imap } = await office();
		await decide(context, 'subject:quay', 'archive');
		await decide(context, 'subject:ice', 'move', { folder: 'Berths' });
		await imap.command('SELECT INBOX');
		await imap.command('MOVE 2:3 Vessels');
		expect(await pass(context)).toMatchObject({
			new: 0,
			waiting: 0,
			errors: [expect.stringMatching(/^Somebody else moved 1 message on .* restored here, and left there\.$/)]
		});
		expect(places(imap)).toEqual(['INBOX Ramp', 'Vessels Engine', 'Vessels Ice', 'Vessels Quay']);
		expect((await find(context, { query: 'folder:Vessels state:live', limit: 9 })).total).toBe(3);
	});
});

/* More and other rounds: KOVREL_ROUNDS=200 KOVREL_SEED=7. */
const ROUNDS = Number(process.env.KOVREL_ROUNDS ?? 14);
const FOLDERS = ['INBOX', 'Vessels', 'Fees'];
const hereOf = (folder: string) => (folder === 'INBOX' ? 'Inbox' : folder);

/* A second client, and a person at Kovrel, who do one thing or another. */
class Mischief {
	readonly made: string[] = [];
	/* Destroyed here, or never fetched. */
	readonly destroyed = new Set<string>();
	/* Copied by others, who have not expunged the former one yet. */
	readonly #copied = new Set<string>();
	/* Removed by others, and in the bin here. */
	#removed: string[] = [];
	readonly #dockets: number[] = [];
	readonly #context: Context;
	readonly #imap: ImapServer;
	readonly #dice: Dice;

	constructor(context: Context, imap: ImapServer, dice: Dice) {
		this.#context = context;
		this.#imap = imap;
		this.#dice = dice;
	}

	async append(folder: string, count: number): Promise<void> {
		const subjects = Array.from({ length: count }, (_, n) => `Note ${this.made.length + n}`);
		this.made.push(...subjects);
		await this.#imap.append(
			folder,
			subjects.map((subject) => bytesOf(subject))
		);
	}

	/* Has one be on the server again that others removed there. */
	async putBack(): Promise<void> {
		const missing = await rows<{ subject: string }>(
			this.#context.db,
			sql`SELECT subject FROM item JOIN message ON message.id = item.message_id
			 WHERE item.state = 'binned' AND item.id NOT IN (SELECT item_id FROM source_item UNION SELECT item_id FROM outbox)`
		);
		const subjects = missing.map(({ subject }) => subject).filter((subject) => this.#removed.includes(subject));
		if (subjects.length > 0) await this.#imap.append(this.#one(FOLDERS), [bytesOf(this.#one(subjects))]);
	}

	/* Disconnects the mailbox with all that waits, and connects it again, after others went on there. */
	async reconnect(host: string, through: () => Promise<unknown>): Promise<void> {
		const { db } = this.#context;
		await disconnectSource(this.#context, { mailbox: MAILBOX, unfinished: true });
		for (let n = 0; n < 4; n++) await this.byOthers();
		// what is only marked there when a mailbox is seen first is binned beside its copy
		await this.expunge();
		const given = { ...login(this.#imap.port), host, writes: true };
		await connectSource(this.#context, { mailbox: MAILBOX, ...given });
		await through();
		await allowWriting(this.#context, { mailbox: MAILBOX, writes: true, earlier: true });
		// a person agrees that what others removed meanwhile goes to the bin
		for (const { id } of await rows<{ id: number }>(db, sql`SELECT id FROM docket WHERE state = 'drafted'`))
			await carryOut(this.#context, { id });
	}

	#one<T>(of: readonly T[]): T {
		return of[this.#dice.between(0, of.length - 1)] as T;
	}

	async byOthers(): Promise<void> {
		const folder = this.#one(FOLDERS);
		await this.#imap.command(`SELECT "${folder}"`);
		const numbers = /\* SEARCH ([\d ]+)/.exec(await this.#imap.command('SEARCH UNDELETED'))?.[1]?.split(' ') ?? [];
		const does = this.#dice.between(0, 4);
		if (does === 0 || numbers.length === 0) return this.append(folder, 1);
		const number = Number(this.#one(numbers));
		// a program without MOVE, which expunges later; what comes in marked is binned beside its next copy
		if (does === 4) {
			const subject = await this.#subjectOf(number);
			if (this.#copied.has(subject) || !(await this.#isKnownIn(folder, subject))) return;
			this.#copied.add(subject);
			await this.#imap.command(`COPY ${number} "${this.#one(FOLDERS.filter((one) => one !== folder))}"`);
			await this.#imap.command(`STORE ${number} +FLAGS (\\Deleted)`);
		} else if (does === 1)
			await this.#imap.command(`MOVE ${number} "${this.#one(FOLDERS.filter((one) => one !== folder))}"`);
		else if (does === 2) await this.#imap.command(`STORE ${number} +FLAGS (\\Seen Seen_by_others)`);
		else {
			this.#removed.push(await this.#noteUnseen(number));
			await this.#imap.command(`STORE ${number} +FLAGS.SILENT (\\Deleted)`);
			await this.#imap.command('EXPUNGE');
		}
		this.#copied.clear();
	}

	/* Whether Kovrel has seen a message in its folder there. */
	async #isKnownIn(folder: string, subject: string): Promise<boolean> {
		const found = await rows(
			this.#context.db,
			sql`SELECT 1 FROM source_item JOIN source_folder ON source_folder.id = source_folder_id JOIN item ON item.id = item_id
				JOIN message ON message.id = item.message_id WHERE path = ${folder} AND subject = ${subject}`
		);
		return found.length > 0;
	}

	async #subjectOf(number: number): Promise<string> {
		const answer = await this.#imap.command(`FETCH ${number} BODY.PEEK[HEADER.FIELDS (SUBJECT)]`);
		return /^Subject: (.*)\r$/m.exec(answer)?.[1] ?? '';
	}

	/* As a program without MOVE does when it is closed. */
	async expunge(): Promise<void> {
		for (const folder of FOLDERS) {
			await this.#imap.command(`SELECT "${folder}"`);
			await this.#imap.command('EXPUNGE');
		}
	}

	/* What others remove before Kovrel has fetched it was never Kovrel's to keep. */
	async #noteUnseen(number: number): Promise<string> {
		const subject = await this.#subjectOf(number);
		const found = await rows(
			this.#context.db,
			sql`SELECT 1 FROM item JOIN message ON message.id = item.message_id WHERE subject = ${subject}`
		);
		if (found.length === 0) this.destroyed.add(subject);
		return subject;
	}

	async byKovrel(): Promise<void> {
		const [decision, state, options] = this.#one<[Decision, string, DecisionOptions]>([
			['archive', 'live', {}],
			['archive', 'live', {}],
			['delete', 'live', {}],
			['move', 'live', { folder: hereOf(this.#one(FOLDERS)) }],
			['unread', 'live', {}],
			['read', 'live', {}],
			['tag', 'live', { tag: 'Ramp works' }],
			['restore', 'archived', {}],
			['restore', 'binned', {}],
			['destroy', 'binned', {}]
		]);
		const docket = this.#one(this.#dockets);
		if (this.#dockets.length > 0 && this.#dice.between(0, 4) === 0) {
			await takeBack(this.#context, { id: docket }).catch(() => undefined);
			return;
		}
		const { hits } = await find(this.#context, { query: `state:${state}`, limit: 1_000 });
		const some = Array.from({ length: this.#dice.between(1, 4) }, () => hits[this.#dice.between(0, hits.length - 1)]);
		const ids = [...new Set(some.flatMap((hit) => hit?.id ?? []))];
		if (ids.length === 0) return;
		const scope =
			decision === 'destroy'
				? ({ kind: 'bin', binnedBy: undefined } as const)
				: ({ kind: 'items', ids, label: 'some' } as const);
		const drafted = await prepareDocket(this.#context, { mailboxId: 1, lines: [{ decision, options, scope }] }).catch(
			() => undefined
		);
		if (!drafted) return;
		if (decision === 'destroy') for (const { subject } of hits) this.destroyed.add(subject);
		await carryOut(this.#context, { id: drafted.id, confirm: MAILBOX });
		this.#dockets.push(drafted.id);
	}
}

/* Where each message is by both, as sentences; what is not in order is named. */
async function disagreements(context: Context, imap: ImapServer, { made, destroyed }: Mischief): Promise<string[]> {
	const wrong: string[] = [];
	const there = new Map<string, string[]>();
	for (const { subject, folder } of seenByPython(imap.port))
		there.set(subject, [...(there.get(subject) ?? []), hereOf(folder)]);
	const items = await rows<{ subject: string; state: string; path: string }>(
		context.db,
		sql`SELECT subject, item.state, folder.path FROM item JOIN message ON message.id = item.message_id JOIN folder ON folder.id = item.folder_id`
	);
	const here = new Map<string, { state: string; path: string }[]>();
	for (const { subject, ...item } of items) here.set(subject, [...(here.get(subject) ?? []), item]);
	for (const subject of made) {
		const [item, ...doubled] = here.get(subject) ?? [];
		const [folder, ...copies] = there.get(subject) ?? [];
		const said = `${subject}: ${JSON.stringify(here.get(subject) ?? [])} here, ${JSON.stringify(there.get(subject) ?? [])} there`;
		if (doubled.length + copies.length > 0) wrong.push(`doubled: ${said}`);
		else if (!item && (folder !== undefined || !destroyed.has(subject))) wrong.push(`lost: ${said}`);
		else if (item?.state === 'archived' && folder !== undefined) wrong.push(`archived and there: ${said}`);
		else if (item?.state === 'live' && folder !== item.path) wrong.push(`elsewhere: ${said}`);
		else if (item?.state === 'binned' && folder !== undefined && folder !== item.path) wrong.push(`elsewhere: ${said}`);
	}
	return wrong;
}

describe.skipIf(!hasImapServer())('server and Kovrel together', () => {
	it.each([
		['with all extensions', [], 5],
		['without MOVE, UIDPLUS and CONDSTORE', ['MOVE', 'UIDPLUS', 'CONDSTORE', 'QRESYNC'], 8]
	] as const)(
		'hold every message exactly once %s, while lines break at random and others work there',
		async (_which, hides, seed) => {
			const dice = new Dice(seed + Number(process.env.KOVREL_SEED ?? 0));
			const imap = await ImapServer.start(temporaryFolder(), onTestFinished);
			const context = await openOffice();
			for (const name of ['Vessels', 'Fees', 'Bin']) await imap.command(`CREATE ${name}`);
			const mischief = new Mischief(context, imap, dice);
			for (const folder of FOLDERS) await mischief.append(folder, 12);
			const through = async (disturbing: Disturbing) => {
				const { port } = await startProxy(onTestFinished, imap.port, { hides, ...disturbing });
				await context.db('source').where({ id: 1 }).update({ port });
				return pass(context);
			};
			await connectSource(context, { mailbox: MAILBOX, ...login(imap.port), writes: true });
			await through({});
			for (let round = 0; round < ROUNDS; round++) {
				for (let n = dice.between(1, 3); n > 0; n--) await mischief.byKovrel();
				for (let n = dice.between(0, 2); n > 0; n--) await mischief.byOthers();
				const kind = dice.between(0, 3);
				await through(
					kind === 0
						? { cutAfter: dice.between(1_500, 9_000) }
						: kind === 1
							? { cutSentAfter: dice.between(300, 2_500) }
							: { delayMs: dice.between(0, 1) }
				);
				if (round % 3 !== 2) continue;
				await through({});
				await mischief.putBack();
				if (round % 2 === 0) await mischief.reconnect(round % 4 === 0 ? 'localhost' : '127.0.0.1', () => through({}));
				await through({});
				// without UIDPLUS, nothing is removed beside what others marked, until they expunge it and a person tries again
				if (hides.length > 0) {
					await mischief.expunge();
					await retryRefused(context, { mailbox: MAILBOX });
					await through({});
				}
				expect(await through({}), `round ${round}`).toMatchObject({ waiting: 0, errors: [] });
				expect(await disagreements(context, imap, mischief), `round ${round}`).toEqual([]);
				expect(await compareWeights(context.db)).toBe(0);
			}
			// the last round may have ended with a broken line
			await through({});
			expect((await checkLedger(context.db)).brokenAt).toBeUndefined();
			expect((await verify(context)).damaged).toEqual([]);
			expect(await listSources(context)).toMatchObject([{ error: null }]);
		},
		Math.max(60_000, ROUNDS * 4_000)
	);
});
