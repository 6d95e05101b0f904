// Takes the pictures of docs/screenshots from a running demo: node tools/screenshots.js [http://127.0.0.1:4810] [NAME…]
// For 'proposals' the mailbox has been looked through, for 'archive' the docket of 'clear' has been carried out.
import path from 'node:path';
import { chromium } from '@playwright/test';
import { chromiumOptions } from './chromium.js';
import { root } from './setup.js';

/** @typedef {import('@playwright/test').Page} Page */

/** @type {Record<string, { address: string, as?: string, dark?: boolean, act?: (page: Page) => Promise<unknown> }>} */
const PICTURES = {
	weigh: { address: '/m/1/weigh' },
	find: {
		address: '/find?q=ramp+since:2021&sort=newest',
		as: 'tove',
		act: (page) => page.locator('tbody input').nth(1).check()
	},
	own: {
		address: '/own',
		as: 'tove',
		act: async (page) => {
			await page
				.getByRole('row', { name: /Mar 2027/ })
				.getByRole('button')
				.first()
				.click();
			await page.getByRole('checkbox').nth(1).check();
		}
	},
	people: { address: '/people' },
	desk: {
		address: '/m/1/desk',
		act: async (page) => {
			await page.keyboard.press('1');
			await page.getByTestId('decided').waitFor();
		}
	},
	rules: { address: '/m/1/desk/rules' },
	clear: {
		address: '/m/1/clear?before=2024-11-01',
		act: async (page) => {
			await page.getByRole('button', { name: 'Count it, and draft a docket' }).click();
			await page.getByText('What stays, and why').waitFor();
		}
	},
	archive: {
		address: '/m/1/archive?q=inspection+terne&where=everywhere',
		act: async (page) => {
			await page.locator('tbody input').nth(1).check();
			await page.locator('tbody input').nth(2).check();
		}
	},
	message: {
		address: '/m/1/archive?q=harbour+times&sort=newest',
		act: async (page) => {
			await page.locator('tbody button').first().click();
			await page.getByRole('dialog').getByText('Retention', { exact: true }).waitFor();
		}
	},
	lots: {
		address: '/m/1/clear/lots?by=list&unread=1',
		act: async (page) => {
			await page.locator('[id=lot-1]').click();
			await page.locator('[id=lot-2]').click();
		}
	},
	lists: {
		address: '/m/1/lists?all=1',
		act: async (page) => {
			for (const name of ['Tide and weather bulletin', 'Northfuel Club', 'Deck Engine deals'])
				await page.getByRole('checkbox', { name: `Select ${name}` }).check();
		}
	},
	folder: {
		address: '/m/1/folders/1',
		act: (page) => page.locator('tbody tr').nth(1).focus()
	},
	holds: { address: '/retain/holds' },
	due: { address: '/retain' },
	retained: {
		address: '/retain/folders',
		act: async (page) => {
			await page.getByRole('checkbox', { name: 'Select Berth permits' }).check();
			await page.getByRole('combobox', { name: 'set', exact: true }).selectOption('series');
			await page.getByRole('combobox', { name: 'Series' }).selectOption('CLM-01');
			await page.getByText('become due at once').first().waitFor();
		}
	},
	schedule: { address: '/retain/schedule' },
	proposals: { address: '/m/1/clear/proposals?kind=quoted-in-full' },
	bin: { address: '/m/1/clear/bin' },
	'ledger-dark': { address: '/ledger', dark: true }
};

const [, , address = 'http://127.0.0.1:4810', ...names] = process.argv;
const browser = await chromium.launch(chromiumOptions);
/**
 * Signs in with an account that the demo shows.
 * @param {Page} page
 * @param {string} person
 */
async function signIn(page, person) {
	await page.goto(`${address}/sign-in`);
	await page.locator('html[data-ready]').waitFor();
	const account = page.getByRole('listitem').filter({ hasText: `${person}@` });
	await account.getByRole('button').click();
	await page.getByLabel('Password').fill((await account.locator('code').textContent()) ?? '');
	await page.getByRole('button', { name: 'Sign in' }).click();
	await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
}

for (const [name, { address: place, as = 'ylva', dark, act }] of Object.entries(PICTURES)) {
	if (names.length > 0 && !names.includes(name)) continue;
	const page = await browser.newPage({
		viewport: { width: 1280, height: 800 },
		locale: 'en-GB',
		colorScheme: dark ? 'dark' : 'light'
	});
	await signIn(page, as);
	await page.goto(address + place);
	await page.locator('html[data-ready]').waitFor();
	await act?.(page);
	await page.waitForTimeout(400);
	await page.screenshot({ path: path.join(root, 'docs', 'screenshots', `${name}.png`) });
	await page.close();
}
await browser.close();
