import { rmSync } from 'node:fs';
import path from 'node:path';
import { type Browser, expect, type Page } from '@playwright/test';
import axe, { type RunOptions } from 'axe-core';
import { keepEvents, lostWhenAJobEnds } from './entered.ts';
import { demoMail, kovrel, signedIn, test, TestServer } from './server.ts';

let server: TestServer;

test.beforeAll(async () => {
	// a mailbox of the demo, and something of everything
	test.setTimeout(360_000);
	const mail = demoMail();
	server = await TestServer.start();
	for (const mailbox of ['Harbour office', 'Tove Marstrand']) {
		expect(
			kovrel(server.data, 'import', path.join(mail, mailbox), '--mailbox', mailbox, '--files-later')
		).toMatchObject({ status: 0 });
		expect(kovrel(server.data, 'quota', '12 MB', '--mailbox', mailbox)).toMatchObject({ status: 0 });
	}
	expect(kovrel(server.data, 'archive', '--mailbox', 'Harbour office', '--before', '2024-01-01')).toMatchObject({
		status: 0
	});
	for (const words of [
		['propose', '--mailbox', 'Harbour office'],
		['senders', 'block', '.top', 'shop.example'],
		[
			'hold',
			'add',
			'Slipway claim',
			'--because',
			'the claim runs',
			'--from',
			'Counsel',
			'--correspondent',
			'slipworks.example'
		],
		['digest', '--mailbox', 'Harbour office', '--add', 'weekly.harbourtimes.example'],
		['tags', 'set', 'Vessels/MV Terne', '--make'],
		['docket', 'new', 'delete', '--mailbox', 'Harbour office', '--by', 'year', '--key', '2025'],
		['schedule', 'import', '--starter'],
		['retain', 'Passenger claims', '--mailbox', 'Harbour office', '--series', 'CLM-01', '--class', 'record'],
		['retain', 'Newsletters', '--mailbox', 'Harbour office', '--period', 'P2Y'],
		['rules', 'add', '--mailbox', 'Harbour office', '--from', 'times', '--newest', '3', '--then', 'archive'],
		['docket', 'add', '3', 'tag', '--tag', 'Vessels/MV Terne', '--where', 'terne'],
		['bin', 'empty', '--mailbox', 'Harbour office', '--confirm', 'Harbour office']
	])
		expect(kovrel(server.data, ...words), words.join(' ')).toMatchObject({ status: 0 });
	for (const role of ['colleague', 'auditor'] as const) sessions[role] = await server.addPerson(`A ${role}`, role);
	expect(kovrel(server.data, 'person', 'own', 'Tove Marstrand', '--owner', 'A colleague', '--tidies').status).toBe(0);
	rmSync(mail, { recursive: true });
});
test.afterAll(() => server.remove());

const sessions: Record<string, string> = {};

