import { spawnSync } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { expect, type Page } from '@playwright/test';
import Database from 'better-sqlite3';
import { discardDocket, letter, mboxFile, slip, temporaryFolder, test, TestServer } from './server.ts';

const OLD = 'Mon, 3 Feb 2020 10:00:00 +0000';
const NEW = 'Tue, 3 Feb 2026 10:00:00 +0000';
const HTML = `MIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/html\n\n<h1>Quay fees</h1><img src="https://evil.example/pixel.gif" alt="Banner"><script>parent.document.title = 'broken into'</script><p><a href="https://evil.example/x">read more</a></p>\n--b\nContent-Type: text/plain; name="../fees.txt"\nContent-Disposition: attachment; filename="../fees.txt"\n\n12 a metre\n--b--\n`;

let server: TestServer;
const files = temporaryFolder();

test.beforeAll(async () => {
	server = await TestServer.start();
});
test.afterAll(async () => {
	await server.remove();
	rmSync(files, { recursive: true });
});

/* Clicking before the page is alive would be lost. */
async function visit(page: Page, address: string) {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}

test.describe.configure({ mode: 'serial' });

test('a first visit says what belongs here, and how it gets here', async ({ page }) => {
	await page.goto(server.url);
	await expect(page).toHaveURL(/\/begin$/);
	await page.getByRole('link', { name: 'Import mail' }).first().click();
	await expect(page.getByText('Nothing was imported yet.')).toBeVisible();
});

test('brings in an mbox file, shows what came in, and adds nothing the second time', async ({ page }) => {
	const old = Array.from({ length: 30 }, (_, n) => letter(`Ramp limit ${n}`, OLD, `Réservation number ${n} <b>&`));
	const recent = Array.from({ length: 7 }, (_, n) => letter(`Quay light ${n}`, NEW));
	const fees = letter('Quay fees', OLD).replace(/\n\nWords\.\n$/, `\n${HTML}`);
	const file = mboxFile(files, [...old, ...recent, fees]);
	for (const says of [
		'38 read: 38 added, 0 there already, 0 kept raw.',
		'38 read: 0 added, 38 there already, 0 kept raw.'
	]) {
		await visit(page, '/mailboxes');
		await page.getByLabel('select files').setInputFiles(file);
		await page.getByLabel('Into the mailbox').fill('Harbour office');
		await page.getByRole('button', { name: /^Import \d/ }).click();
		await expect(page.getByTestId('brought-in')).toHaveText(says);
	}
	await expect(page.getByRole('row', { name: /mail\.mbox/ })).toHaveCount(2);
});

test('brings in a folder of messages with its subfolders', async ({ page }) => {
	const folder = path.join(files, 'saved');
	mkdirSync(path.join(folder, 'Crew', 'Rosters'), { recursive: true });
	writeFileSync(path.join(folder, 'one.eml'), letter('One', NEW));
	writeFileSync(path.join(folder, 'Crew', 'Rosters', 'two.eml'), letter('Two', NEW));
	await visit(page, '/mailboxes');
	await page.getByLabel('select a folder').setInputFiles(folder);
	await page.getByLabel('Into the mailbox').fill('Crew office');
	await page.getByRole('button', { name: /^Import \d/ }).click();
	await expect(page.getByTestId('brought-in')).toHaveText('2 read: 2 added, 0 there already, 0 kept raw.');
	await page.getByRole('row', { name: /saved/ }).getByRole('link', { name: 'Crew office' }).click();
	await expect(page.getByRole('row', { name: /^Rosters/ })).toContainText('1');
});

