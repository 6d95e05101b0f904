import { rmSync } from 'node:fs';
import path from 'node:path';
import { expect, type Page } from '@playwright/test';
import { demoMail, kovrel, letter, mboxFile, slip, temporaryFolder, test, TestServer, TestStandIns } from './server.ts';

let server: TestServer;
let standIns: TestStandIns;
let environment: Record<string, string>;
const files = temporaryFolder();
const OFFICE = 'Tove Marstrand';

/* A mailbox of the demo, and a newsletter of somebody nobody has ever written to. */
test.beforeAll(async () => {
	const mail = demoMail();
	standIns = await TestStandIns.start(path.join(files, 'standins'));
	environment = { KOVREL_STANDINS: standIns.file, KOVREL_NOW: '2026-11-25T12:00:00Z' };
	server = await TestServer.start(undefined, environment);
	const strange = letter(
		'You may have won',
		'Tue, 24 Nov 2026 10:00:00 +0000',
		'Claim.',
		'Prizes <p@lucky.example>'
	).replace('\n\n', '\nList-Unsubscribe: <https://lucky.example/leave/1>\n\n');
	for (const source of [path.join(mail, OFFICE), mboxFile(files, [strange])])
		expect(terminal('import', source, '--mailbox', OFFICE)).toMatchObject({ status: 0 });
	rmSync(mail, { recursive: true });
});
test.afterAll(async () => {
	await server.remove();
	await standIns.end();
	rmSync(files, { recursive: true });
});
test.describe.configure({ mode: 'serial' });

const terminal = (...words: string[]) => kovrel({ data: server.data, environment }, ...words);
type Json = Record<string, never>;
function json(...words: string[]): Json {
	const { status, stdout, stderr } = terminal(...words, '--json');
	expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
	return JSON.parse(stdout) as Json;
}
async function visit(page: Page, address: string) {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}
const row = (page: Page, name: string) => page.locator('tr[data-list]').filter({ hasText: name });
const carryOut = async (page: Page) => {
	await slip(page)
		.getByRole('button', { name: /^Carry out/ })
		.click();
	await expect(page.getByTestId('docket-state')).toHaveText('carried out');
};

test('shows who wrote the newest hundred messages first, then all; a list opens to how to unsubscribe', async ({
	page
}) => {
	await visit(page, '/m/1/lists');
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Who wrote the newest 100 messages');
	await expect(row(page, 'Prizes')).toContainText('stranger');
	await page.getByRole('link', { name: 'All lists' }).click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('All lists');
	await page.getByLabel('Named').fill('forum');
	await page.keyboard.press('Enter');
	await expect(page.getByTestId('lists-total')).toContainText('1 list');
	await row(page, 'Ferry Operators Forum').focus();
	await page.keyboard.press('Enter');
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Ferry Operators Forum');
	await expect(page.getByText('A known sender: unsubscribing is safe.')).toBeVisible();
	await expect(page.getByText('to leave@members.ferryforum.example, subject “leave”')).toBeVisible();
	await expect(page.getByText('Not by one request: the sender does not offer it')).toBeVisible();
	await expect(page.getByTestId('total')).toContainText('messages');
	await expect(page.getByRole('row').nth(1)).toBeVisible();
});

test('leaves lists by one docket, from the keyboard, with their back issues; strangers are blocked instead', async ({
	page
}) => {
	await visit(page, '/m/1/lists?all=1');
	await page.getByLabel('Back issues').selectOption('are archived');
	for (const name of ['Island events', 'crewtalk', 'Prizes']) {
		await row(page, name).focus();
		await page.keyboard.press(' ');
	}
	await expect(page.getByTestId('selected')).toContainText('3 lists');
	await expect(page.getByTestId('selected')).toContainText('1 of them a stranger');
	await row(page, 'Prizes').focus();
	await page.keyboard.press('1');
	await expect(page.getByText('any click says that this address is read')).toBeVisible();
	await page.getByRole('button', { name: 'Unsubscribe from 2 lists, block 1 list as junk' }).click();
	await expect(slip(page)).toContainText('Unsubscribe from 2 lists: ');
	await expect(slip(page)).toContainText('Kovrel asks 2 to stop');
	await expect(slip(page)).toContainText('A request to a list cannot be taken back');
	await expect(slip(page)).toContainText('Block 1 list: Prizes');
	await expect(slip(page)).toContainText('to Junk');
	await carryOut(page);
	await expect(row(page, 'Island events')).toContainText('left on 25 Nov 2026, as it says');
	await expect(row(page, 'crewtalk')).toContainText('asked to stop on 25 Nov 2026');
	await expect(row(page, 'Prizes')).toContainText('blocked');
	await slip(page).getByRole('link', { name: 'Details, folder by folder' }).click();
	await page.getByText('Line 1, list by list:').click();
	await expect(page.getByRole('listitem').getByText('Island events', { exact: true })).toBeVisible();
	// what went out can be looked at
	await page.goto(standIns.post);
	await expect(page.getByRole('row').nth(1)).toContainText('leave@crew-talk.lists.seafarers.example');
	// the ledger says what was asked, and what was answered
	await visit(page, '/ledger');
	await expect(page.getByText('asked a list to stop').first()).toBeVisible();
});

