import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { hasImapServer, hasSieveServer, ImapServer } from '../src/lib/server/testing/imap-server.ts';
import { kovrel, letter, temporaryFolder, test, TestServer } from './server.ts';

/* A mailbox that lives on a mail server (Debian's dovecot-imapd on loopback), connected and followed from the page. */
test.skip(!hasImapServer(), 'dovecot-imapd is not installed, or nobody is root');

const INBOX = 300;

let server: TestServer;
let imap: ImapServer;
const folder = temporaryFolder();

const bytesOf = (subject: string, n: number) =>
	Buffer.from(
		letter(subject, new Date(Date.UTC(2026, 0, 1) + n * 3_600_000).toUTCString(), 'The ramp is stiff.').replaceAll(
			'\n',
			'\r\n'
		)
	);

test.describe.configure({ mode: 'serial' });
test.beforeAll(async () => {
	imap = await ImapServer.start(folder, undefined, { shares: true, sieve: hasSieveServer() });
	await imap.append(
		'INBOX',
		Array.from({ length: INBOX }, (_, n) => bytesOf(`Crew note ${n}`, n))
	);
	await imap.command('CREATE Vessels');
	await imap.append('Vessels', [bytesOf('Engine of the Skua', 1)]);
	server = await TestServer.start();
});
test.afterAll(async () => {
	await server.remove();
	await imap.stop();
	rmSync(folder, { recursive: true });
});

async function visit(page: Page, address: string) {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}

/* All but the password. */
async function fillConnection(page: Page, mailbox: string) {
	const form = page.getByRole('form', { name: 'Connect a mailbox' });
	await form.getByLabel('Mailbox here').fill(mailbox);
	await form.getByLabel('Server', { exact: true }).fill('127.0.0.1');
	await form.getByLabel('Encryption').selectOption('none, on this machine alone');
	await form.getByLabel('Port').fill(String(imap.port));
	await form.getByLabel('User there').fill('tester');
}

test('tests a server, says what is wrong, connects it, and fetches its mail', async ({ page }) => {
	await visit(page, '/mailboxes');
	await page.getByRole('link', { name: 'live mailboxes' }).click();
	await expect(page.getByText('No mailbox is connected with a server yet.')).toBeVisible();
	const form = page.getByRole('form', { name: 'Connect a mailbox' });
	await fillConnection(page, 'Harbour office');
	await form.getByRole('textbox', { name: 'Password' }).fill('wrong');
	await form.getByRole('button', { name: 'Test' }).click();
	await expect(form.getByRole('alert')).toContainText('does not accept this user and password');
	// what was typed is still there
	await form.getByRole('textbox', { name: 'Password' }).fill('secret');
	await form.getByRole('button', { name: 'Test' }).click();
	await expect(form.getByTestId('tested')).toContainText(`with ${INBOX + 1} messages are there`);
	await expect(form.getByTestId('tested')).toContainText('It has CONDSTORE (RFC 7162)');
	await form.getByRole('button', { name: 'Connect and fetch' }).click();
	await expect(page.getByText('Harbour office is connected.')).toBeVisible();
	await expect(page.getByRole('row', { name: /Harbour office/ })).toContainText(`${INBOX + 1} messages`, {
		timeout: 60_000
	});
	await expect(page.getByRole('row', { name: /Harbour office/ })).toContainText('The server counts');
});