test('imports a Maildir from the browser, which leaves out its empty parts', async ({ page }) => {
	const maildir = path.join(files, 'Post');
	for (const part of ['cur', 'new', 'tmp', '.Projects.Slipway/cur', '.Projects.Slipway/new'])
		mkdirSync(path.join(maildir, part), { recursive: true });
	for (let n = 0; n < 120; n++)
		writeFileSync(path.join(maildir, 'cur', `${n}.M1P1.skerry:2,${n % 3 === 0 ? 'S' : ''}`), letter(`Post ${n}`, NEW));
	writeFileSync(path.join(maildir, '.Projects.Slipway', 'cur', '1.M1P1.skerry:2,FS'), letter('Slipway', NEW));
	writeFileSync(path.join(maildir, 'subscriptions'), 'Projects.Slipway');
	await visit(page, '/mailboxes');
	await page.getByLabel('select a folder').setInputFiles(maildir);
	await page.getByLabel('Into the mailbox').fill('Post office');
	await page.getByRole('button', { name: /^Import \d/ }).click();
	await expect(page.getByTestId('brought-in')).toHaveText('121 read: 121 added, 0 there already, 0 kept raw.');
	await page.getByRole('row', { name: /Post/ }).getByRole('link', { name: 'Post office' }).click();
	await expect(page.getByRole('row', { name: /^Inbox/ })).toContainText('120');
	await expect(page.getByRole('row', { name: /^Slipway/ })).toContainText('1');
	await expect(page.getByText(/80 unread/).first()).toBeVisible();
});

test('lists what it cannot understand, and gives its bytes back', async ({ page }) => {
	await visit(page, '/mailboxes');
	await page
		.getByLabel('select files')
		.setInputFiles({ name: 'photo.eml', mimeType: 'message/rfc822', buffer: Buffer.from([0x89, 0x50, 0x4e, 0x47]) });
	await page.getByLabel('Into the mailbox').fill('Harbour office');
	await page.getByRole('button', { name: /^Import \d/ }).click();
	await expect(page.getByTestId('brought-in')).toHaveText('1 read: 0 added, 0 there already, 1 kept raw.');
	await page
		.getByRole('row', { name: /photo\.eml/ })
		.getByRole('link', { name: '1', exact: true })
		.click();
	await expect(page.getByText('is neither a message nor a mailbox file')).toBeVisible();
	const [download] = await Promise.all([
		page.waitForEvent('download'),
		page.getByRole('link', { name: 'Download the raw bytes' }).click()
	]);
	const stream = await download.createReadStream();
	const chunks: Buffer[] = [];
	for await (const chunk of stream) chunks.push(chunk as Buffer);
	expect(Buffer.concat(chunks)).toEqual(Buffer.from([0x89, 0x50, 0x4e, 0x47]));
});

test('weighs, sets a quota, and leads on to a docket', async ({ page }) => {
	await visit(page, '/m/1/weigh');
	await expect(page.getByRole('heading', { name: /^Harbour office weighs/ })).toBeVisible();
	await page.getByRole('button', { name: 'Set a quota' }).click();
	await page.getByLabel('Quota (empty: none)').fill('a lot');
	await page.getByRole('button', { name: 'Set', exact: true }).click();
	await expect(page.getByRole('alert')).toContainText('"a lot" is no size');
	await page.getByLabel('Quota (empty: none)').fill('5 kB');
	await page.getByRole('button', { name: 'Set', exact: true }).click();
	await expect(page.getByTestId('weight')).toContainText('over');
	await expect(page.getByTestId('advice')).toContainText('What would free most: archive mail received before');
	await page.getByRole('button', { name: /^Draft a docket: Archive mail received before/ }).click();
	await expect(page).toHaveURL(/\/m\/1\/clear$/);
	await expect(slip(page)).toContainText('Archive 31 messages from 1 folder received before');
	await discardDocket(page);
});

test('weighs by what one chooses, each row leading to its messages', async ({ page }) => {
	await visit(page, '/m/1/weigh');
	for (const [by, row, found] of [
		['organisation', 'skerryline.example', '38 messages found'],
		['year', '2020', '31 messages found'],
		['month', '2026-02', '7 messages found'],
		['size', 'under 10 kB', '38 messages found'],
		['attachment', 'document', '1 message found']
	] as const) {
		await page.getByLabel('Weigh by').selectOption(by);
		await page.getByRole('link', { name: row, exact: true }).click();
		await expect(page.getByTestId('total')).toContainText(found);
		await page.goBack();
		await page.locator('html[data-ready]').waitFor();
	}
});

