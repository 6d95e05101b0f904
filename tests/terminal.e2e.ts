import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { spawn, spawnSync } from 'node:child_process';
import { expect, test } from '@playwright/test';
import Database from 'better-sqlite3';
import { kovrel, letter, mboxFile, temporaryFolder } from './server.ts';

const OLD = 'Mon, 3 Feb 2020 10:00:00 +0000';
const NEW = 'Tue, 3 Feb 2026 10:00:00 +0000';

const folder = temporaryFolder();
const data = path.join(folder, 'data');
test.afterAll(() => rmSync(folder, { recursive: true, force: true }));
test.describe.configure({ mode: 'serial' });

function json(...words: string[]): Record<string, unknown> {
	const { status, stdout, stderr } = kovrel(data, ...words, '--json');
	expect(status, stderr).toBe(0);
	return JSON.parse(stdout) as Record<string, unknown>;
}

test('answers a wish for help as the commands themselves would, without loading them', () => {
	const programs = path.resolve('build/programs');
	const texts = JSON.parse(readFileSync(path.join(programs, 'kovrel-help.json'), 'utf8')) as Record<string, string>;
	expect(Object.keys(texts).length).toBeGreaterThan(90);
	for (const words of [[], ['import'], ['docket', 'new'], ['rules']]) {
		const given = [...words, '--help'];
		const slow = spawnSync(process.execPath, [path.join(programs, 'kovrel-commands.mjs'), ...given], {
			encoding: 'utf8'
		});
		expect(kovrel(data, ...given)).toMatchObject({ status: 0, stdout: slow.stdout, stderr: '' });
		expect(slow.stdout).toContain(`Usage: ${['kovrel', ...words].join(' ')}`);
	}
	// what is no command is left to the commands
	expect(kovrel(data, 'nothing', '--help').stdout).toContain('Usage: kovrel [');
});

test('goes through the whole line, each step as one JSON document', () => {
	const messages = [...Array.from({ length: 5 }, (_, n) => letter(`Ramp ${n}`, OLD)), letter('Quay', NEW)];
	const file = mboxFile(folder, messages);
	const bytes = readFileSync(file).length;
	expect(json('import', file, '--mailbox', 'Office', '--folder', 'Projects/Slipway', '--new')).toMatchObject({
		mailbox: 'Office',
		read: 6,
		added: 6,
		already: 0,
		unreadable: 0
	});
	expect(json('import', file, '--mailbox', 'Office', '--folder', 'Projects/Slipway')).toMatchObject({
		read: 6,
		added: 0,
		already: 6
	});

	const weighed = json('weigh', '--mailbox', 'Office') as { messages: number; bytes: number; folders: unknown[] };
	expect(weighed.messages).toBe(6);
	expect(weighed.bytes).toBeLessThan(bytes);
	expect(weighed.folders).toMatchObject([
		{ path: 'Projects', messages: 0, bytes: 0, messagesBelow: 6, bytesBelow: weighed.bytes },
		{ path: 'Projects/Slipway', messages: 6, bytes: weighed.bytes, messagesBelow: 6, bytesBelow: weighed.bytes }
	]);

	expect(json('archive', '--mailbox', 'Office', '--before', '2021-01-01', '--dry-run')).toMatchObject({
		docket: null,
		messages: 5,
		left: [{ reason: 'newer', messages: 1 }],
		carriedOut: false
	});
	expect(json('archive', '--mailbox', 'Office', '--before', '2021-01-01', '--folder', 'Projects')).toMatchObject({
		docket: 1,
		messages: 5,
		carriedOut: true
	});

	const found = json('search', 'ramp', '--mailbox', 'Office', '--limit', '3') as {
		total: number;
		hits: { id: number }[];
	};
	expect(found).toMatchObject({
		total: 5,
		hits: [
			{
				state: 'archived',
				mailbox: 'Office',
				folder: 'Projects/Slipway',
				received: '2020-02-03T10:00:00.000Z',
				from: 'Tove <tove@skerryline.example>'
			},
			{},
			{}
		]
	});
	expect(json('restore', ...found.hits.map(({ id }) => String(id)))).toMatchObject({ restored: 3, left: [] });
	expect(json('docket', 'take-back', '1')).toMatchObject({ messages: 2, left: [{ reason: 'changed', messages: 3 }] });

	const out = path.join(folder, 'out');
	expect(json('export', '--mailbox', 'Office', '--format', 'eml', '--out', out)).toMatchObject({
		written: 6,
		bytes: weighed.bytes
	});
	expect(json('verify')).toMatchObject({
		ok: true,
		messages: 6,
		bytes: weighed.bytes,
		damaged: [],
		ledger: { ok: true }
	});
});