/* A page for each role: a new one for each address would load all of Kovrel's scripts, and axe, again. */
const pages: Record<string, Page> = {};
async function pageAs(browser: Browser, role: string): Promise<Page> {
	const context = pages[role]?.context() ?? (await browser.newContext());
	if (!pages[role]) await context.addInitScript(keepEvents);
	if (!pages[role] && role !== 'nobody') await signedIn(context, sessions[role] ?? server.session);
	return (pages[role] ??= await context.newPage());
}
const PAGES: { name: string; address: string; as?: string }[] = [
	{ name: 'weigh', address: '/m/1/weigh' },
	{ name: 'weigh by month', address: '/m/1/weigh?by=month' },
	{ name: 'all mailboxes', address: '/weigh' },
	{ name: 'lists of all mailboxes', address: '/lists?all=1' },
	{ name: 'clearing all mailboxes', address: '/clear' },
	{ name: 'the desk of all mailboxes', address: '/desk' },
	{ name: 'the archive', address: '/m/1/archive?where=archived' },
	{ name: 'lists', address: '/m/1/lists' },
	{ name: 'all lists', address: '/m/1/lists?all=1' },
	{ name: 'trusted and blocked', address: '/m/1/lists/senders' },
	{ name: 'the digest', address: '/m/1/lists/digest' },
	{ name: 'what leaving brought', address: '/m/1/lists/since' },
	{ name: 'due', address: '/retain' },
	{ name: 'reviews', address: '/retain/reviews' },
	{ name: 'retention of folders', address: '/retain/folders' },
	{ name: 'the schedule', address: '/retain/schedule' },
	{ name: 'the run', address: '/retain/run' },
	{ name: 'holds', address: '/retain/holds' },
	{ name: 'the policy', address: '/retain/policy' },
	{ name: 'certificates', address: '/retain/certificates' },
	{ name: 'a certificate', address: '/retain/certificates/4' },
	{ name: 'clear', address: '/m/1/clear' },
	{ name: 'lots', address: '/m/1/clear/lots' },
	{ name: 'lots by thread, filtered', address: '/m/1/clear/lots?by=thread&unread=1' },
	{ name: 'lots of all mailboxes', address: '/lots?by=kind' },
	{ name: 'proposals', address: '/m/1/clear/proposals?proposal=newsletter-unread' },
	{ name: 'keep-list', address: '/m/1/clear/keep-list' },
	{ name: 'folders', address: '/m/1/clear/folders' },
	{ name: 'folders of the archive', address: '/m/1/clear/folders?tree=archive' },
	{ name: 'a folder', address: '/m/1/folders/1' },
	{ name: 'a folder by threads', address: '/m/1/folders/1?threads=1' },
	{ name: 'the desk', address: '/m/1/desk' },
	{ name: 'piles', address: '/m/1/desk/piles' },
	{ name: 'awaited answers', address: '/m/1/desk/awaited' },
	{ name: 'outgoing mail', address: '/m/1/desk/outgoing' },
	{ name: 'standing decisions', address: '/m/1/desk/rules' },
	{ name: 'a new standing decision', address: '/m/1/desk/rules/new?where=from:times' },
	{ name: 'tags', address: '/m/1/clear/tags' },
	{ name: 'the bin', address: '/m/1/clear/bin' },
	{ name: 'archive', address: '/m/1/archive?q=terne' },
	{ name: 'nothing found', address: '/m/1/archive?q=unheard-of' },
	{ name: 'a wrong query', address: '/m/1/archive?q=since:x' },
	{ name: 'docket', address: '/dockets/1' },
	{ name: 'ledger', address: '/ledger' },
	{ name: 'bringing in, with a report', address: '/mailboxes?report=1' },
	{ name: 'live mailboxes', address: '/mailboxes/live' },
	{ name: 'people', address: '/people' },
	{ name: 'requests', address: '/people/requests' },
	{ name: 'the own account', address: '/account?codes' },
	{ name: 'finding', address: '/find?q=terne' },
	{ name: 'finding, before a word is written', address: '/find', as: 'colleague' },
	{ name: 'nothing found by a colleague', address: '/find?q=unheard-of', as: 'colleague' },
	{ name: 'a wrong query of theirs', address: '/find?q=since:x', as: 'colleague' },
	{ name: 'what can be written', address: '/find/help', as: 'colleague' },
	{ name: 'their requests', address: '/find/requests', as: 'colleague' },
	{ name: 'a mailbox of their own', address: '/own', as: 'colleague' },
	{ name: 'mail of their own', address: '/own/mail', as: 'colleague' },
	{ name: 'the weight of their own', address: '/own/weight', as: 'colleague' },
	{ name: 'the ledger for an auditor', address: '/ledger', as: 'auditor' },
	{ name: 'signing in', address: '/sign-in', as: 'nobody' },
	{ name: 'a link that does not open', address: '/come-in/none', as: 'nobody' },
	{ name: 'a page that is not there', address: '/nowhere' }
];

/* Goes to a page as a link does. */
async function follow(page: Page, address: string): Promise<void> {
	if (page.url() === 'about:blank') await page.goto(server.url + address);
	else {
		await page.evaluate((address) => {
			document.documentElement.dataset.mode = 'light';
			document.adoptedStyleSheets = [];
			const link = Object.assign(document.createElement('a'), { href: address });
			document.body.append(link);
			link.click();
			link.remove();
		}, address);
		await page.waitForURL(server.url + address, { waitUntil: 'commit' });
	}
	await page.locator('html[data-ready]').waitFor();
	// the address is changed before what is shown
	await page.evaluate(() => new Promise((shown) => requestAnimationFrame(() => requestAnimationFrame(shown))));
}

/* The rows of a sheet and the choices of a list are made alike: half a dozen of them tell of all. */
const SHORTENED = 'tbody tr:nth-child(n + 7), option:nth-child(n + 7) { display: none !important; }';
const shorten = (page: Page) => setStyle(page, SHORTENED);

const TAGS = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'];

declare global {
	interface Window {
		axe?: typeof axe;
	}
}

/* What axe objects to, with some of where. What is right is not described, which takes longest on a large sheet; a frame
   shows a stranger's mail. */