test('is the same from the terminal: lists, leaving, what was asked is not asked again', () => {
	const { lists } = json('lists', '--mailbox', OFFICE, '--items') as unknown as {
		lists: { id: number; listId: string; ways: string[]; known: boolean; standing: string; items: unknown[] }[];
	};
	const of = (listId: string) => lists.find((list) => list.listId === listId);
	expect(of('tips.islandevents.example')).toMatchObject({
		ways: ['one-click', 'link'],
		known: true,
		standing: 'confirmed',
		items: []
	});
	expect(of('prizes <lucky.example>')).toMatchObject({ ways: ['link'], known: false });
	expect(json('lists', '--mailbox', OFFICE, '--newest', '100')).toHaveProperty('lists');
	// what somebody has drafted meanwhile is left alone
	const { id } = json('docket', 'new', 'delete', '--mailbox', OFFICE, '--by', 'year', '--key', '2022') as unknown as {
		id: number;
	};
	const leave = ['unsubscribe', 'info.payrollbureau.example', '--back-issues', 'keep', '--keep-newest', '2'];
	expect(json(...leave, '--dry-run')).toMatchObject({
		dryRun: true,
		asked: null,
		dockets: [{ docket: null, lists: 1 }]
	});
	expect(json(...leave)).toMatchObject({ asked: { asked: 1, failed: 0 }, dockets: [{ lists: 1 }] });
	expect(json('docket', 'show', String(id))).toMatchObject({ state: 'drafted', lines: [{ decision: 'delete' }] });
	json('docket', 'discard', String(id));
	expect(terminal('unsubscribe', 'info.payrollbureau.example').stderr).toContain('asked to stop already');
	expect(terminal('unsubscribe', 'no-such-list').status).toBe(1);
	expect(json('senders', 'block', '.top', '--dry-run')).toMatchObject({ blocked: ['.top'], dryRun: true });
	expect(json('senders', 'trust', 'inselkammer.example')).toMatchObject({ trusted: ['inselkammer.example'] });
	expect(json('senders', 'list')).toMatchObject({
		senders: [
			{ verdict: 'trust', kind: 'domain', value: 'inselkammer.example' },
			{ verdict: 'block', kind: 'list', value: 'prizes <lucky.example>' }
		]
	});
});

test('an open message shows its list with advice, and decides on it from there', async ({ page }) => {
	await visit(page, '/m/1/archive?q=list%3A.example');
	await page.locator('tr[aria-label]').first().getByRole('button').first().click();
	const list = page.getByRole('dialog').getByRole('region', { name: 'List' });
	await expect(list).toContainText(/^From the list .+, \d+ messages here\./);
	await list.getByRole('button', { name: 'Fold into the digest' }).click();
	await expect(list.getByRole('status')).toHaveText('It is on the docket. Nothing happens until that is carried out.');
	await page.keyboard.press('Escape');
	await expect(page.getByRole('complementary', { name: 'Docket' })).toContainText('digest');
	await page
		.getByRole('complementary', { name: 'Docket' })
		.getByRole('button', { name: 'Discard this docket' })
		.click();
	await expect(page).toHaveURL(/\/archive\?q=/);
});

