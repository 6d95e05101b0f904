import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { kovrel, letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/* The owner of a mailbox tidies it, and reviews what would go, with hundreds of messages as people have them. */

const environment = { KOVREL_NOW: '2026-11-25T12:00:00Z' };
const MAILBOX = 'Jonas Berg';
const INBOX = 320;
const OLD = 60;

let server: TestServer;
let session: string;
const files = temporaryFolder();

test.beforeAll(async () => {
	server = await TestServer.start(undefined, environment);
	const mail = (folder: string, count: number, date: string) => {
		const letters = Array.from({ length: count }, (_, n) => letter(`${folder} ${n}`, date));
		terminal('import', mboxFile(files, letters, `${folder}.mbox`), '--mailbox', MAILBOX, '--folder', folder);
	};
	mail('Inbox', INBOX, 'Tue, 3 Feb 2026 10:00:00 +0000');
	mail('Drafts of rosters', OLD, 'Mon, 3 Feb 2020 10:00:00 +0000');
	terminal('retain', 'Drafts of rosters', '--mailbox', MAILBOX, '--period', 'P1Y', '--disposition', 'destroy');
	session = await server.addPerson('Jonas Berg', 'colleague');
	terminal('person', 'own', MAILBOX, '--owner', 'Jonas Berg');
});
test.afterAll(async () => {
	await server.remove();
	rmSync(files, { recursive: true });
});
test.describe.configure({ mode: 'serial' });

function terminal(...words: string[]): string {
	const { status, stdout, stderr } = kovrel({ data: server.data, environment }, ...words);
	expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
	return stdout;
}
async function visit(page: Page, address: string) {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}
async function asOwner(page: Page): Promise<Page> {
	const context = await page.context().browser()?.newContext();
	if (!context) throw new Error('There is no browser');
	await context.addCookies([{ name: 'kovrel-session', value: session, domain: '127.0.0.1', path: '/' }]);
	return context.newPage();
}
const total = (page: Page) => page.getByTestId('total');

test('an owner tidies only once that is granted, and then from the keyboard', async ({ page }) => {
	const own = await asOwner(page);
	await visit(own, '/own');
	await expect(own.getByRole('heading', { level: 1 })).toContainText(`Mail due in ${MAILBOX}`);
	await expect(own.getByRole('link', { name: 'Weight' })).toHaveCount(0);
	expect((await own.goto(`${server.url}/own/mail`))?.status()).toBe(403);

	await visit(page, '/people');
	const owners = page.getByRole('region', { name: 'Owners' });
	await owners.getByRole('combobox', { name: 'Mailbox', exact: true }).selectOption(MAILBOX);
	await owners.getByRole('combobox', { name: 'Owner', exact: true }).selectOption('Jonas Berg');
	await owners.getByRole('checkbox', { name: /may tidy it/ }).check();
	await owners.getByRole('button', { name: 'Set owner' }).click();
	await expect(owners.getByRole('listitem')).toContainText('Jonas Berg, may tidy it');

	await visit(own, '/own');
	await own.getByRole('link', { name: 'Weight' }).click();
	await expect(own.getByRole('heading', { level: 1 })).toContainText('Weight of');
	await own.getByRole('region', { name: 'Folders' }).getByRole('link', { name: 'Inbox' }).click();
	await expect(total(own)).toContainText(`${INBOX} messages`);
	const rows = own.locator('tbody tr[aria-label]');
	await rows.first().focus();
	await own.keyboard.press('Space');
	await own.keyboard.press('1');
	await expect(own.getByTestId('decided')).toContainText('Archived 1 message');
	await own.getByTestId('decided').getByRole('button', { name: 'Take back' }).click();
	await expect(own.getByTestId('decided')).toHaveCount(0);
	// nothing that destroys, no hold, no list is offered to an owner
	await own.getByRole('button', { name: 'More', exact: true }).click();
	for (const name of ['Hold …', 'Unsubscribe', 'Destroy', 'Put under a series …'])
		await expect(own.getByRole('button', { name, exact: true })).toHaveCount(0);

	// much is looked at first, then carried out, and taken back
	await own.getByRole('button', { name: `Select all ${INBOX}` }).click();
	await own.keyboard.press('2');
	const docket = own.getByRole('region', { name: /^Your docket/ });
	await expect(docket).toContainText(`Delete ${INBOX} messages`);
	await docket.getByRole('button', { name: 'Carry it out' }).click();
	await expect(docket).toHaveCount(0);
	await own.getByText('Your last dockets').click();
	await own
		.getByRole('listitem')
		.filter({ hasText: `Deleted ${INBOX} messages` })
		.getByRole('button', { name: 'Take back' })
		.click();
	await visit(own, '/own/mail?q=state:binned');
	await expect(total(own)).toContainText('0 messages');
	await own.context().close();
});

test('is asked to review what would go; the administrator sees what became of it', async ({ page }) => {
	await visit(page, '/retain/reviews');
	await page.getByRole('checkbox', { name: `${MAILBOX} (Jonas Berg)` }).check();
	await page.getByLabel('By', { exact: true }).fill('2026-12-15');
	await page.getByLabel('Why, for the owner').fill('The new schedule begins');
	await page.getByRole('button', { name: 'Ask for the review' }).click();
	await expect(page.getByText(`Jonas Berg was asked to review ${OLD} messages of ${MAILBOX}.`)).toBeVisible();
	const row = page.getByRole('row', { name: new RegExp(MAILBOX) });
	await expect(row).toContainText('unanswered');

	const own = await asOwner(page);
	await visit(own, '/own');
	const review = own.getByRole('region', { name: 'Review' });
	await expect(review).toContainText(`asks you to review ${OLD} messages by 15 Dec 2026`);
	await review.getByRole('link', { name: 'Review it' }).click();
	await expect(total(own)).toContainText(`${OLD} messages`);
	await own.getByRole('button', { name: `Select all ${OLD}` }).click();
	await own.getByRole('checkbox', { name: 'Select Drafts of rosters 47', exact: true }).first().click();
	await own.keyboard.press('5');
	await expect(own.getByTestId('decided')).toContainText(/Kept \d+ messages/);
	await visit(own, '/own');
	await review.getByRole('button', { name: 'I have reviewed it' }).click();
	await expect(review).toContainText('You answered on 25 Nov 2026 that you have reviewed it.');
	await own.context().close();

	await visit(page, '/retain/reviews');
	await expect(row).toContainText('reviewed on 25 Nov 2026');
	await row.getByRole('link', { name: String(OLD) }).click();
	await expect(total(page)).toContainText(`${OLD} messages`);
	const { reviews } = JSON.parse(terminal('review', 'list', '--json')) as {
		reviews: { kept: number; untouched: number }[];
	};
	expect(reviews).toMatchObject([{ kept: OLD - 1, untouched: 1 }]);
});