test('is weighed and found like any other mailbox, and follows what others do there', async ({ page }) => {
	await visit(page, '/m/1/weigh');
	await page.getByRole('link', { name: 'Vessels', exact: true }).first().click();
	await expect(page.getByRole('row', { name: /Engine of the Skua/ })).toBeVisible();
	await imap.append('INBOX', [bytesOf('Tides of March', INBOX)]);
	await imap.command('SELECT INBOX');
	await imap.command('STORE 1 +FLAGS (\\Deleted)');
	await imap.command('EXPUNGE');
	await imap.command('MOVE 1 Vessels');
	await visit(page, '/mailboxes/live');
	// a page that is left before the server has heard of it would take the wish along
	const heard = page.waitForResponse((response) => response.url().endsWith('?/fetch'));
	await page.getByRole('button', { name: 'Fetch now' }).click();
	await heard;
	await visit(page, '/m/1/archive?q=subject:tides');
	await expect(async () => {
		await page.reload();
		await expect(page.getByRole('row', { name: /Tides of March/ })).toBeVisible({ timeout: 1_000 });
	}).toPass();
	const at = ['--mailbox', 'Harbour office', '--json'];
	const found = (query: string) =>
		(JSON.parse(kovrel(server.data, 'search', query, ...at).stdout) as { hits: { state: string; folder: string }[] })
			.hits;
	// what is gone everywhere is settled once a pass is through
	await expect(() => {
		expect(found('subject:"note 0"')).toEqual([]);
		expect(found('subject:"note 1"')).toMatchObject([{ state: 'live', folder: 'Vessels' }]);
	}).toPass();
	await visit(page, '/m/1/clear/bin');
	await expect(page.getByRole('row', { name: /Crew note 0/ })).toBeVisible();
});

test('carries out there what is decided here, once that is allowed, and takes it back', async ({ page }) => {
	const there = async (subject: string) => {
		await imap.command('EXAMINE INBOX');
		return (await imap.command(`SEARCH SUBJECT "${subject}"`)).includes('* SEARCH ');
	};
	await visit(page, '/mailboxes/live');
	await page.getByRole('button', { name: 'Access …' }).click();
	const form = page.getByRole('form', { name: 'Access to Harbour office' });
	await form.getByLabel('Carry out decisions on 127.0.0.1').check();
	await form.getByRole('button', { name: 'Save' }).click();
	await expect(page.getByTestId('writing')).toContainText('what is decided in Harbour office');
	await expect(page.getByRole('row', { name: /Harbour office/ })).toContainText('Reads and writes');

	// what is decided at once, on a folder's page
	await visit(page, '/m/1/archive?q=subject:%22crew+note+123%22');
	await page.getByRole('checkbox', { name: 'Select Crew note 123', exact: true }).check();
	await page.keyboard.press('1');
	await expect(page.getByTestId('decided')).toContainText('Archived 1 message');
	await expect.poll(() => there('Crew note 123'), { timeout: 60_000 }).toBe(false);
	await page.getByRole('button', { name: 'Take back', exact: true }).click();
	await expect.poll(() => there('Crew note 123'), { timeout: 60_000 }).toBe(true);

	// and by a docket over hundreds
	const drafted = kovrel(
		server.data,
		'docket',
		'new',
		'archive',
		'--mailbox',
		'Harbour office',
		'--folder',
		'Inbox',
		'--json'
	);
	const { id, messages } = JSON.parse(drafted.stdout) as { id: number; messages: number };
	expect(messages).toBe(INBOX - 1);
	await visit(page, `/dockets/${id}`);
	await expect(page.getByText('Removes them from 127.0.0.1 once the copies here are checked.')).toBeVisible();
	await page.getByRole('button', { name: /^Carry out: archive/ }).click();
	await expect(page.getByTestId('docket-state')).toHaveText('carried out');
	const left = async () => Number(/\* (\d+) EXISTS/.exec(await imap.command('EXAMINE INBOX'))?.[1]);
	await expect.poll(left, { timeout: 60_000 }).toBe(0);
	await expect(async () => {
		await page.reload();
		await expect(page.getByTestId('waiting')).toHaveCount(0, { timeout: 500 });
	}).toPass();
	await page.getByRole('button', { name: /^Take back .* messages/ }).click();
	await expect.poll(left, { timeout: 60_000 }).toBe(INBOX - 1);
	expect(
		JSON.parse(kovrel(server.data, 'write', '--mailbox', 'Harbour office', '--read-only', '--json').stdout)
	).toEqual({
		mailbox: 'Harbour office',
		writes: false,
		archiveOn: 'kovrel',
		earlier: 0
	});
});