test('says who wins for a sender, and takes marks off', async ({ page }) => {
	await visit(page, '/m/1/lists/senders');
	await page.getByLabel(/^A sender/).fill('lucky.example');
	await page.getByRole('button', { name: 'Trust', exact: true }).click();
	await expect(page.getByRole('row', { name: /the domain lucky\.example/ })).toContainText('trusted');
	await page.getByLabel('An address').fill('p@lucky.example');
	await page.getByLabel(/^of the list/).fill('prizes <lucky.example>');
	await page.getByRole('button', { name: 'Check' }).click();
	await expect(page.getByText('narrower than the domain lucky.example')).toBeVisible();
	await page.getByRole('button', { name: /^Remove the mark of the domain lucky\.example/ }).click();
	await expect(page.getByRole('row', { name: /the domain lucky\.example/ })).toBeHidden();
	await page.getByLabel(/^A sender/).fill('two words');
	await page.getByRole('button', { name: 'Block …' }).click();
	await expect(page.getByText('is neither an address')).toBeVisible();
	// what it touches is said first, and the office's own is blocked only by typing it
	await page.getByLabel(/^A sender/).fill('.example');
	await page.getByRole('button', { name: 'Block …' }).click();
	const blocking = page.getByRole('form', { name: 'Block' });
	await expect(blocking).toContainText(/touches \d+\s+senders with \d+ messages in the last 12 months/);
	await blocking.getByLabel(/^They include addresses of this office/).fill('exam');
	await blocking.getByRole('button', { name: /^Block all addresses/ }).click();
	await expect(page.getByText('To block them, type example. Nothing was changed.')).toBeVisible();
	await page.getByLabel(/^A sender/).fill('other.test');
	await page.getByRole('button', { name: 'Block …' }).click();
	await expect(blocking).toContainText('touches 0 senders with 0 messages');
	await blocking.getByRole('button', { name: /^Block the domain/ }).click();
	await expect(page.getByRole('row', { name: /the domain other\.test/ })).toContainText('blocked');
	await page.getByRole('button', { name: 'Take back' }).first().click();
	await expect(page.getByRole('row', { name: /the domain other\.test/ })).toBeHidden();
});

test('folds lists into a digest as days pass; its originals open from it, and are archived once somebody says so', async ({
	page
}) => {
	await visit(page, '/m/1/lists?all=1');
	for (const name of ['Ferry Operators Forum', 'Rundbrief']) {
		await row(page, name).focus();
		await page.keyboard.press(' ');
	}
	await row(page, 'Rundbrief').focus();
	await page.keyboard.press('3');
	await expect(slip(page)).toContainText('Fold into the digest 2 lists');
	await carryOut(page);
	await expect(row(page, 'Ferry Operators Forum')).toContainText('folded into the digest');
	await expect(page.getByText('Its date is 25 Nov 2026')).toBeVisible();
	await page.getByRole('button', { name: 'Let a day pass' }).click();
	await expect(page.getByText('Its date is 26 Nov 2026')).toBeVisible();
	// until each of the two has written at least once
	const passed = json('days', 'pass', '24') as unknown as {
		digests: { messages: number; asks: boolean }[];
		delivered: number;
	};
	expect(passed.delivered).toBeGreaterThan(0);
	expect(passed.digests.length).toBeGreaterThan(0);
	expect(passed.digests[0]).toMatchObject({ asks: true });
	await visit(page, '/m/1/archive?q=folder%3ADigests');
	await page
		.getByRole('button', { name: /^Digest of 1 list/ })
		.first()
		.click();
	const drawer = page.getByRole('dialog');
	await expect(drawer.getByText(/of this digest/)).toBeVisible();
	await drawer.getByRole('list').getByRole('button').first().click();
	await expect(drawer.getByText(/^You get this because you asked for/).or(drawer.locator('iframe'))).toBeVisible();
	await page.keyboard.press('Escape');
	await visit(page, '/m/1/lists/digest');
	await page.getByRole('button', { name: /^Take Ferry Operators Forum out/ }).click();
	await expect(page.getByRole('row', { name: /Ferry Operators Forum/ })).toBeHidden();
});

test('shows what leaving brought, and that who was asked is silent', async ({ page }) => {
	await visit(page, '/m/1/lists/since');
	await expect(page.getByTestId('inflow')).toContainText('3 lists were asked to stop.');
	await expect(page.getByTestId('inflow')).toContainText('fewer');
	await visit(page, '/m/1/lists?all=1');
	await expect(row(page, 'Island events')).toContainText('left: silent since 25 Nov 2026');
});

test('marks a message as junk at once, from where it is read, and takes it back', async ({ page }) => {
	await visit(page, '/m/1/archive?q=folder%3AInbox&sort=newest');
	await page.locator('tbody button.lead').first().click();
	const drawer = page.getByRole('dialog');
	await drawer.getByRole('button', { name: 'More', exact: true }).click();
	await drawer.getByRole('button', { name: 'Junk', exact: true }).click();
	const decided = page.getByTestId('decided');
	await expect(decided).toContainText('Moved 1 message to Junk');
	await expect(decided).toContainText('the tag “$Junk” on 1 message');
	await page.keyboard.press('Escape');
	await decided.getByRole('button', { name: 'Take back' }).click();
	await expect(slip(page).getByTestId('docket-state')).toHaveText('taken back');
});
