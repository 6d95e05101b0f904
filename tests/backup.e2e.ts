import { spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { expect } from '@playwright/test';
import { kovrel, letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

let server: TestServer;
const files = temporaryFolder();
const backups = path.join(files, 'backups');

test.beforeAll(async () => {
	server = await TestServer.start();
	const mail = mboxFile(files, [letter('Ramp plan', 'Fri, 31 May 2024 10:00:00 +0000', 'The gangway stays.')]);
	expect(kovrel(server.data, 'import', mail, '--mailbox', 'Harbour office').status).toBe(0);
});
test.afterAll(async () => {
	await server.remove();
	rmSync(files, { recursive: true });
});

test('backs up from the page while it runs, and brings it back onto an empty machine', async ({ page }) => {
	await page.goto(`${server.url}/m/1/weigh`);
	await page.locator('html[data-ready]').waitFor();
	await page.getByRole('link', { name: /^Ledger backup wanted/ }).click();
	const section = page.getByRole('region', { name: 'Backups' });
	await expect(section).toContainText('No backup has been made yet.');
	await section.getByLabel('Folder on this machine').fill(backups);
	await section.getByRole('button', { name: 'Back up now' }).click();
	await expect(section.getByTestId('backup')).toContainText('The last backup was made');
	await expect(page.getByRole('link', { name: /^Ledger/ })).not.toContainText('backup wanted');
	await expect(page.getByRole('row', { name: /made a backup/ })).toBeVisible();
	await section.getByLabel('Folder for a nightly backup').fill(backups);
	await section.getByRole('button', { name: 'Set' }).click();
	await expect(section.getByText('Saved.')).toBeVisible();

	const [file = ''] = readdirSync(backups).filter((name) => name.endsWith('.sqlite'));
	const empty = path.join(files, 'empty machine');
	const restored = kovrel(empty, 'restore-backup', path.join(backups, file), '--json');
	expect(JSON.parse(restored.stdout)).toMatchObject({ messages: 1, destroyedAgain: 0 });
	expect(kovrel(empty, 'search', 'gangway', '--json').stdout).toContain('Ramp plan');
	expect(kovrel(empty, 'verify').status).toBe(0);
	// over data that are in use, or there at all, nothing is put by mistake
	expect(kovrel(empty, 'restore-backup', path.join(backups, file)).stderr).toContain('There are data in');
	const inUse = kovrel(server.data, 'restore-backup', path.join(backups, file), '--replace');
	expect(inUse).toMatchObject({ status: 1 });
	expect(inUse.stderr).toContain('end Kovrel there first');
	const again = kovrel(empty, 'backup', '--out', backups, '--json');
	expect(JSON.parse(again.stdout)).toMatchObject({ messages: 1, items: 1 });
});

test('a hold placed since the backup stands again', () => {
	const since = path.join(files, 'since');
	const made = JSON.parse(kovrel(server.data, 'backup', '--out', since, '--json').stdout) as { file: string };
	expect(
		kovrel(
			server.data,
			'hold',
			'add',
			'Slipway claim',
			'--because',
			'a claim',
			'--from',
			'counsel',
			'--query',
			'gangway'
		).status
	).toBe(0);
	expect(kovrel(server.data, 'backup', '--out', since).status).toBe(0);
	const fresh = path.join(files, 'fresh machine');
	const restored = kovrel(fresh, 'restore-backup', made.file);
	expect(restored.stdout).toContain('Placed again, as since that backup: Slipway claim.');
	expect(restored.stdout).toContain('What Kovrel does by itself is asked for once more before it is done.');
	expect(kovrel(fresh, 'hold', 'list').stdout).toContain('Slipway claim');
});

test('a damaged data file is told by terminal and server, and gives way to a backup', () => {
	const damaged = path.join(files, 'damaged');
	mkdirSync(damaged);
	writeFileSync(path.join(damaged, 'kovrel.sqlite'), 'words '.repeat(5_000));
	expect(kovrel(damaged, 'weigh')).toMatchObject({ status: 1 });
	expect(kovrel(damaged, 'weigh').stderr).toContain('The data file is damaged');
	const begun = spawnSync(process.execPath, ['build'], {
		encoding: 'utf8',
		timeout: 60_000,
		env: { ...process.env, KOVREL_DATA: damaged, HOST: '127.0.0.1', PORT: '0' }
	});
	expect(begun).toMatchObject({ status: 1 });
	expect(begun.stderr).toContain('Kovrel cannot begin. The data file is damaged');
	const [file = ''] = readdirSync(backups).filter((name) => name.endsWith('.sqlite'));
	expect(kovrel(damaged, 'restore-backup', path.join(backups, file), '--replace').stdout).toContain('1 message');
	expect(kovrel(damaged, 'verify').status).toBe(0);
});