test("what it exports is read by Python's email, and has the bytes that came in", () => {
	const out = path.join(folder, 'out');
	const files = readdirSync(out, { recursive: true, withFileTypes: true })
		.filter((entry) => entry.isFile() && entry.name.endsWith('.eml'))
		.map((entry) => path.join(entry.parentPath, entry.name));
	const python = spawnSync('python3', ['tests/python/read-mail.py'], { input: files.join('\n'), encoding: 'utf8' });
	const subjects = python.stdout
		.trim()
		.split('\n')
		.map((line) => (JSON.parse(line) as { subject: string }).subject);
	expect(subjects.sort()).toEqual(['Quay', 'Ramp 0', 'Ramp 1', 'Ramp 2', 'Ramp 3', 'Ramp 4']);
	// the same file divided by Python's mailbox: an oracle for the plain variant, as here
	const script =
		'import mailbox,hashlib,sys; b=mailbox.mbox(sys.argv[1]); print("\\n".join(sorted(hashlib.sha256(b.get_bytes(k)).hexdigest() for k in b.keys())))';
	const divided = spawnSync('python3', ['-c', script, path.join(folder, 'mail.mbox')], { encoding: 'utf8' });
	const hashes = files.map((file) => createHash('sha256').update(readFileSync(file)).digest('hex')).sort();
	expect(divided.stdout.trim().split('\n')).toEqual(hashes);
});

for (const [words, status, says] of [
	[['--help'], 0, ''],
	[['import', '--help'], 0, ''],
	[['verify', '--help'], 0, ''],
	[[], 2, 'Usage'],
	[['fly'], 2, 'unknown command'],
	[['archive', '--mailbox', 'Office'], 2, '--before'],
	[['archive', '--mailbox', 'Office', '--before', 'soon'], 2, 'no date'],
	[['archive', '--mailbox', 'Nobody', '--before', '2021'], 1, 'no mailbox'],
	[['import', '/nowhere', '--mailbox', 'Office'], 1, 'no file or folder'],
	[['search', 'since:soon'], 2, 'no date'],
	[['search', 'x', '--limit', 'many'], 2, '--limit'],
	[['restore', 'x'], 2, 'no number'],
	[['restore', '999999'], 1, 'no such messages'],
	[['export', '--mailbox', 'Office', '--format', 'pdf', '--out', 'x'], 2, '--format'],
	[['export', '--mailbox', 'Office', '--format', 'eml', '--out', '.'], 1, 'not empty'],
	[['quota', 'lots', '--mailbox', 'Office'], 2, 'no size'],
	[['docket', 'burn', '1'], 2, 'unknown command'],
	[['docket', 'new', 'burn', '--mailbox', 'Office'], 2, 'a decision takes'],
	[['docket', 'new', 'move', '--mailbox', 'Office'], 2, 'Name the folder'],
	[['docket', 'new', 'delete', '--mailbox', 'Office', '--by', 'year', '--key', '1066'], 2, 'no lot'],
	[['docket', 'show', '999'], 1, 'no docket'],
	[['lots', '--by', 'colour'], 2, '--by takes'],
	[['lots', '--by', 'year', '--where', '('], 2, 'missing'],
	[['propose', '--mailbox', 'Office', '--kind', 'magic'], 2, '--kind takes'],
	[['bin', 'set', '--mailbox', 'Office', '--days', '0'], 2, '1 to 3,650'],
	[
		['folder', 'pause', 'Projects', '--mailbox', 'Office', '--until', '2001-01-01', '--because', 'x'],
		2,
		'still to come'
	],
	[['keep-list', '/nowhere'], 2, 'cannot be read'],
	[['tags', 'set', 'Nothing', '--remove'], 1, 'no tag'],
	[['docket', 'take-back', '999'], 1, 'no docket']
] as const)
	test(`"kovrel ${words.join(' ')}" ends with ${status}`, () => {
		const answer = kovrel(data, ...words);
		expect(answer.status, answer.stderr).toBe(status);
		expect(answer.stderr).toContain(says);
		if (status !== 0) expect(answer.stdout).toBe('');
	});