test('compares mailboxes side by side', async ({ page }) => {
	await visit(page, '/m/1/weigh');
	await page.getByRole('combobox', { name: /^Mailbox/ }).selectOption('Several mailboxes as one');
	await expect(page.getByRole('heading', { name: /^All mailboxes weigh/ })).toBeVisible();
	await expect(page.getByRole('row', { name: /Harbour office/ }).first()).toContainText('over it now');
	await page.getByRole('checkbox', { name: 'Weigh Crew office' }).check();
	await expect(page.getByRole('row', { name: /Harbour office/ })).toHaveCount(1);
	await page.getByRole('link', { name: 'Crew office' }).click();
	await expect(page.getByRole('heading', { name: /^Crew office weighs/ })).toBeVisible();
});

test('drafts a docket, carries it out, and takes it back', async ({ page }) => {
	await visit(page, '/m/1/clear?before=2021-01-01');
	await page.getByRole('button', { name: 'Count it, and draft a docket' }).click();
	await expect(slip(page)).toContainText('Archive 31 messages from 1 folder received before 1 Jan 2021');
	await expect(slip(page)).toContainText('7 messages stay: received on or after the cutoff date.');
	await expect(page.getByRole('row', { name: /^Inbox/ })).toContainText('3 Feb 2020');
	await expect(page.getByLabel('From')).toHaveValue('');
	await expect(page.getByLabel('From').locator('option:checked')).toHaveText('the whole mailbox');
	// it survives leaving the page
	await visit(page, '/m/1/archive');
	await expect(slip(page).getByTestId('docket-state')).toHaveText('drafted');
	await slip(page).getByRole('button', { name: 'Carry out: archive 31 messages' }).click();
	await expect(slip(page).getByTestId('docket-state')).toHaveText('carried out');
	await expect(page.getByRole('navigation', { name: 'Stages of the work' })).toContainText('31 archived');
	await slip(page).getByRole('button', { name: 'Take back 31 messages' }).click();
	await expect(slip(page)).toContainText('31 messages are as before');
	await expect(page.getByRole('navigation', { name: 'Stages of the work' })).toContainText('0 archived');
});

test('lays the archive out by year, for a docket and then for the mailbox, and archives nothing where that is set', async ({
	page
}) => {
	await visit(page, '/m/1/clear');
	await page.getByRole('button', { name: '5 years' }).click();
	const draft = page.locator('form[action="?/draft"]');
	await draft.getByText('In the archive:').click();
	await draft.getByRole('button', { name: 'Add a level' }).click();
	// the tree is drawn with mail that is there
	await expect(draft.getByRole('list', { name: 'Tree of the archive' })).toContainText('2020');
	await page.getByRole('button', { name: 'Count it, and draft a docket' }).click();
	await expect(slip(page)).toContainText('in the same folders, by year');
	await slip(page).getByRole('button', { name: 'Carry out: archive 31 messages' }).click();
	await expect(slip(page).getByTestId('docket-state')).toHaveText('carried out');
	await visit(page, '/m/1/archive?where=archived');
	await page.getByText('The folders of the archive').click();
	await page.getByRole('link', { name: '2020', exact: true }).click();
	await expect(page.getByTestId('total')).toContainText('31 messages found');

	await visit(page, '/m/1/clear');
	await page.getByText('How Harbour office is archived').click();
	const settings = page.locator('form[action="?/archiving"]');
	await settings.getByRole('button', { name: 'Remove level 1' }).click();
	await settings.getByRole('button', { name: /arranges the 31 messages/ }).click();
	await expect(slip(page)).toContainText('Arrange the 31 messages in the archive anew, without folders');
	await slip(page).getByRole('button', { name: 'Carry out: arrange anew 31 messages' }).click();
	await expect(slip(page).getByTestId('docket-state')).toHaveText('carried out');
	await slip(page).getByRole('button', { name: 'Take back 31 messages' }).click();
	await expect(slip(page)).toContainText('31 messages are as before');

	await page.getByRole('checkbox', { name: 'mail of this mailbox may be archived' }).uncheck();
	await settings.getByRole('button', { name: 'Save' }).click();
	await expect(page.getByText('Harbour office is set to archive nothing.')).toBeVisible();
	await page.getByRole('checkbox', { name: 'mail of this mailbox may be archived' }).check();
	await settings.getByRole('button', { name: 'Add a level' }).click();
	await expect(settings.getByText('In the archive:')).toContainText('in the same folders');
	await settings.getByRole('button', { name: 'Save' }).click();
	await expect(page.getByRole('button', { name: 'Count it, and draft a docket' })).toBeVisible();
	// an earlier docket is taken back too
	await page
		.getByRole('row', { name: /by year/ })
		.getByRole('link')
		.click();
	await expect(page).toHaveURL(/\/dockets\/\d+$/);
	await slip(page).getByRole('button', { name: 'Take back 31 messages' }).click();
	await expect(slip(page)).toContainText('31 messages are as before');
});

