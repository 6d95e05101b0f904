import { spawn } from 'node:child_process';
import { rmSync } from 'node:fs';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import Database from 'better-sqlite3';
import { Dice } from '../demo/random.ts';
import { hasImapServer, ImapServer } from '../src/lib/server/testing/imap-server.ts';
import { kovrel, letter, mboxFile, temporaryFolder } from './server.ts';

/*
 * What is decided on a live mailbox (Debian's dovecot-imapd on loopback), carried to its server by a process that is killed
 * somewhere on the way, again and again: server and Kovrel together hold every message exactly once. More rounds:
 * KOVREL_KILLS=60.
 */
test.skip(!hasImapServer(), 'dovecot-imapd is not installed, or nobody is root');

const ROUNDS = Number(process.env.KOVREL_KILLS ?? 5);
const MESSAGES = 40;
const MAILBOX = ['--mailbox', 'Harbour office'];
const dice = new Dice(29);
const data = temporaryFolder();
const mail = temporaryFolder();
let imap: ImapServer;

test.beforeAll(async () => {
	imap = await ImapServer.start(mail);
	for (const folder of ['Vessels', 'Bin']) await imap.command(`CREATE ${folder}`);
	const bytesOf = (n: number) =>
		Buffer.from(
			letter(`Note ${n}`, `Mon, ${1 + (n % 28)} Jan 2024 10:00:00 +0000`, 'Words. '.repeat(2_000)).replaceAll(
				'\n',
				'\r\n'
			)
		);
	await imap.append(
		'INBOX',
		Array.from({ length: MESSAGES }, (_, n) => bytesOf(n))
	);
});
test.afterAll(async () => {
	await imap.stop();
	for (const folder of [data, mail]) rmSync(folder, { recursive: true });
});

function terminal(...words: string[]): unknown {
	const environment = { KOVREL_MAIL_PASSWORD: 'secret' };
	const { status, stdout, stderr } = kovrel({ data, environment }, ...words, '--json');
	expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
	return JSON.parse(stdout);
}

/* Where each message lies on the server, by its subject. */
async function there(): Promise<Record<string, string[]>> {
	const found: Record<string, string[]> = {};
	for (const folder of ['INBOX', 'Vessels', 'Bin']) {
		const answer = await imap.command(`EXAMINE ${folder}`);
		if (/ 0 EXISTS/.test(answer)) continue;
		const heads = await imap.command('FETCH 1:* BODY.PEEK[HEADER.FIELDS (SUBJECT)]');
		for (const [, subject = ''] of heads.matchAll(/^Subject: (.*)\r$/gm))
			(found[subject] ??= []).push(folder === 'INBOX' ? 'Inbox' : folder);
	}
	return found;
}

/* Where each message lies here; archived ones lie on no server. */
function here(): Record<string, string[]> {
	const { hits } = terminal(
		'search',
		'subject:note (state:live or state:archived or state:binned)',
		...MAILBOX,
		'--limit',
		'1000'
	) as {
		hits: { subject: string; state: string; folder: string }[];
	};
	const found: Record<string, string[]> = {};
	for (const { subject, state, folder } of hits)
		(found[subject] ??= []).push(state === 'archived' ? 'archived' : folder);
	return found;
}

/*
 * What was archived, and deleted before it was on the server again, lies in the bin here alone: it is not put on a server to be
 * thrown away there. Kovrel knows of no place of it there, and it came out of the archive.
 */
function binnedFromArchive(): Set<string> {
	const db = new Database(path.join(data, 'kovrel.sqlite'), { readonly: true });
	const found = db
		.prepare(
			`SELECT subject FROM item JOIN message ON message.id = item.message_id WHERE item.state = 'binned'
				AND NOT EXISTS (SELECT 1 FROM source_item WHERE source_item.item_id = item.id)
				AND EXISTS (SELECT 1 FROM docket_item WHERE docket_item.item_id = item.id AND from_state = 'archived')`
		)
		.pluck()
		.all() as string[];
	db.close();
	return new Set(found);
}

/* A person decides on a few, by a docket. */
function decide(): void {
	const some = Array.from({ length: 6 }, () => `subject:"note ${dice.between(0, MESSAGES - 1)}"`).join(' or ');
	const [decision, ...options] = [
		['archive'],
		['archive'],
		['delete'],
		['move', '--folder', 'Vessels'],
		['restore'],
		['restore']
	][dice.between(0, 5)] as [string, ...string[]];
	const drafted = kovrel(data, 'docket', 'new', decision, ...MAILBOX, '--where', some, ...options, '--json');
	// nothing of it is in a state for that
	if (drafted.status !== 0) return;
	const { id } = JSON.parse(drafted.stdout) as { id: number };
	kovrel(data, 'docket', 'carry-out', String(id));
}

/* Carries to the server for so long, and is killed then. */
async function carryFor(milliseconds: number): Promise<void> {
	const child = spawn(process.execPath, [path.resolve('build', 'programs', 'kovrel.mjs'), 'sync', ...MAILBOX], {
		stdio: 'ignore',
		env: { ...process.env, KOVREL_DATA: data, KOVREL_TIME_ZONE: 'UTC' }
	});
	const ended = new Promise((resolve) => child.once('exit', resolve));
	const late = setTimeout(() => child.kill('SIGKILL'), milliseconds);
	await ended;
	clearTimeout(late);
}

test('every message is held exactly once, whenever Kovrel is killed on its way to the server', async () => {
	test.setTimeout(120_000 + ROUNDS * 20_000);
	const first = mboxFile(mail, [letter('Keel', 'Mon, 3 Feb 2020 10:00:00 +0000')]);
	expect(kovrel(data, 'import', first, ...MAILBOX, '--new')).toMatchObject({ status: 0 });
	const server = ['--host', '127.0.0.1', '--port', String(imap.port), '--user', 'tester', '--tls', 'none'];
	terminal('connect', 'Harbour office', ...server, '--write');
	terminal('sync', ...MAILBOX);
	for (let round = 0; round < ROUNDS; round++) {
		decide();
		decide();
		await carryFor(dice.between(500, 1_600));
		if (dice.chance(0.5)) await carryFor(dice.between(500, 1_200));
		if (round % 5 !== 4 && round !== ROUNDS - 1) continue;
		terminal('retry', ...MAILBOX);
		terminal('sync', ...MAILBOX);
		expect(terminal('sync', ...MAILBOX)).toMatchObject({ waiting: 0, errors: [] });
		const onServer = await there();
		const atHome = here();
		const alone = binnedFromArchive();
		expect(Object.keys(atHome)).toHaveLength(MESSAGES);
		for (const [subject, places] of Object.entries(atHome)) {
			expect(places, subject).toHaveLength(1);
			expect(onServer[subject] ?? [], `${subject}, round ${round}`).toEqual(
				places.filter((place) => place !== 'archived' && !alone.has(subject))
			);
		}
	}
	terminal('verify');
});
