import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { kovrel, letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/* Several mailboxes worked on as one, with some hundred messages in each. */

let server: TestServer;
const files = temporaryFolder();
const MAILBOXES = ['Harbour office', 'Crew office', 'Workshop'];
const environment = { KOVREL_NOW: '2026-11-25T12:00:00Z' };
const EACH = 250;

function mailOf(which: number): string[] {
	const name = MAILBOXES[which];
	return Array.from({ length: EACH }, (_, n) => {
		const date = `${1 + (n % 28)} ${['Jan', 'May', 'Sep'][n % 3]} ${2020 + (n % 7)} 10:00:00 +0000`;
		const made = letter(`${name} ${n}`, date, 'Words.', `Sender <s@organisation${n % 5}.example>`);
		return n % 10 === 0
			? made.replace('\n\n', `\nList-Id: <tides.example>\nList-Unsubscribe: <https://tides.example/${which}>\n\n`)
			: made;
	});
}

test.beforeAll(async () => {
	server = await TestServer.start(undefined, environment);
	for (const [which, mailbox] of MAILBOXES.entries()) {
		const file = mboxFile(files, mailOf(which), `${which}.mbox`, 'O');
		const imported = kovrel(
			{ data: server.data, environment },
			'import',
			file,
			'--mailbox',
			mailbox,
			'--folder',
			'Inbox'
		);
		expect(imported.status, imported.stderr).toBe(0);
	}
});
test.afterAll(async () => {
	await server.remove();
	rmSync(files, { recursive: true });
});
test.describe.configure({ mode: 'serial' });

async function visit(page: Page, address: string) {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}
const stages = (page: Page) => page.getByRole('navigation', { name: 'Stages of the work' });
const dockets = (page: Page) => page.getByRole('complementary', { name: 'Dockets' });

test('the selection stays from stage to stage', async ({ page }) => {
	await visit(page, '/m/1/weigh');
	await page.getByRole('combobox', { name: /^Mailbox/ }).selectOption('Several mailboxes as one');
	await expect(page.getByRole('heading', { level: 1 })).toContainText('All mailboxes weigh');
	// the second is ticked before the first is answered
	const both = page.getByRole('checkbox', { name: /^Weigh (Harbour office|Workshop)$/ });
	await expect(both).toHaveCount(2);
	await both.evaluateAll((boxes) => boxes.forEach((box) => (box as HTMLInputElement).click()));
	await expect(page.getByRole('heading', { level: 1 })).toContainText('2 mailboxes together weigh');
	await expect(page.getByTestId('weight')).toContainText('in 2 mailboxes');
	await page.getByLabel('Weigh by').selectOption('year received');
	await expect(page.getByRole('row', { name: /^2020/ })).toContainText('72');
	await stages(page)
		.getByRole('link', { name: /^Lists/ })
		.click();
	await expect(page.getByTestId('mailboxes')).toContainText('Harbour office, Workshop');
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Who wrote the newest 100 messages of each mailbox');
	await page.getByRole('link', { name: 'All lists' }).click();
	await expect(page.getByTestId('lists-total')).toContainText('1 list, 50 messages');
	await stages(page).getByRole('link', { name: /^Desk/ }).click();
	await expect(page.getByTestId('left')).toContainText('500 left');
	await stages(page)
		.getByRole('link', { name: /^Archive/ })
		.click();
	await page.getByRole('combobox', { name: 'What are you looking for?' }).fill('words');
	await page.keyboard.press('Enter');
	await expect(page.getByText('500 messages found')).toBeVisible();
	await stages(page)
		.getByRole('link', { name: /^Retain/ })
		.click();
	await expect(page.getByTestId('mailboxes')).toContainText('Harbour office, Workshop');
	// back to one of them, at the same stage
	await stages(page)
		.getByRole('link', { name: /^Clear/ })
		.click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Archive old mail of 2 mailboxes');
	await page.getByRole('combobox', { name: /^Mailbox/ }).selectOption('Crew office');
	await expect(page).toHaveURL(/\/m\/2\/clear$/);
	// a folder has no page of another mailbox: it shows its folders
	await visit(page, '/m/2/clear/folders');
	await page.getByRole('main').getByRole('link', { name: 'Inbox' }).first().click();
	await expect(page).toHaveURL(/\/m\/2\/folders\/\d+/);
	await page.getByRole('combobox', { name: /^Mailbox/ }).selectOption('Workshop');
	await expect(page).toHaveURL(/\/m\/3\/clear\/folders$/);
});

test('one cutoff date drafts a docket for each mailbox, and all are carried out together', async ({ page }) => {
	await visit(page, '/clear?in=1,3');
	await page.getByLabel('Received before').fill('1 Jan 2022');
	await page.getByRole('button', { name: 'Count it, and draft dockets' }).click();
	await expect(page.getByRole('status').filter({ hasText: '2 dockets were drafted' })).toBeVisible();
	await expect(dockets(page).getByRole('listitem')).toHaveCount(2);
	await expect(dockets(page).getByTestId('sum')).toContainText('144 messages');
	await expect(dockets(page)).not.toContainText('Crew office');
	await dockets(page).getByRole('button', { name: 'Carry out 2 dockets' }).click();
	await expect(stages(page)).toContainText('144 archived');
	await expect(dockets(page)).toContainText('Your drafts in these mailboxes show here');
	await page.getByTestId('mailboxes').click();
	await page.getByRole('button', { name: 'Select all mailboxes' }).click();
	await expect(page.getByRole('row', { name: /^Crew office/ })).toContainText('250');
	await expect(page.getByRole('row', { name: /^Harbour office/ })).toContainText('178');
});

test('a lot and a list over several mailboxes go on the docket of each', async ({ page }) => {
	await visit(page, '/lots?in=2,3');
	await page.getByRole('row', { name: /organisation1\.example/ }).click();
	await page
		.getByRole('button', { name: /Delete/ })
		.first()
		.click();
	await expect(dockets(page).getByRole('listitem')).toHaveCount(2);
	await expect(dockets(page)).toContainText('Crew office');
	await expect(dockets(page)).toContainText('Workshop');
	await visit(page, '/lists?in=1,2&all=1');
	await page.locator('tr[data-list]').first().focus();
	await page.keyboard.press('Space');
	await page.keyboard.press('2');
	await expect(dockets(page).locator('li', { hasText: 'Harbour office' })).toContainText('list');
	await expect(dockets(page).locator('li', { hasText: 'Crew office' })).toContainText('list');
});

test('the desk decides on each message in its own mailbox, and takes it back', async ({ page }) => {
	await visit(page, '/desk?in=1,2');
	const desk = page.getByRole('region', { name: 'Message on the desk' });
	const first = await desk.getByTestId('of-mailbox').innerText();
	const subject = await desk.getByRole('heading').innerText();
	expect(subject.startsWith(first.replace('in ', ''))).toBe(true);
	await page.keyboard.press('1');
	await expect(desk.getByRole('heading')).not.toHaveText(subject);
	await expect(desk.getByRole('button', { name: /Take back the last/ })).toContainText(subject);
	await page.keyboard.press('Backspace');
	await expect(desk.getByRole('heading')).toHaveText(subject);
	await page.keyboard.press('+');
	await page.getByRole('combobox', { name: 'Pile' }).fill('To answer');
	await page.getByRole('button', { name: /^Put 1 message there/ }).click();
	await expect(desk.getByRole('heading')).not.toHaveText(subject);
	await expect(page.getByRole('combobox', { name: 'On the desk' })).toContainText(
		`${first.replace('in ', '')}: To answer (1)`
	);
});