async function objections(page: Page, runOnly?: RunOptions['runOnly']): Promise<[string, string[]][]> {
	if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(axe.source);
	const options = { resultTypes: ['violations'], iframes: false, ...(runOnly && { runOnly }) } satisfies RunOptions;
	return page.evaluate(async (options) => {
		const { violations } = await (window.axe as typeof axe).run(document, options);
		return violations.map(({ id, nodes }) => [id, nodes.slice(0, 3).map(({ html }) => html)]);
	}, options);
}

/* A telephone, a small and a larger one; a tablet; a wide screen. */
const TELEPHONE = 390;
const WIDTHS = [320, TELEPHONE, 768, 1920];
const HEIGHT = 800;
/* How many pixels a page is wider than its window. */
const sideways = (page: Page) =>
	page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
/* The menus of a page that reach beyond its window where they are opened. */
const menusBeyond = (page: Page) =>
	page.evaluate(async () => {
		const beyond: string[] = [];
		const { clientWidth } = document.documentElement;
		for (const menu of document.querySelectorAll<HTMLDetailsElement>('details:not([open])')) {
			if (!menu.checkVisibility()) continue;
			menu.open = true;
			// the event of its opening comes with the next frame
			await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)));
			// a table scrolls within itself
			const parts = menu.closest('table') ? [] : [...menu.children];
			const sides = parts.map((part) => part.getBoundingClientRect());
			const isWide = document.documentElement.scrollWidth > clientWidth;
			if (isWide || sides.some(({ left, right }) => left < 0 || right > clientWidth))
				beyond.push(menu.querySelector('summary')?.textContent ?? '');
			menu.open = false;
		}
		return beyond;
	});
/* The least spacing that text has to bear (WCAG 2.2, 1.4.12). */
const SPACED =
	'* { line-height: 1.5 !important; letter-spacing: 0.12em !important; word-spacing: 0.16em !important; } p { margin-bottom: 2em !important; }';
const setStyle = (page: Page, css: string) =>
	page.evaluate((text) => {
		// a sheet that is made here is not what the page's content security policy is about
		const sheet = new CSSStyleSheet();
		sheet.replaceSync(text);
		document.adoptedStyleSheets = text ? [sheet] : [];
	}, css);

/* A name or a path that is one long word, in each cell that holds one. */
const lengthenNames = (page: Page) =>
	page.evaluate(() => {
		for (const cell of document.querySelectorAll('.sheet :is(.name, .truncate)')) {
			const text = document.createTreeWalker(cell, NodeFilter.SHOW_TEXT).nextNode();
			if (text) text.textContent = 'Vesselsandtheirinspections/MVTerne/Liferafts-and-evacuation-systems-2024';
		}
	});

for (const { name, address, as } of PAGES)
	test(`${name}: nothing that WCAG 2.2 AA objects to on either ground, and no sideways scrolling at any width`, async ({
		browser
	}) => {
		const page = await pageAs(browser, as ?? 'administrator');
		await follow(page, address);
		expect(await sideways(page)).toBe(0);
		for (const width of WIDTHS) {
			await page.setViewportSize({ width, height: HEIGHT });
			expect(await sideways(page), `${width} pixels wide`).toBe(0);
			if (width < TELEPHONE) expect(await menusBeyond(page), 'menus').toEqual([]);
			if (width !== TELEPHONE) continue;
			await setStyle(page, SPACED);
			expect(await sideways(page), 'with more room between letters').toBe(0);
			await setStyle(page, '');
		}
		await shorten(page);
		await page.setViewportSize({ width: TELEPHONE, height: HEIGHT });
		expect(await objections(page, ['target-size']), 'targets on a telephone').toEqual([]);
		await page.setViewportSize({ width: 1280, height: HEIGHT });
		await lengthenNames(page);
		expect(await sideways(page), 'with long names').toBe(0);
		expect(await objections(page, TAGS)).toEqual([]);
		// the two grounds differ in their colours alone, which an attribute changes
		await page.evaluate(() => (document.documentElement.dataset.mode = 'dark'));
		expect(await objections(page, ['color-contrast'])).toEqual([]);
		// jobs are followed on the pages of the office alone
		if (!as && address !== '/nowhere') expect(await lostWhenAJobEnds(page), 'after a job ended').toEqual([]);
	});

test('what is entered in a page that was just loaded stays when a job ends in the background', async ({ browser }) => {
	const page = await pageAs(browser, 'administrator');
	for (const address of [
		'/m/1/clear',
		'/m/1/clear/bin',
		'/m/1/lists',
		'/retain/run',
		'/ledger',
		'/people',
		'/account'
	]) {
		await page.goto(server.url + address);
		await page.locator('html[data-ready]').waitFor();
		expect(await lostWhenAJobEnds(page), address).toEqual([]);
	}
});