test('says so when the mailbox has changed since the draft', async ({ page, context }) => {
	await visit(page, '/m/1/clear?before=2021-01-01');
	await page.getByRole('button', { name: 'Count it, and draft a docket' }).click();
	await expect(slip(page).getByRole('button', { name: 'Carry out: archive 31 messages' })).toBeVisible();
	const other = await context.newPage();
	await visit(other, '/mailboxes');
	await other
		.getByLabel('select files')
		.setInputFiles({ name: 'late.eml', mimeType: 'message/rfc822', buffer: Buffer.from(letter('Late', OLD)) });
	await other.getByLabel('Into the mailbox').fill('Harbour office');
	await other.getByRole('button', { name: /^Import \d/ }).click();
	await expect(other.getByTestId('brought-in')).toContainText('1 added');
	await other.close();
	await slip(page)
		.getByRole('button', { name: /^Carry out/ })
		.click();
	await expect(slip(page).getByRole('alert')).toContainText(/it meant 31 messages \(.*\), now it means 32 \(/);
	await slip(page).getByRole('button', { name: 'Carry out: archive 32 messages' }).click();
	await expect(slip(page).getByTestId('docket-state')).toHaveText('carried out');
});

test('finds an archived message, opens it safely, and puts it back', async ({ page }) => {
	const requested: string[] = [];
	page.on('request', (request) => requested.push(request.url()));
	await visit(page, '/m/1/archive');
	await page.getByRole('combobox', { name: 'What are you looking for?' }).fill('subject:"quay fees" from:tove');
	await page.getByRole('button', { name: 'Find' }).click();
	await expect(page.getByTestId('total')).toContainText('1 message found');
	await expect(page.locator('tbody mark')).toHaveText(['Tove', 'tove', 'Quay fees']);
	await page.getByRole('button', { name: 'Quay fees' }).click();
	const drawer = page.getByRole('dialog');
	await expect(drawer).toContainText('archived');
	const frame = page.frameLocator('iframe[title="Text of the message"]');
	await expect(frame.getByRole('heading', { name: 'Quay fees' })).toBeVisible();
	await expect(frame.getByText('picture not loaded: Banner')).toBeVisible();
	await expect(frame.getByText('[evil.example]')).toBeVisible();
	expect(await page.title()).not.toContain('broken');
	const [file] = await Promise.all([
		page.waitForEvent('download'),
		drawer.getByRole('link', { name: 'fees.txt' }).click()
	]);
	expect(file.suggestedFilename()).toBe('fees.txt');
	await page.keyboard.press('Escape');
	await expect(drawer).toBeHidden();

	// by the keyboard alone
	await page.getByRole('row', { name: 'Quay fees, archived' }).focus();
	await page.keyboard.press('9');
	await expect(page.getByTestId('decided')).toContainText('Restored 1 message to where it came from');
	await expect(page.getByRole('row', { name: 'Quay fees, live' })).toContainText('Inbox');
	await expect(slip(page)).toContainText('Restored 1 message to where it came from');
	expect(requested.filter((url) => url.includes('evil'))).toEqual([]);
});

test('finds while one writes, and chooses across pages', async ({ page }) => {
	await visit(page, '/m/1/archive?where=archived');
	await page.getByRole('combobox', { name: 'What are you looking for?' }).pressSequentially('ramp lim');
	await expect(page.getByTestId('total')).toContainText('30 messages found, page 1 of 2');
	await expect(page.getByRole('listbox', { name: 'Suggestions' })).toBeVisible();
	await page.keyboard.press('Escape');
	await page
		.getByRole('checkbox', { name: /^Select Ramp/ })
		.first()
		.check();
	await page.getByRole('link', { name: 'Next page' }).click();
	await expect(page.getByTestId('total')).toContainText('page 2 of 2');
	await page
		.getByRole('checkbox', { name: /^Select Ramp/ })
		.first()
		.check();
	await expect(page.getByTestId('selected')).toContainText('2 messages');
	await page.getByRole('button', { name: 'Select all 30' }).click();
	await page.getByRole('button', { name: '9 Restore' }).click();
	await expect(page.getByTestId('decided')).toContainText('Restored 30 messages to where they came from');
	await slip(page).getByRole('button', { name: 'Take back 30 messages' }).click();
	await expect(slip(page)).toContainText('30 messages are as before');
});

test('keeps a file straight from its row, and a copy of what was found or selected as a zip file', async ({ page }) => {
	await visit(page, '/m/1/archive?q=subject:"quay+fees"');
	const kept = async (click: () => Promise<void>) => {
		const [file] = await Promise.all([page.waitForEvent('download'), click()]);
		const place = path.join(files, file.suggestedFilename());
		await file.saveAs(place);
		return { name: file.suggestedFilename(), place };
	};
	expect((await kept(() => page.getByRole('link', { name: 'fees.txt' }).click())).name).toBe('fees.txt');
	const names = (zip: string) =>
		spawnSync('python3', ['-m', 'zipfile', '-l', zip], { encoding: 'utf8' })
			.stdout.match(/\S+\.(eml|mbox|csv)/g)
			?.sort();
	const all = await kept(() => page.getByRole('button', { name: 'Download all 1 message as a zip file' }).click());
	expect(all.name).toBe('Harbour office eml.zip');
	expect(names(all.place)).toHaveLength(2);
	await visit(page, '/m/1/archive?q=ramp&where=archived');
	await page
		.getByRole('checkbox', { name: /^Select Ramp/ })
		.nth(3)
		.check();
	await page.getByLabel('Download as').selectOption('mbox');
	const one = await kept(() => page.getByRole('button', { name: 'Download 1 message as a zip file' }).click());
	expect(names(one.place)).toEqual(['Inbox.mbox', 'index.csv']);
	await visit(page, '/ledger');
	await expect(page.getByRole('cell', { name: 'exported mail' }).first()).toBeVisible();
});

test('a wrong query says where, and nothing found says what to do', async ({ page }) => {
	await visit(page, '/m/1/archive?q=since%3Ayesterday');
	await expect(page.getByRole('alert')).toContainText('"yesterday" is no date');
	await expect(page.getByRole('alert')).toContainText('at character 7');
	await visit(page, '/m/1/archive?q=unheard-of');
	await expect(page.getByText('Nothing was found.')).toBeVisible();
});

test('the ledger has a line for each, and everything checks out', async ({ page }) => {
	await visit(page, '/ledger');
	for (const line of ['made a mailbox', 'imported mail', 'set a quota', 'carried out a docket', 'took a docket back'])
		await expect(page.getByRole('cell', { name: line }).first()).toBeVisible();
	await page.getByRole('button', { name: 'Check everything' }).click();
	await expect(page.getByTestId('verified')).toContainText('All is well');
	await page.getByRole('button', { name: /Work in the background/ }).click();
	await expect(page.getByText('Done: Checking every stored message and the ledger')).toBeVisible();
});

test('a page that is not there says so', async ({ page }) => {
	await page.goto(`${server.url}/m/99/weigh`);
	await expect(page.getByRole('alert')).toContainText('There is no mailbox 99');
	await page.goto(`${server.url}/nowhere`);
	await expect(page.getByRole('alert')).toContainText('There is no such page');
});

test('after a power cut everything that was acknowledged is there', async ({ page }) => {
	const { data } = server;
	await server.end('SIGKILL');
	server = await TestServer.start(data);
	await visit(page, '/ledger');
	await page.getByRole('button', { name: 'Check everything' }).click();
	await expect(page.getByTestId('verified')).toContainText('All is well');
	await visit(page, '/m/1/archive?where=archived');
	await expect(page.getByTestId('total')).toContainText('31 messages');
});

test('damage is said on every page, and Ledger names the mail and how it is repaired', async ({ page }) => {
	const { data } = server;
	await server.end('SIGTERM');
	const database = new Database(path.join(data, 'kovrel.sqlite'));
	database.exec(
		`UPDATE content SET data = zeroblob(length(data)) WHERE id = (SELECT content_id FROM message WHERE subject = 'Quay light 3')`
	);
	database.close();
	server = await TestServer.start(data);
	await visit(page, '/ledger');
	await page.getByRole('button', { name: 'Check everything' }).click();
	await expect(page.getByTestId('checks')).toContainText(/checks a share of everything each night.* last checked on/);
	await expect(page.getByTestId('damaged')).toContainText('1 message is damaged');
	await expect(page.getByTestId('damaged')).toContainText('“Quay light 3” in Inbox of Harbour office');
	await expect(page.getByTestId('damaged')).toContainText('kovrel repair --from PATH');
	await visit(page, '/m/1/weigh');
	await expect(page.getByRole('alert')).toContainText('Damage was found: 1 message is damaged.');
	// the mail as it came in heals it, and the next check finds nothing
	const recent = Array.from({ length: 7 }, (_, n) => letter(`Quay light ${n}`, NEW));
	const repaired = spawnSync(
		process.execPath,
		[path.join('build', 'programs', 'kovrel.mjs'), 'repair', '--from', mboxFile(files, recent), '--json'],
		{ encoding: 'utf8', env: { ...process.env, KOVREL_DATA: data } }
	);
	expect(JSON.parse(repaired.stdout)).toMatchObject({ repaired: 1, left: [] });
	await visit(page, '/ledger');
	await page.getByRole('button', { name: 'Check everything' }).click();
	await expect(page.getByTestId('damaged')).toHaveCount(0);
	await expect(page.getByTestId('verified')).toContainText('All is well');
});

test('only this machine is served, and only our own pages change anything', async ({ request }) => {
	const answers = {
		'another name': await request.get(`${server.url}/ledger`, { headers: { host: 'kovrel.evil.example' } }),
		'another page': await request.post(`${server.url}/jobs`, { headers: { origin: 'http://evil.example' } }),
		'another page, by form': await request.post(`${server.url}/ledger?/verify`, {
			headers: { origin: 'http://evil.example', 'sec-fetch-site': 'cross-site' },
			form: {}
		}),
		'deleting from elsewhere': await request.delete(`${server.url}/jobs/1`, {
			headers: { 'sec-fetch-site': 'cross-site' }
		})
	};
	expect(Object.fromEntries(Object.entries(answers).map(([name, answer]) => [name, answer.status()]))).toEqual({
		'another name': 421,
		'another page': 403,
		'another page, by form': 403,
		'deleting from elsewhere': 403
	});
});

test('every answer says what a browser may do with it', async ({ request }) => {
	const pagePolicy =
		/object-src 'none'.*base-uri 'none'.*form-action 'self'.*frame-ancestors 'none'|frame-ancestors 'none'/;
	for (const [path, status, policy] of [
		['/sign-in', 200, pagePolicy],
		['/ledger', 303, /default-src 'none'.*form-action 'none'.*frame-ancestors 'none'/],
		['/items/1/raw', 401, /default-src 'none'/]
	] as const) {
		const answer = await request.get(server.url + path, {
			maxRedirects: 0,
			headers: { cookie: '', accept: path === '/items/1/raw' ? '*/*' : 'text/html' }
		});
		const headers = answer.headers();
		expect(answer.status(), path).toBe(status);
		expect(headers['content-security-policy'], path).toMatch(policy);
		expect(headers, path).toMatchObject({
			'x-content-type-options': 'nosniff',
			'cross-origin-resource-policy': 'same-origin',
			'cache-control': 'no-store'
		});
	}
});

test('the first page weighs less than 150 kB, fonts and scripts with it', async ({ browser }) => {
	const context = await browser.newContext();
	const page = await context.newPage();
	const sizes: Promise<{ url: string; bytes: number }>[] = [];
	page.on('requestfinished', (request) =>
		sizes.push(
			request.sizes().then(({ responseBodySize, responseHeadersSize }) => ({
				url: request.url(),
				bytes: responseBodySize + responseHeadersSize
			}))
		)
	);
	await visit(page, '/sign-in');
	await page.waitForLoadState('networkidle');
	const all = (await Promise.all(sizes)).sort((a, b) => b.bytes - a.bytes);
	expect(all.some(({ url }) => url.endsWith('.woff2'))).toBe(true);
	expect(all.some(({ url }) => url.endsWith('.js'))).toBe(true);
	expect(
		all.reduce((sum, { bytes }) => sum + bytes, 0),
		JSON.stringify(all.slice(0, 8))
	).toBeLessThan(150_000);
	await context.close();
});

test('a second server, and one whose port is taken, say so and end', () => {
	const start = (data: string, port: string, words: string[] = []) =>
		spawnSync(process.execPath, ['build', ...words], {
			encoding: 'utf8',
			timeout: 60_000,
			env: { ...process.env, KOVREL_DATA: data, HOST: '127.0.0.1', PORT: port }
		});
	const second = start(server.data, '0');
	expect(second.status).toBe(1);
	expect(second.stderr).toMatch(/^Kovrel cannot begin\. Another Kovrel server works in .* Nothing was done\.\n$/);
	const taken = start(path.join(server.data, '..', `other-${process.pid}`), new URL(server.url).port, ['--new']);
	expect(taken.status).toBe(1);
	expect(taken.stderr).toMatch(/Kovrel cannot begin\. 127\.0\.0\.1, port \d+, is used by another program/);
	expect(taken.stderr).not.toMatch(/\n\s+at /);
});

test.describe('a wrong environment', () => {
	for (const [name, value] of [
		['KOVREL_STANDINS', '/nowhere.json'],
		['KOVREL_NOW', 'yesterday'],
		['KOVREL_TIME_ZONE', 'Ferry/Time']
	] as const)
		test(`is said in a sentence by server and terminal: ${name}`, () => {
			const fresh = path.join(server.data, '..', `wrong-${name}-${process.pid}`);
			const env = { ...process.env, KOVREL_DATA: fresh, HOST: '127.0.0.1', PORT: '0', [name]: value };
			for (const words of [
				['build', '--new'],
				['build/programs/kovrel.mjs', 'import', 'package.json', '--mailbox', 'A', '--new']
			]) {
				const { status, stderr } = spawnSync(process.execPath, words, { encoding: 'utf8', timeout: 60_000, env });
				expect(status, stderr).toBeGreaterThan(0);
				expect(stderr).not.toMatch(/\n\s+at |"stack"/);
				expect(stderr.trim().split('\n')).toHaveLength(1);
			}
			rmSync(fresh, { recursive: true, force: true });
		});
});
