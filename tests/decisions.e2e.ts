import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { kovrel, letter, mboxFile, slip, temporaryFolder, test, TestServer } from './server.ts';

/* What is destroyed, and where a decision goes: with hundreds of messages, as an administrator has them. */

const OLD = 'Mon, 3 Feb 2020 10:00:00 +0000';
const environment = { KOVREL_NOW: '2026-11-25T12:00:00Z' };
const OFFICE = 'Harbour office';
const FOLDERS = { Newsletters: 504, Notices: 90, Accounts: 300 };

let server: TestServer;
const files = temporaryFolder();

test.beforeAll(async () => {
	server = await TestServer.start(undefined, environment);
	for (const [folder, messages] of Object.entries(FOLDERS)) {
		const letters = Array.from({ length: messages }, (_, n) => letter(`${folder} ${n}`, OLD));
		terminal('import', mboxFile(files, letters, `${folder}.mbox`), '--mailbox', OFFICE, '--folder', folder);
	}
	for (const folder of ['Newsletters', 'Notices'])
		terminal('retain', folder, '--mailbox', OFFICE, '--period', 'P1Y', '--disposition', 'destroy');
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
const state = (page: Page) => page.getByTestId('docket-state');
const carryOutButton = (page: Page) => slip(page).getByRole('button', { name: /^Carry out/ });

/* Has all of a row of what is due destroyed: a docket of its own, opened. */
async function destroyDue(page: Page, folder: string, messages: number) {
	await visit(page, '/retain');
	await page
		.getByRole('row', { name: new RegExp(folder) })
		.getByRole('link', { name: `${messages} messages` })
		.click();
	await page.getByRole('button', { name: `Select all ${messages}` }).click();
	await page.getByRole('button', { name: 'More', exact: true }).click();
	await page.getByRole('button', { name: 'Destroy', exact: true }).click();
	await page
		.getByTestId('decided')
		.getByRole('link', { name: /^Docket/ })
		.click();
	await expect(slip(page)).toContainText(`Destroy ${messages} messages`);
}

test('destroys what is due once the mailbox is named, and shows the certificate', async ({ page }) => {
	await destroyDue(page, 'Newsletters', 504);
	await expect(carryOutButton(page)).toHaveText('Carry out: destroy 504 messages');
	await expect(carryOutButton(page)).toBeDisabled();
	const name = slip(page).getByLabel(`To destroy 504 messages for good, type the mailbox's name: ${OFFICE}`);
	await name.fill('destroy');
	await expect(carryOutButton(page)).toBeDisabled();
	await name.fill('harbour OFFICE');
	await carryOutButton(page).click();
	await expect(state(page)).toHaveText('carried out');
	await expect(page.getByRole('heading', { name: 'Certificate of destruction' })).toBeVisible();
	const certificate = slip(page).getByRole('region', { name: 'Certificate of destruction' });
	await expect(certificate).toContainText('504 messages');
	await expect(slip(page).getByRole('button', { name: /^Take back/ })).toHaveCount(0);
	await certificate.getByRole('link', { name: 'Open the certificate' }).click();
	await expect(page.getByTestId('genuine')).toContainText('The ledger has the same SHA-256');
});

test('destroys few messages only once the word is typed, also where the form is sent by hand', async ({ page }) => {
	await destroyDue(page, 'Notices', 90);
	await expect(carryOutButton(page)).toBeDisabled();
	const address = page.url();
	const refused = await page.request.post(`${address}?/carryOut`, {
		headers: { origin: server.url, 'x-sveltekit-action': 'true', accept: 'application/json' },
		form: {}
	});
	expect(await refused.text()).toContain('Type “destroy” to confirm it');
	await slip(page).getByLabel('To destroy 90 messages for good, type the word: destroy').fill('Destroy');
	await carryOutButton(page).click();
	await expect(state(page)).toHaveText('carried out');
	await expect(slip(page).getByRole('region', { name: 'Certificate of destruction' })).toContainText('90 messages');
});

test('puts a decision on the docket that is shown, keeps its result until it is dismissed, and lists others apart', async ({
	page
}) => {
	// prepared by another door under the same name, and by somebody else
	const words = ['--mailbox', OFFICE, '--by', 'folder', '--key', 'Accounts', '--name', 'From the terminal'];
	terminal('docket', 'new', 'flag', ...words);
	await visit(page, '/m/1/clear');
	await slip(page)
		.getByRole('button', { name: /^Dismiss/ })
		.click();
	await expect(slip(page)).toContainText('Your decisions are collected here');
	const others = slip(page).getByRole('region', { name: 'Other dockets' });
	await expect(others).toContainText('From the terminal');
	await expect(others.getByRole('button')).toHaveCount(0);

	await visit(page, '/m/1/clear/lots?by=year');
	await page.getByRole('row', { name: /2020/ }).click();
	await page.getByRole('button', { name: /^1 Archive/ }).click();
	await expect(slip(page)).toContainText('Archive 300 messages');
	const shown = await slip(page).getByRole('heading', { level: 2 }).textContent();
	await page.getByRole('row', { name: /2020/ }).click();
	await page.getByRole('button', { name: /^5 Keep/ }).click();
	await expect(slip(page).getByTestId('docket-sentence').getByRole('listitem')).toHaveCount(2);
	expect(await slip(page).getByRole('heading', { level: 2 }).textContent()).toBe(shown);
	// the same messages under both lines count once
	await carryOutButton(page).click({ trial: true });
	await expect(carryOutButton(page)).toHaveText('Carry out 2 decisions on 300 messages');
	await carryOutButton(page).click();
	await expect(state(page)).toHaveText('carried out');
	await visit(page, '/m/1/weigh');
	await expect(slip(page).getByRole('heading', { level: 2 })).toHaveText(shown ?? '');
	await expect(slip(page).getByRole('button', { name: 'Take back 300 messages' })).toBeVisible();
	await slip(page)
		.getByRole('button', { name: /^Dismiss/ })
		.click();
	await expect(slip(page)).toContainText('Your decisions are collected here');
});

test('restores what was selected once: many by the docket, a few at once', async ({ page }) => {
	await visit(page, '/m/1/archive?where=archived&q=subject%3AAccounts');
	await page.getByRole('button', { name: 'Select all 300' }).click();
	await page.getByRole('button', { name: '9 Restore' }).click();
	await expect(page.getByTestId('decided')).toContainText('300 messages are on the docket');
	await expect(page.getByTestId('selected')).toContainText('Select rows');
	await expect(slip(page)).toContainText('Restore 300 messages');
	await carryOutButton(page).click();
	await expect(slip(page)).toContainText('Restored 300 messages');
	await slip(page).getByRole('button', { name: 'Take back 300 messages' }).click();
	await expect(state(page)).toHaveText('taken back');

	await page.getByRole('checkbox', { name: 'Select Accounts 7', exact: true }).check();
	await page.getByRole('button', { name: '9 Restore' }).click();
	await expect(page.getByTestId('decided')).toContainText('Restored 1 message to where it came from');
	await expect(page.getByTestId('selected')).toContainText('Select rows');
	await page.getByTestId('decided').getByRole('button', { name: 'Take back' }).click();
	await expect(page.getByTestId('total')).toContainText('300 messages');
});