test('puts standing decisions on the server, where they act at delivery', async ({ page }) => {
	test.skip(!hasSieveServer(), 'dovecot-managesieved is not installed');
	const rule = ['rules', 'add', '--mailbox', 'Harbour office'];
	expect(
		kovrel(server.data, ...rule, '--from', 'log@skerryline.example', '--then', 'move', '--folder', 'Vessels').status
	).toBe(0);
	expect(kovrel(server.data, 'write', '--mailbox', 'Harbour office').status).toBe(0);
	await visit(page, '/m/1/desk/rules');
	await page.getByRole('button', { name: 'Put on 127.0.0.1 …' }).click();
	const form = page.getByRole('form', { name: 'Put standing decisions on 127.0.0.1' });
	await form.getByLabel('Port').fill(String(imap.sievePort));
	await form.getByRole('button', { name: 'Put them there' }).click();
	await expect(
		page.getByText('1 standing decision acts on 127.0.0.1 from now on, when mail is delivered.')
	).toBeVisible();
	expect(kovrel(server.data, 'rules', 'put', '--mailbox', 'Harbour office', '--port', '1').stderr).toContain(
		'The former script there stays as it was.'
	);
	expect(kovrel(server.data, 'rules', 'remove', '1').status).toBe(0);
	expect(kovrel(server.data, 'write', '--mailbox', 'Harbour office', '--read-only').status).toBe(0);
});

test('weighs a shared mailbox by its headers while its mail comes slowly, and goes on after a stop', async ({
	page
}) => {
	const LOGS = 400;
	await imap.command('CREATE Shared/Crew');
	await visit(page, '/mailboxes/live');
	const form = page.getByRole('form', { name: 'Connect a mailbox' });
	await fillConnection(page, 'Crew');
	await form.getByRole('textbox', { name: 'Password' }).fill('secret');
	await form.getByText('A shared mailbox, folders to leave out').click();
	await form.getByLabel('Folder there that is this mailbox').fill('Shared/Crew');
	await form.getByLabel('Fetch first').selectOption('the heaviest mail');
	await form.getByLabel('At most, a second').fill('10 kB');
	await form.getByRole('button', { name: 'Connect and fetch' }).click();
	await expect(page.getByText('Crew is connected.')).toBeVisible();
	const row = page.getByRole('row', { name: /^Crew/ });
	await expect(row).not.toContainText('Not fetched yet');
	// so much takes more than a minute at that pace
	const log = Buffer.from(letter('Log of the Skua', 'Mon, 2 Feb 2026 10:00:00 +0000', 'Sea state three. '.repeat(120)));
	await imap.append(
		'Shared/Crew',
		Array.from({ length: LOGS }, (_, n) => Buffer.concat([log, Buffer.from(`Page ${n}.\r\n`)]))
	);
	await expect(async () => {
		await visit(page, '/m/2/weigh');
		await expect(page.getByTestId('ahead')).toContainText('are still on its server', { timeout: 1_000 });
	}).toPass({ timeout: 75_000 });
	// all of it is weighed already
	await expect(page.getByRole('heading', { name: /Crew weighs/ })).toContainText(/8\d\d\skB/);
	await expect(
		page
			.getByRole('row', { name: /^2026/ })
			.or(page.getByText(`${LOGS} messages`))
			.first()
	).toBeVisible();
	await visit(page, '/m/2/clear');
	await expect(page.getByTestId('ahead')).toContainText('no docket reaches them before');
	await visit(page, '/mailboxes/live');
	await page.getByRole('button', { name: 'Stop' }).click();
	// its line goes, and what stands below moves up
	await expect(page.getByRole('button', { name: 'Stop' })).toHaveCount(0);
	await expect(row.getByTestId('ahead')).toContainText('to come');
	await row.getByRole('button', { name: 'Disconnect …' }).click();
	await expect(row.getByText('alone: Kovrel has not fetched')).toBeVisible();
	await expect(row.getByRole('button', { name: 'Disconnect Crew unfinished' })).toBeVisible();
	await row.getByRole('button', { name: 'Cancel' }).click();
	await row.getByRole('button', { name: 'Fetch settings …' }).click();
	const fetching = page.getByRole('form', { name: 'Fetch settings of Crew' });
	await fetching.getByLabel('At most, a second').fill('very little');
	await fetching.getByRole('button', { name: 'Save' }).click();
	await expect(page.getByRole('alert')).toContainText('is no size');
	await fetching.getByLabel('At most, a second').fill('');
	await fetching.getByRole('button', { name: 'Save' }).click();
	await expect(page.getByText('The next check of Crew fetches as you said.')).toBeVisible();
	await row.getByRole('button', { name: 'Fetch now' }).click();
	await expect(row).toContainText(`${LOGS} messages`, { timeout: 60_000 });
	await expect(row.getByTestId('ahead')).toHaveCount(0);
	const terminal = (...words: string[]) => kovrel(server.data, 'fetching', '--mailbox', 'Crew', ...words);
	expect(terminal('--first', 'newest', '--at-most', '2MB', '--connections', '1').stdout).toContain(
		'Crew is fetched with the newest mail first, at most 2.00 MB a second, over one connection.'
	);
	expect(terminal('--at-most', '1').stderr).toContain('10 kB a second');
	expect(JSON.parse(terminal('--at-most', 'none', '--json').stdout)).toMatchObject({
		fetchFirst: 'newest',
		bytesASecond: null,
		connections: 1
	});
	expect(kovrel(server.data, 'sync', '--mailbox', 'Crew').status).toBe(0);
	expect(kovrel(server.data, 'disconnect', 'Crew').stdout).toContain('Its mail stays here');
});

