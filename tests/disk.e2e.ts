import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cpSync, readdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { expect, type Page } from '@playwright/test';
import Database from 'better-sqlite3';
import { kovrel, letter, mboxFile, signedIn, temporaryFolder, test, TestServer } from './server.ts';

/*
 * A disk of its own, of the size of the data, which is made read-only or filled to its last byte: reading needs no
 * writing, and what cannot be written is told with its cause.
 */
const MESSAGES = 500;
const folder = temporaryFolder();
const whole = path.join(folder, 'whole');
let isMountable = false;
let session = '';

class Disk {
	readonly at: string;
	readonly data: string;

	constructor(megabytes: number) {
		this.at = temporaryFolder();
		this.data = path.join(this.at, 'data');
		execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m`, 'tmpfs', this.at]);
		cpSync(whole, this.data, { recursive: true });
	}

	makeReadOnly(): void {
		execFileSync('mount', ['-o', 'remount,ro', this.at]);
	}

	/* Until not one more byte is taken. */
	fill(): void {
		for (const size of [1 << 20, 1 << 12, 1])
			for (let n = 0; ; n++)
				try {
					writeFileSync(path.join(this.at, `filler-${size}-${n}`), Buffer.alloc(size));
				} catch {
					break;
				}
		expect(statfsSync(this.at).bavail).toBe(0);
	}

	makeRoom(): void {
		for (const name of readdirSync(this.at).filter((one) => one.startsWith('filler'))) rmSync(path.join(this.at, name));
	}

	remove(): void {
		execFileSync('umount', [this.at]);
		rmSync(this.at, { recursive: true });
	}
}

const hashes = (data: string) =>
	readdirSync(data)
		.sort()
		.map((name) => [
			name,
			createHash('sha256')
				.update(readFileSync(path.join(data, name)))
				.digest('hex')
		]);

test.beforeAll(async () => {
	const probe = temporaryFolder();
	isMountable = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', probe]).status === 0;
	if (isMountable) execFileSync('umount', [probe]);
	const letters = Array.from({ length: MESSAGES }, (_, n) =>
		letter(`Berth ${n}`, 'Mon, 3 Feb 2020 10:00:00 +0000', `Words of berth ${n}. `.repeat(20))
	);
	const file = mboxFile(folder, letters, 'mail.mbox');
	expect(kovrel(whole, 'import', file, '--mailbox', 'Office', '--new').status).toBe(0);
	const server = await TestServer.start(whole);
	({ session } = server);
	await server.end();
});
test.afterAll(() => rmSync(folder, { recursive: true }));
test.beforeEach(() => test.skip(!isMountable, 'This account may not mount a file system: nothing was tried.'));

/* All that reads, from the terminal, into another disk. */
function readsEverything(data: string): void {
	const out = temporaryFolder();
	const asked = (...words: string[]) => {
		const { status, stdout, stderr } = kovrel(data, ...words, '--json');
		expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
		return JSON.parse(stdout) as Record<string, unknown>;
	};
	expect(JSON.stringify(asked('weigh', '--mailbox', 'Office'))).toContain('Inbox');
	expect(asked('search', 'berth 77')).toMatchObject({ total: 1 });
	expect(asked('verify')).toMatchObject({ ok: true, messages: MESSAGES });
	expect(asked('export', '--mailbox', 'Office', '--format', 'eml', '--out', path.join(out, 'mail'))).toMatchObject({
		written: MESSAGES,
		finished: true,
		noted: false
	});
	const { file } = asked('backup', '--out', path.join(out, 'backup'));
	const restored = { data: path.join(out, 'restored'), environment: {} };
	expect(kovrel(restored, 'restore-backup', file as string).status).toBe(0);
	expect(kovrel(restored, 'verify').status).toBe(0);
	rmSync(out, { recursive: true });
}

test('a read-only disk is weighed, searched, verified, exported and saved, and not one byte of it changes', () => {
	const disk = new Disk(40);
	try {
		disk.makeReadOnly();
		const before = hashes(disk.data);
		readsEverything(disk.data);
		const { status, stderr } = kovrel(disk.data, 'archive', '--mailbox', 'Office', '--before', '2030-01-01');
		expect(status).toBe(1);
		expect(stderr).toMatch(/Nothing can be written to .* read-only.*\n.*This step was not done/s);
		expect(hashes(disk.data)).toEqual(before);
	} finally {
		disk.remove();
	}
});

test('a full disk is weighed, searched, verified, exported and saved, and work goes on once there is room', () => {
	const disk = new Disk(40);
	try {
		disk.fill();
		readsEverything(disk.data);
		const archive = () => kovrel(disk.data, 'archive', '--mailbox', 'Office', '--before', '2030-01-01');
		expect(archive()).toMatchObject({
			status: 1,
			stderr: expect.stringMatching(/no room left|read-only or full/) as unknown
		});
		disk.makeRoom();
		expect(archive().status).toBe(0);
		expect(kovrel(disk.data, 'verify').status).toBe(0);
	} finally {
		disk.remove();
	}
});

async function open(page: Page, server: TestServer, n: number): Promise<void> {
	await page.goto(`${server.url}/m/1/archive?q=subject%3A%22berth+${n}%22`);
	await page.locator('html[data-ready]').waitFor();
	await page.getByRole('button', { name: `Berth ${n}`, exact: true }).click();
	await expect(page.getByRole('dialog').getByText(`Words of berth ${n}.`).first()).toBeVisible();
}

test('pages show messages from a read-only disk, say so, and refuse what would change something', async ({
	page,
	context
}) => {
	const disk = new Disk(40);
	disk.makeReadOnly();
	const server = await TestServer.start(disk.data);
	try {
		await signedIn(context, session);
		await open(page, server, 77);
		await expect(page.locator('[role=alert]', { hasText: 'Nothing can be written' })).toBeVisible();
		await page.getByRole('dialog').getByRole('button', { name: '1 Archive' }).click();
		await expect(page.getByText('This step was not done').first()).toBeVisible();
	} finally {
		await server.end();
		disk.remove();
	}
});

test('a disk that fills up under a server: messages are shown, and who saw them is noted once there is room', async ({
	page,
	context
}) => {
	const disk = new Disk(40);
	const server = await TestServer.start(disk.data);
	try {
		await signedIn(context, session);
		disk.fill();
		// as long as the log of SQLite has room in itself, notes are made
		for (let n = 100; n < 112; n++) await open(page, server, n);
		disk.makeRoom();
		await open(page, server, 200);
		await server.end();
		const db = new Database(path.join(disk.data, 'kovrel.sqlite'), { readonly: true });
		const noted = db.prepare(`SELECT count(DISTINCT item_id) FROM look WHERE what = 'read'`).pluck().get();
		db.close();
		expect(noted).toBe(13);
		expect(kovrel(disk.data, 'verify').status).toBe(0);
	} finally {
		await server.end('SIGKILL').catch(() => {});
		disk.remove();
	}
});