test('starts with code that was compiled before; where that is damaged, it is compiled anew', () => {
	const programs = path.resolve('build/programs');
	const program = /kovrel-commands-[^']*\.cjs/.exec(
		readFileSync(path.join(programs, 'kovrel-commands.mjs'), 'utf8')
	)?.[0];
	// parts of it that another command loads have code of their own
	const compiled = readdirSync(programs)
		.filter((name) => name.startsWith(`${program}.`) && name.endsWith('.cache'))
		.map((name) => path.join(programs, name));
	expect(compiled.length).toBeGreaterThan(0);
	for (const file of compiled) writeFileSync(file, readFileSync(file).fill(0, 1_000));
	json('weigh');
	for (const file of compiled) {
		const code = readFileSync(file).subarray(1_000);
		expect(code.equals(Buffer.alloc(code.length))).toBe(false);
	}
});

test('verify fails where a stored byte was changed', () => {
	const copy = path.join(folder, 'copy');
	mkdirSync(copy);
	const file = mboxFile(folder, [letter('Alone', OLD)], 'alone.mbox');
	expect(kovrel(copy, 'import', file, '--mailbox', 'Office', '--new').status).toBe(0);
	const database = path.join(copy, 'kovrel.sqlite');
	const { data: stored } = new Database(database, { readonly: true }).prepare('SELECT data FROM content').get() as {
		data: Buffer;
	};
	const bytes = readFileSync(database);
	const at = bytes.indexOf(stored) + Math.floor(stored.length / 2);
	expect(at).toBeGreaterThan(stored.length);
	bytes[at] = (bytes[at] as number) ^ 0x55;
	writeFileSync(database, bytes);
	const { status, stdout } = kovrel(copy, 'verify', '--json');
	expect(status).toBe(1);
	expect(JSON.parse(stdout)).toMatchObject({
		ok: false,
		checked: { contents: 1, messages: 1, items: 1 },
		damaged: [{ what: 'content', id: 1, subject: 'Alone', mailbox: 'Office', repairable: true }],
		ledger: { ok: true }
	});
	expect(kovrel(copy, 'verify').stdout).toContain('Content 1: its bytes are not those that came in. “Alone” in');
	const other = mboxFile(folder, [letter('Another', OLD)], 'another.mbox');
	const left = kovrel(copy, 'repair', '--from', other, '--json');
	expect([left.status, JSON.parse(left.stdout)]).toMatchObject([
		1,
		{ repaired: 0, left: [{ what: 'content', id: 1 }] }
	]);
	const repaired = kovrel(copy, 'repair', '--from', file, '--json');
	expect([repaired.status, JSON.parse(repaired.stdout)]).toMatchObject([0, { repaired: 1, left: [] }]);
	expect(JSON.parse(kovrel(copy, 'verify', '--json').stdout)).toMatchObject({ ok: true, damaged: [] });
});

