import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/* The first day of a new office, from an empty Kovrel to a docket that was taken back. */

let server: TestServer;
const files = temporaryFolder();
const environment = { KOVREL_NOW: '2026-11-25T12:00:00Z' };
test.beforeAll(async () => {
	server = await TestServer.start(undefined, environment);
});
test.afterAll(async () => {
	await server.remove();
	rmSync(files, { recursive: true });
});

const next = (page: Page) => page.locator('li[aria-current=step]');

test('leads from the first page to a docket that was taken back', async ({ page }) => {
	await page.goto(server.url);
	await page.locator('html[data-ready]').waitFor();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('First steps');
	await expect(next(page)).toContainText('Import mail');
	await next(page).getByRole('link', { name: 'Import mail' }).click();
	const old = Array.from({ length: 500 }, (_, n) =>
		letter(`Ramp limit ${n}`, `${1 + (n % 28)} Mar 2020 10:00:00 +0000`)
	);
	await page.getByLabel('select files').setInputFiles(mboxFile(files, old));
	await page.getByLabel('Into the mailbox').fill('Harbour office');
	await page.getByRole('button', { name: /^Import \d/ }).click();
	await expect(page.getByTestId('brought-in')).toContainText('500 added');
	await page.goto(`${server.url}/begin`);
	await expect(next(page)).toContainText('Weigh the mailbox');
	await next(page).getByRole('link', { name: 'Weigh Harbour office' }).click();
	await page.getByRole('button', { name: /^Draft a docket: Archive mail/ }).click();
	await page.getByRole('button', { name: 'Carry out: archive 500 messages' }).click();
	await expect(page.getByTestId('docket-state')).toHaveText('carried out');
	await page.goto(`${server.url}/m/1/weigh`);
	await expect(page.getByText('Your docket can be taken back: try it.')).toBeVisible();
	await page.getByRole('link', { name: 'First steps' }).click();
	await expect(next(page)).toContainText('Take it back');
	await next(page).getByRole('link', { name: 'Open the docket' }).click();
	await page.getByRole('button', { name: 'Take back 500 messages' }).click();
	await expect(page.getByTestId('docket-state')).toHaveText('taken back');
	await page.goto(`${server.url}/begin`);
	await expect(next(page)).toContainText('Make a backup');
	// whoever comes back starts with the mailbox
	await page.goto(server.url);
	await expect(page).toHaveURL(/\/m\/1\/weigh$/);
	await expect(page.getByText('New here?')).toHaveCount(0);
	// a word of Kovrel's own is explained where it stands
	await page.locator('html[data-ready]').waitFor();
	await page.getByRole('button', { name: 'What “docket” means' }).focus();
	await expect(page.getByRole('tooltip')).toContainText('a list of decisions that is prepared first');
	await page.keyboard.press('Escape');
	await expect(page.getByRole('tooltip')).toBeHidden();
	await page.getByRole('button', { name: 'What “docket” means' }).hover();
	await expect(page.getByRole('tooltip')).toBeVisible();
});
