import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { kovrel, letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/* A folder's page as somebody uses it who tidies an inbox by hand: 420 messages, the keys, and what is decided from there. */
let server: TestServer;
const MESSAGES = 420;

test.describe.configure({ mode: 'serial' });

test.beforeAll(async () => {
	const folder = temporaryFolder();
	const letters = Array.from({ length: MESSAGES }, (_, n) =>
		letter(
			`Crew note ${n}`,
			new Date(Date.UTC(2024, 0, 1) + n * 86_400_000).toUTCString(),
			'The ramp is stiff. '.repeat(1 + (n % 7) * 10),
			n % 3 === 0 ? 'Tove <tove@skerryline.example>' : 'Kjell <kjell@slipworks.example>'
		)
	);
	server = await TestServer.start();
	expect(kovrel(server.data, 'import', mboxFile(folder, letters), '--mailbox', 'Office')).toMatchObject({ status: 0 });
	const winter = mboxFile(folder, [letter('Ice', 'Mon, 3 Feb 2020 10:00:00 +0000')], 'winter.mbox');
	expect(kovrel(server.data, 'import', winter, '--mailbox', 'Office', '--folder', 'Winter')).toMatchObject({
		status: 0
	});
	rmSync(folder, { recursive: true });
});
test.afterAll(() => server.remove());

const selected = (page: Page) => page.getByTestId('selected').last();
const decided = (page: Page) => page.getByTestId('decided');
const rowOf = (page: Page, n: number) => page.getByRole('row', { name: `Crew note ${n}, live` });

async function openInbox(page: Page): Promise<void> {
	await page.goto(`${server.url}/m/1/weigh`);
	await page.getByRole('link', { name: 'Inbox', exact: true }).first().click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Inbox');
	await page.locator('html[data-ready]').waitFor();
}

test('a click on the inbox opens the inbox', async ({ page }) => {
	await openInbox(page);
	await expect(page.getByTestId('total')).toContainText(`${MESSAGES} messages, page 1 of 9`);
	await expect(page.locator('tbody tr').first()).toContainText(`Crew note ${MESSAGES - 1}`);
	await expect(selected(page)).toContainText('Select rows');
});

/*
 * Written by hand: the digits that stand on the row of decisions, by the state of the message and the role of the person.
 * The names behind More are held by core/docket/offered.test.ts.
 */
const DIGITS: [state: 'live' | 'archived' | 'binned', digits: string][] = [
	['live', '1 Archive, 2 Delete, 3 Move …, 4 Tag …, 5 Keep, 6 Pause …, 7 Flag, 8 Mark read'],
	['archived', '4 Tag …, 5 Keep, 6 Pause …, 7 Flag, 8 Mark read, 9 Restore'],
	['binned', '4 Tag …, 9 Restore']
];
/* Each state has a message of its own, found by all roles; the owner may tidy the mailbox. */
async function ofEachState(): Promise<void> {
	const folder = temporaryFolder();
	const letters = DIGITS.map(([state]) => letter(`Table ${state}`, 'Mon, 3 Feb 2020 10:00:00 +0000'));
	const office = ['--mailbox', 'Office'];
	for (const words of [
		['import', mboxFile(folder, letters, 'table.mbox'), ...office, '--folder', 'Table'],
		['archive', ...office, '--query', 'subject:"table archived"'],
		['docket', 'new', 'delete', ...office, '--where', 'subject:"table binned"'],
		['docket', 'carry-out', '2']
	])
		expect(kovrel(server.data, ...words), words.join(' ')).toMatchObject({ status: 0 });
	rmSync(folder, { recursive: true });
}

test('offers what the table says, by state and role; a colleague restores and asks', async ({ page, browser }) => {
	await ofEachState();
	const sessions = {
		owner: await server.addPerson('Olga Owner', 'colleague'),
		colleague: await server.addPerson('Cai Colleague', 'colleague')
	};
	for (const words of [
		['person', 'own', 'Office', '--owner', 'Olga Owner', '--tidies'],
		['person', 'grant', 'Cai Colleague', '--mailbox', 'Office', '--find', '--restore']
	])
		expect(kovrel(server.data, ...words), words.join(' ')).toMatchObject({ status: 0 });
	const as = async (session: string) => {
		const context = await browser.newContext();
		await context.addCookies([{ name: 'kovrel-session', value: session, domain: '127.0.0.1', path: '/' }]);
		return context.newPage();
	};
	const roles = [
		{ page, address: '/m/1/archive?q=' },
		{ page: await as(sessions.owner), address: '/own/mail?q=' }
	];
	const visit = async (on: Page, address: string) => {
		await on.goto(server.url + address);
		await on.locator('html[data-ready]').waitFor();
	};
	for (const { page: on, address } of roles)
		for (const [state, digits] of DIGITS) {
			await visit(on, `${address}subject:%22table+${state}%22`);
			await on.getByRole('checkbox', { name: `Select Table ${state}` }).check();
			const buttons = on.getByRole('group', { name: 'Decide' }).getByRole('button', { name: /^\d / });
			expect((await buttons.allTextContents()).map((text) => text.replace(/\s+/g, ' ').trim()).join(', ')).toBe(digits);
		}
	const theirs = await as(sessions.colleague);
	for (const [state] of DIGITS) {
		await visit(theirs, `/find?q=subject:%22table+${state}%22`);
		await theirs.locator('tbody').getByRole('checkbox').check();
		await expect(theirs.getByRole('group', { name: 'Decide' })).toHaveCount(0);
		await expect(theirs.getByRole('button', { name: /^Restore it/ })).toHaveCount(state === 'live' ? 0 : 1);
	}
	for (const on of [roles[1]?.page, theirs]) await on?.context().close();
	// as before for what follows
	expect(kovrel(server.data, 'person', 'own', 'Office')).toMatchObject({ status: 0 });
});

test('archives two messages and tags one of them with five keys; the place is kept', async ({ page }) => {
	await openInbox(page);
	// a tag that was used before comes first
	await page.keyboard.press('ArrowDown');
	await page.keyboard.press('4');
	await page.keyboard.type('Ramp, Berth');
	await page.keyboard.press('Enter');
	await expect(decided(page)).toContainText('“Ramp”');
	await expect(rowOf(page, 419)).toBeFocused();
	await page.keyboard.press('4');
	await page.keyboard.type('Crew');
	await page.keyboard.press('Enter');
	await expect(decided(page)).toContainText('“Crew”');

	await page.reload();
	await page.locator('html[data-ready]').waitFor();
	await page.keyboard.press('ArrowDown');
	await page.keyboard.press('1');
	await expect(decided(page)).toContainText('Archived 1 message');
	await expect(rowOf(page, 418)).toBeFocused();
	await page.keyboard.press('4');
	await expect(page.getByLabel(/^Tag with/)).toHaveValue('Crew');
	await page.keyboard.press('Enter');
	await page.keyboard.press('1');
	await expect(rowOf(page, 417)).toBeFocused();
	await expect(page.getByTestId('total')).toContainText(`${MESSAGES - 2} messages`);
	await decided(page).getByRole('button', { name: 'Take back' }).click();
	await expect(rowOf(page, 418)).toBeVisible();
});

test('sorts by its headings, hides columns, and keeps them hidden', async ({ page }) => {
	await openInbox(page);
	await page.getByRole('link', { name: 'Received', exact: true }).click();
	await expect(page.locator('tbody tr').first()).toContainText('Crew note 0');
	await page.getByRole('link', { name: 'Size', exact: true }).click();
	await expect(page.locator('tbody tr').first()).toContainText('Crew note 412');
	await page.getByRole('link', { name: 'From', exact: true }).click();
	await expect(page.locator('tbody tr').first()).toContainText('Kjell');
	await page.getByText('Columns', { exact: true }).click();
	await page.getByRole('checkbox', { name: 'First words' }).uncheck();
	await expect(page.locator('tbody tr').first()).not.toContainText('The ramp is stiff');
	await page.reload();
	await expect(page.locator('tbody tr').first()).toContainText('Kjell');
	await expect(page.locator('tbody tr').first()).not.toContainText('The ramp is stiff');
});

test('an open message is decided on, and the next one opens', async ({ page }) => {
	await openInbox(page);
	await page.getByRole('button', { name: 'Crew note 410', exact: true }).click();
	const drawer = page.getByRole('dialog');
	await expect(page.getByRole('dialog', { name: 'Crew note 410' })).toBeVisible();
	await page.keyboard.press('ArrowRight');
	await expect(page.getByRole('dialog', { name: 'Crew note 409' })).toBeVisible();
	await page.keyboard.press('ArrowLeft');
	await expect(page.getByRole('dialog', { name: 'Crew note 410' })).toBeVisible();
	await page.keyboard.press('7');
	await expect(page.getByRole('dialog', { name: 'Crew note 410' })).toBeVisible();
	await expect(decided(page)).toContainText('Flagged 1 message');
	await page.keyboard.press('1');
	await expect(page.getByRole('dialog', { name: 'Crew note 409' })).toBeVisible();
	await page.keyboard.press('2');
	await expect(page.getByRole('dialog', { name: 'Crew note 408' })).toBeVisible();
	await page.keyboard.press('Escape');
	await expect(drawer).toBeHidden();
	await expect(rowOf(page, 410)).toHaveCount(0);
	await expect(rowOf(page, 409)).toHaveCount(0);
});

test('selects ranges and all; what is many goes to the docket', async ({ page }) => {
	await openInbox(page);
	await page.keyboard.press('ArrowDown');
	await page.keyboard.press('Space');
	for (let n = 0; n < 4; n++) await page.keyboard.press('Shift+ArrowDown');
	await expect(selected(page)).toContainText('5 messages');
	await page.keyboard.press('5');
	await expect(decided(page)).toContainText('5 messages');
	await expect(selected(page)).toContainText('1 message');
	await page.keyboard.press('Control+a');
	await expect(selected(page)).toContainText('50 messages');
	await page.keyboard.press('Escape');
	await page.getByRole('button', { name: /^Select all / }).click();
	await page.getByRole('button', { name: '1 Archive' }).click();
	await expect(decided(page)).toContainText('are on the docket: nothing happens until it is carried out');
	await expect(page.getByRole('complementary', { name: 'Docket' })).toContainText(/Archive \d+ messages/);
	await page
		.getByRole('complementary', { name: 'Docket' })
		.getByRole('button', { name: 'Discard this docket' })
		.click();
	await expect(page.getByTestId('docket-state')).not.toHaveText('drafted');
	await expect(page, 'the page is still that of the folder').toHaveURL(/\/m\/1\/folders\/\d+/);
});

test('drags messages onto a folder and a tag; says first what letting go does', async ({ page }) => {
	await openInbox(page);
	const rail = page.getByRole('complementary', { name: 'Where to drop' });
	const drag = async (n: number, to: string, says: string) => {
		await rowOf(page, n).hover();
		await page.mouse.down();
		await page.mouse.move(600, 500);
		await rail.getByRole('listitem').filter({ hasText: to }).hover();
		await rail.getByRole('listitem').filter({ hasText: to }).hover();
		await expect(rail.getByRole('status')).toHaveText(says);
		await page.mouse.up();
	};
	for (const n of [400, 399]) await page.getByRole('checkbox', { name: `Select Crew note ${n}`, exact: true }).check();
	await drag(400, 'Ramp', 'Let go to put the tag “Ramp” on 2 messages. They stay in place.');
	await expect(decided(page)).toContainText('Put the tag “Ramp” on 2 messages');
	await drag(398, 'Winter', 'Let go to move 1 message to Winter.');
	await expect(decided(page)).toContainText('Moved 1 message to Winter');
	await expect(rowOf(page, 398)).toHaveCount(0);
	await decided(page).getByRole('button', { name: 'Take back' }).click();
	await expect(rowOf(page, 398)).toHaveCount(1);
});

test('restores into a folder that is named', async ({ page }) => {
	await page.goto(`${server.url}/m/1/archive?q=subject%3Acrew&where=archived`);
	await page.locator('html[data-ready]').waitFor();
	await page
		.getByRole('checkbox', { name: /^Select Crew note/ })
		.first()
		.check();
	await page.getByRole('button', { name: 'More', exact: true }).click();
	await page.getByRole('button', { name: 'Restore to …' }).click();
	await page.getByLabel('Restore to').fill('winter');
	await page.getByRole('button', { name: 'Restore 1 message to it' }).click();
	await expect(decided(page)).toContainText('Restored 1 message to Winter');
});

test('found mail is decided on in whatever state it is', async ({ page }) => {
	await page.goto(`${server.url}/m/1/archive?q=subject%3Acrew&sort=oldest`);
	await page.locator('html[data-ready]').waitFor();
	await page.getByRole('checkbox', { name: 'Select Crew note 0', exact: true }).check();
	await page.getByRole('checkbox', { name: 'Select Crew note 1', exact: true }).check();
	await page.getByRole('button', { name: '1 Archive' }).click();
	await expect(decided(page)).toContainText('Archived 2 messages');
	await page.getByRole('checkbox', { name: 'Select Crew note 1', exact: true }).check();
	await page.getByRole('checkbox', { name: 'Select Crew note 2', exact: true }).check();
	await page.getByRole('button', { name: '9 Restore' }).click();
	await expect(decided(page)).toContainText('Restored 1 message to where it came from');
	await expect(decided(page)).toContainText('1 message stays: already in a folder');
	await expect(page.getByRole('row', { name: /^Crew note 1, live/ })).toBeVisible();
	await page
		.getByRole('row', { name: /^Crew note 1, live/ })
		.getByRole('link', { name: 'Inbox' })
		.click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Inbox');
});