test('a new archive is begun where somebody says so, and never in the place of a data file that is missing or emptied', () => {
	const lost = path.join(folder, 'lost');
	const letters = Array.from({ length: 300 }, (_, n) => letter(`No ${n}`, OLD));
	const file = mboxFile(folder, letters, 'lost.mbox');
	// as where the disk is not mounted
	mkdirSync(lost);
	const none = { status: 1, stderr: expect.stringContaining('There is no archive in') };
	expect(kovrel(lost, 'weigh')).toMatchObject(none);
	expect(kovrel(lost, 'import', file, '--mailbox', 'Office')).toMatchObject(none);
	expect(
		spawnSync(process.execPath, ['build'], {
			encoding: 'utf8',
			timeout: 60_000,
			env: { ...process.env, KOVREL_DATA: lost, HOST: '127.0.0.1', PORT: '0' }
		})
	).toMatchObject(none);
	expect(readdirSync(lost)).toEqual([]);
	const begun = kovrel(lost, 'import', file, '--mailbox', 'Office', '--new');
	expect(begun).toMatchObject({ status: 0, stderr: expect.stringContaining('A new archive was begun in') });
	const database = path.join(lost, 'kovrel.sqlite');
	const whole = readFileSync(database);
	for (const [spoil, says] of [
		[() => rmSync(database), 'is missing. No new archive is begun'],
		[() => writeFileSync(database, ''), 'is empty. No new archive is begun']
	] as const) {
		spoil();
		for (const words of [
			['weigh', '--mailbox', 'Office'],
			['verify'],
			['backup', '--out', path.join(folder, 'of-nothing')],
			['import', file, '--mailbox', 'Office', '--new']
		]) {
			const { status, stdout, stderr } = kovrel(lost, ...words, '--json');
			expect([status, stdout], words.join(' ')).toEqual([1, '']);
			expect(stderr).toContain(says);
		}
	}
	expect(existsSync(path.join(folder, 'of-nothing'))).toBe(false);
	writeFileSync(database, whole);
	expect(JSON.parse(kovrel(lost, 'verify', '--json').stdout)).toMatchObject({ ok: true, messages: 300 });
});

test('emptying a bin that is killed goes on under its number, and has one certificate', async () => {
	const killed = path.join(folder, 'emptied');
	const letters = Array.from({ length: 4_000 }, (_, n) => letter(`No ${n}`, OLD, 'words '.repeat(100)));
	const file = mboxFile(folder, letters, 'emptied.mbox');
	expect(kovrel(killed, 'import', file, '--mailbox', 'Office', '--folder', 'Trash', '--new').status).toBe(0);
	const child = spawn(
		process.execPath,
		['build/programs/kovrel.mjs', 'bin', 'empty', '--mailbox', 'Office', '--confirm', 'Office'],
		{ env: { ...process.env, KOVREL_DATA: killed }, stdio: 'ignore' }
	);
	const ended = new Promise((resolve) => child.once('exit', resolve));
	const certificates = () => {
		const db = new Database(path.join(killed, 'kovrel.sqlite'), { readonly: true });
		const found = db.prepare('SELECT docket_id AS docket, messages, sha256 FROM certificate').all();
		db.close();
		return found as { docket: number; messages: number; sha256: string | null }[];
	};
	while (child.exitCode === null && certificates().length === 0) await new Promise((resolve) => setTimeout(resolve, 5));
	child.kill('SIGKILL');
	await ended;
	const [before] = certificates();
	expect(before?.messages).toBeLessThan(4_000);
	const answer = kovrel(killed, 'bin', 'empty', '--mailbox', 'Office', '--confirm', 'Office', '--json');
	expect(JSON.parse(answer.stdout)).toMatchObject({ docket: before?.docket, messages: 4_000, carriedOut: true });
	expect(certificates()).toEqual([
		{ docket: before?.docket, messages: 4_000, sha256: expect.any(String) as unknown as string }
	]);
});

test('ten that start at once on a new data folder do not tread on each other', async () => {
	const fresh = path.join(folder, 'fresh');
	const first = mboxFile(folder, [letter('First', OLD)], 'first.mbox');
	const started = Array.from({ length: 10 }, (_, n) =>
		spawn(process.execPath, ['build/programs/kovrel.mjs', 'import', first, '--mailbox', `No ${n}`, '--new'], {
			env: { ...process.env, KOVREL_DATA: fresh },
			stdio: 'ignore'
		})
	);
	const ended = await Promise.all(started.map((child) => new Promise((resolve) => child.once('exit', resolve))));
	expect(ended).toEqual(started.map(() => 0));
	expect(JSON.parse(kovrel(fresh, 'verify', '--json').stdout)).toMatchObject({
		ok: true,
		ledger: { lines: 21, ok: true }
	});
});

