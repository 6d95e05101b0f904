import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { kovrel, letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/* What helps to read and to write: faces for other scripts, dates as people type them, and the help of a page. */
let server: TestServer;

const SUBJECTS: [face: string, subject: string][] = [
	['Noto Sans Arabic', 'جدول العبّارة لشهر مارس'],
	['Noto Sans Hebrew', 'לוח ההפלגות'],
	['Noto Sans Devanagari', 'नौका की समय सारिणी'],
	['Noto Sans Thai', 'ตารางเดินเรือ'],
	['Noto Sans KR', '여객선 시간표'],
	['Noto Sans SC', '渡轮时刻表'],
	['Noto Sans SC', 'フェリーの時刻表']
];

test.describe.configure({ mode: 'serial' });
test.beforeAll(async () => {
	const folder = temporaryFolder();
	const letters = SUBJECTS.map(([, subject], n) => letter(subject, `Mon, ${n + 1} Feb 2021 10:00:00 +0000`));
	server = await TestServer.start();
	const plain = mboxFile(folder, [letter('Ramp', 'Mon, 8 Mar 2021 10:00:00 +0000')], 'plain.mbox');
	const into = ['--mailbox', 'Office', '--folder'];
	expect(kovrel(server.data, 'import', mboxFile(folder, letters, 'abroad.mbox'), ...into, 'Abroad').status).toBe(0);
	expect(kovrel(server.data, 'import', plain, ...into, 'Near').status).toBe(0);
	const html = SUBJECTS.map(([, subject]) => `<p style="font-family: Arial">${subject}</p>`).join('');
	const header = 'As HTML\nMIME-Version: 1.0\nContent-Type: text/html; charset=utf-8';
	const written = mboxFile(folder, [letter(header, 'Tue, 9 Mar 2021 10:00:00 +0000', html)], 'html.mbox');
	expect(kovrel(server.data, 'import', written, ...into, 'Written').status).toBe(0);
	rmSync(folder, { recursive: true });
});
test.afterAll(() => server.remove());

async function visit(page: Page, address: string) {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}

async function openFolder(page: Page, name: string) {
	await visit(page, '/m/1/weigh');
	await page.getByRole('link', { name, exact: true }).first().click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText(name);
}

const loadedFaces = (page: Page) =>
	page.evaluate(async () => {
		await document.fonts.ready;
		return [
			...new Set(
				[...document.fonts].flatMap(({ status, family }) => (status === 'loaded' ? family.replaceAll('"', '') : []))
			)
		];
	});

test('subjects in other scripts are shown by faces that come along, fetched only where such letters occur', async ({
	page
}) => {
	await openFolder(page, 'Near');
	await page.waitForLoadState('networkidle');
	expect((await loadedFaces(page)).filter((face) => face.startsWith('Noto'))).toEqual([]);
	const asked: string[] = [];
	page.on('request', (request) => asked.push(new URL(request.url()).host));
	await openFolder(page, 'Abroad');
	for (const [face] of SUBJECTS) await expect.poll(() => loadedFaces(page)).toContain(face);
	expect(new Set(asked)).toEqual(new Set([new URL(server.url).host]));
});

test('the HTML of a message is shown by the same faces, also where it names one of its own, and by none it need not', async ({
	page
}) => {
	await openFolder(page, 'Written');
	await page.getByRole('button', { name: 'As HTML' }).click();
	const frame = page.frameLocator('iframe').locator('body');
	await expect(frame).toContainText('渡轮时刻表');
	const faces = await frame.evaluate(async (body) => {
		await document.fonts.ready;
		const paragraphs = [...body.querySelectorAll('p')];
		return {
			families: new Set(paragraphs.map((paragraph) => getComputedStyle(paragraph).fontFamily)).size,
			unseen: paragraphs.map((p) => p.textContent).filter((text) => !document.fonts.check('15px OtherScripts', text)),
			states: [...new Set([...document.fonts].map(({ status }) => status))]
		};
	});
	expect(faces).toEqual({ families: 1, unseen: [], states: ['loaded'] });
});

test('what is written from right to left stands right', async ({ page }) => {
	await openFolder(page, 'Abroad');
	const place = async (subject: string) => {
		const button = page.getByRole('button', { name: subject });
		const [box, cell] = [await button.boundingBox(), await button.locator('xpath=ancestor::td').boundingBox()];
		if (!box || !cell) throw new Error('It is not shown');
		return { left: box.x - cell.x, right: cell.x + cell.width - box.x - box.width };
	};
	for (const [, subject] of SUBJECTS) {
		const { left, right } = await place(subject);
		if (/\p{Script=Arabic}|\p{Script=Hebrew}/u.test(subject)) expect(right).toBeLessThan(left);
		else expect(left).toBeLessThan(right);
	}
});

test('a date is typed as people write it, or taken from the calendar', async ({ page }) => {
	await visit(page, '/m/1/clear');
	const field = page.getByLabel('Received before');
	const sent = page.locator('input[type=hidden][name=before]');
	for (const [typed, shown, date] of [
		['4.3.2021', '4 Mar 2021', '2021-03-04'],
		['March 2022', '1 Mar 2022', '2022-03-01'],
		['2021-02-05', '5 Feb 2021', '2021-02-05']
	] as const) {
		await field.fill(typed);
		await field.blur();
		await expect(field).toHaveValue(shown);
		await expect(sent).toHaveValue(date);
	}
	await page.getByRole('button', { name: 'Open the calendar' }).click();
	await page.locator('.day').getByText('8', { exact: true }).first().click();
	await expect(field).toHaveValue('8 Feb 2021');
	// what is no date is not sent, and stays to be mended
	await field.fill('next spring');
	await page.getByRole('button', { name: /^Count it/ }).click();
	expect(await field.evaluate((input: HTMLInputElement) => input.validationMessage)).toContain('4 Mar 2024');
	await expect(field).toHaveValue('next spring');
	await field.fill('8 February 2021');
	await page.getByRole('button', { name: /^Count it/ }).click();
	await expect(
		page
			.getByRole('heading', { name: 'Effect of docket' })
			.or(page.getByText('received before 8 February 2021'))
			.first()
	).toBeVisible();
});

test('F1 shows the keys of a page, and the words of Kovrel', async ({ page }) => {
	await openFolder(page, 'Near');
	await page.keyboard.press('F1');
	const help = page.getByRole('dialog', { name: 'Help' });
	await expect(help).toContainText('selects a message; with Shift, all from the last one on');
	await expect(help).toContainText('a list of decisions that is prepared first');
	await page.keyboard.press('Escape');
	await expect(help).toBeHidden();
	await visit(page, '/m/1/desk');
	await page.getByRole('button', { name: 'Help' }).click();
	await expect(page.getByRole('dialog', { name: 'Help' })).toContainText('puts it off');
});