test('does the same from the terminal; disconnecting keeps the mail', async ({ page }) => {
	await imap.append('Vessels', [bytesOf('Hull of the Skua', 5)]);
	const synced = JSON.parse(kovrel(server.data, 'sync', '--mailbox', 'Harbour office', '--json').stdout) as unknown;
	// the server looks every minute: it may have been first
	expect(synced).toMatchObject({ mailbox: 'Harbour office', folders: 2, changed: 0, gone: 0, errors: [] });
	expect(kovrel(server.data, 'search', 'subject:hull', '--mailbox', 'Harbour office').stdout).toContain(
		'1 message found'
	);
	const environment = { KOVREL_MAIL_PASSWORD: 'secret' };
	const connected = kovrel(
		{ data: server.data, environment },
		...['connect', 'Second', '--host', '127.0.0.1', '--port', String(imap.port), '--user', 'second', '--tls', 'none'],
		'--json'
	);
	expect(JSON.parse(connected.stdout)).toMatchObject({ mailbox: 'Second', messages: 0 });
	expect(kovrel(server.data, 'disconnect', 'Second', '--unfinished').stdout).toContain('stays here');
	await visit(page, '/mailboxes/live');
	const row = page.getByRole('row', { name: /Harbour office/ });
	await row.getByRole('button', { name: 'Disconnect …' }).click();
	await row.getByRole('button', { name: 'Disconnect Harbour office' }).click();
	await expect(page.getByText('Its mail stays here')).toBeVisible();
	await visit(page, '/m/1/weigh');
	await expect(page.getByRole('link', { name: 'Vessels', exact: true }).first()).toBeVisible();
	// all but the password is known, and asked for only where the cursor stands
	await visit(page, '/mailboxes/live');
	const former = page.getByText(/^Harbour office was connected to 127\.0\.0\.1 as tester until/);
	await former.locator('..').getByRole('button', { name: 'Connect again …' }).click();
	await page.keyboard.type('secret');
	await page.keyboard.press('Enter');
	await expect(page.getByRole('status').filter({ hasText: 'Kovrel goes on from there' })).toBeVisible();
	await expect(former).toHaveCount(0);
	await expect(page.getByLabel('Mailbox here')).toHaveValue('');
	// a name that is known fills in the rest
	await page.getByLabel('Mailbox here').fill('harbour office');
	await page.keyboard.press('Tab');
	await expect(page.getByLabel('User there')).toHaveValue('tester');
});