test('an import that is killed loses nothing that was counted, and goes on when it is asked again', async () => {
	const killed = path.join(folder, 'killed');
	const file = mboxFile(
		folder,
		Array.from({ length: 12_000 }, (_, n) => letter(`No ${n}`, OLD, 'words '.repeat(300))),
		'large.mbox'
	);
	const first = ['import', file, '--mailbox', 'Office', '--new'];
	const child = spawn(process.execPath, ['build/programs/kovrel.mjs', ...first], {
		env: { ...process.env, KOVREL_DATA: killed },
		stdio: 'ignore'
	});
	const ended = new Promise((resolve) => child.once('exit', resolve));
	// killed as soon as something is stored, wherever it then is
	const stored = () => {
		try {
			const db = new Database(path.join(killed, 'kovrel.sqlite'), { readonly: true, fileMustExist: true });
			try {
				return db.prepare('SELECT count(*) FROM message').pluck().get() as number;
			} finally {
				db.close();
			}
		} catch {
			return 0; // not made yet
		}
	};
	while (child.exitCode === null && stored() === 0) await new Promise((resolve) => setTimeout(resolve, 5));
	child.kill('SIGKILL');
	await ended;
	const after = JSON.parse(kovrel(killed, 'verify', '--json').stdout) as { ok: boolean; messages: number };
	expect(after.ok).toBe(true);
	expect(after.messages).toBeGreaterThan(0);
	const again: unknown = JSON.parse(kovrel(killed, 'import', file, '--mailbox', 'Office', '--json').stdout);
	// it goes on where the last stored batch ended: nothing twice, nothing left out
	expect(again).toMatchObject({ read: 12_000, added: 12_000, already: 0, unreadable: 0 });
	expect(JSON.parse(kovrel(killed, 'verify', '--json').stdout)).toMatchObject({
		ok: true,
		messages: 12_000,
		weightsDiffering: 0
	});
});

test('lays out the archive, arranges it anew, and exports a folder of it', () => {
	const mailbox = ['--mailbox', 'Laid out'];
	const file = mboxFile(folder, [letter('Old', OLD), letter('Older', 'Mon, 3 Feb 2014 10:00:00 +0000')]);
	json('import', file, ...mailbox, '--folder', 'Berths');
	const places = () =>
		(json('search', '', ...mailbox) as { hits: { folder: string; subject: string }[] }).hits
			.map(({ folder, subject }) => `${folder}: ${subject}`)
			.sort();
	expect(json('archive', ...mailbox, '--before', '2021-01-01', '--divide', 'year')).toMatchObject({ messages: 2 });
	expect(places()).toEqual(['Berths/2014: Older', 'Berths/2020: Old']);
	expect(
		json('archiving', ...mailbox, '--paths', 'flat', '--divide', 'financial-year', '--financial-year', '4', '--anew')
	).toMatchObject({
		paths: 'flat',
		divide: 'financial-year',
		archives: true,
		messages: 2
	});
	expect(places()).toEqual(['2013-14: Older', '2019-20: Old']);
	const out = path.join(folder, 'laid-out');
	expect(json('export', ...mailbox, '--folder', '2019-20', '--format', 'eml', '--out', out)).toMatchObject({
		written: 1
	});
	expect(json('archiving', ...mailbox, '--nothing')).toMatchObject({ archives: false });
	for (const [words, status, says] of [
		[['archive', ...mailbox, '--before', '2021-01-01'], 1, 'is set to archive nothing'],
		[['archive', ...mailbox], 2, 'name a cutoff date'],
		[
			['archive', ...mailbox, '--before', '2021', '--divide', 'week'],
			2,
			'--divide takes none, year, month, financial-year'
		],
		[
			['export', ...mailbox, '--folder', 'x', '--format', 'eml', '--out', path.join(folder, 'x')],
			1,
			'has no folder "x"'
		],
		[['archiving', ...mailbox, '--financial-year', '13'], 2, 'begins in month 1 to 12']
	] as const) {
		const { status: ended, stderr } = kovrel(data, ...words);
		expect([ended, stderr]).toEqual([status, expect.stringContaining(says)]);
	}
	expect(json('verify')).toMatchObject({ ok: true });
});