test.describe("in the reader's own colours", () => {
	test.use({ forcedColors: 'active' });

	for (const [name, address] of [
		['weigh', '/m/1/weigh'],
		['lists', '/m/1/lists?all=1'],
		['the desk', '/m/1/desk'],
		['all mailboxes', '/weigh']
	] as const)
		test(`${name}: bars, the page one is on and what acts stand out without Kovrel's backgrounds`, async ({ page }) => {
			await page.goto(server.url + address);
			await page.locator('html[data-ready]').waitFor();
			const seen = await page.evaluate(() => {
				const style = (element: Element) => getComputedStyle(element);
				const filled = (element: Element) =>
					element instanceof SVGElement ? style(element).fill : style(element).backgroundColor;
				const ground = style(document.body).backgroundColor;
				return {
					bars: document.querySelectorAll('.amount').length,
					unseen: [...document.querySelectorAll('.amount')].filter((bar) => filled(bar) === ground).length,
					acts: [...document.querySelectorAll('.act:not(:disabled)')].filter((act) => filled(act) === ground).length,
					here: [...document.querySelectorAll('.tab[aria-current]')].map((tab) => style(tab).borderBottomWidth),
					elsewhere: style(document.querySelector('.tab:not([aria-current])') ?? document.body).borderBottomWidth
				};
			});
			expect(seen).toMatchObject({ unseen: 0, acts: 0, elsewhere: '1px' });
			expect(seen.bars).toBeGreaterThan(0);
			if (address.startsWith('/m/')) expect(seen.here).toEqual(['4px']);
			await shorten(page);
			expect(await objections(page, ['color-contrast'])).toEqual([]);
		});
});

test.describe('where motion is to be reduced', () => {
	test.use({ reducedMotion: 'reduce', viewport: { width: 390, height: HEIGHT } });

	test('nothing moves: not the sheet from below, a drawer nor a chart', async ({ page }) => {
		const moving = () =>
			page.evaluate(() =>
				[...document.querySelectorAll('*')]
					.filter((element) => {
						const { transitionDuration, animationDuration, scrollBehavior } = getComputedStyle(element);
						const seconds = [...transitionDuration.split(','), ...animationDuration.split(',')].map(parseFloat);
						return Math.max(...seconds) > 0.001 || scrollBehavior === 'smooth';
					})
					.map((element) => element.outerHTML.slice(0, 80))
			);
		await page.goto(`${server.url}/m/1/weigh`);
		await page.locator('html[data-ready]').waitFor();
		await page.locator('[aria-controls="docket-sheet"]').click();
		expect(await moving()).toEqual([]);
		await page.goto(`${server.url}/m/1/archive?q=harbour+times`);
		await page.locator('html[data-ready]').waitFor();
		await page.locator('tbody button').first().click();
		await expect(page.getByRole('dialog').getByText('Retention', { exact: true })).toBeVisible();
		expect(await moving()).toEqual([]);
	});
});

for (const colorScheme of ['light', 'dark'] as const) {
	test.describe(`on the ${colorScheme} ground`, () => {
		test.use({ colorScheme });

		test('an open message and the work under the bell', async ({ page }) => {
			await page.goto(`${server.url}/m/1/archive?q=harbour+times`);
			await page.locator('html[data-ready]').waitFor();
			await page.locator('tbody button').first().click();
			await expect(page.getByRole('dialog').getByText('Retention', { exact: true })).toBeVisible();
			await shorten(page);
			expect(await objections(page)).toEqual([]);
		});

		test('an opened list', async ({ page }) => {
			await page.goto(`${server.url}/m/1/lists`);
			await page.locator('html[data-ready]').waitFor();
			await page.locator('tr[data-list]').first().focus();
			await page.keyboard.press('Enter');
			await expect(page.getByText('Ways to unsubscribe')).toBeVisible();
			await shorten(page);
			expect(await objections(page)).toEqual([]);
		});

		test('an opened lot', async ({ page }) => {
			await page.goto(`${server.url}/m/1/clear/lots`);
			await page.locator('html[data-ready]').waitFor();
			await page
				.getByRole('link', { name: /^Open / })
				.first()
				.click();
			await expect(page.locator('tr[aria-label]').first()).toBeVisible();
			await shorten(page);
			expect(await objections(page)).toEqual([]);
		});
	});
}
