import { createServer } from 'node:http';
import { once } from 'node:events';
import { rmSync } from 'node:fs';
import { expect } from '@playwright/test';
import { hostileDocuments } from './hostile-html.ts';
import { kovrel, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/*
 * Hostile documents in the real browser: nothing is asked of anybody but Kovrel, nothing runs, nothing leaves its frame. More
 * of them: KOVREL_HOSTILE=120.
 */
const SHOWN = Number(process.env.KOVREL_HOSTILE ?? 12);
const folder = temporaryFolder();
const SHOWN_ELEMENTS = [
	'p',
	'span',
	'a',
	'bdi',
	'ul',
	'li',
	'table',
	'tbody',
	'tr',
	'td',
	'div',
	'br',
	'b',
	'img',
	'center',
	'font'
];
const SHOWN_ATTRIBUTES = ['title', 'dir', 'class', 'href', 'target', 'rel', 'style', 'src', 'alt', 'width', 'height'];
let server: TestServer;
const asked: string[] = [];
/* Somebody else's server: whatever it is asked has escaped. */
const stranger = createServer((request, response) => {
	asked.push(`${request.method} ${request.url}`);
	response.end();
});
let documents: ReturnType<typeof hostileDocuments> = [];

test.beforeAll(async () => {
	stranger.listen(0, '127.0.0.1');
	await once(stranger, 'listening');
	const { port } = stranger.address() as { port: number };
	documents = hostileDocuments(`http://127.0.0.1:${port}`);
	server = await TestServer.start();
	const mail = documents.map(
		({ header, body }, at) =>
			`From: stranger@elsewhere.example\nTo: office@skerryline.example\nSubject: Hostile ${at}\nDate: Mon, 3 Feb 2020 10:00:00 +0000\nMessage-ID: <h${at}@elsewhere.example>\n${header}\n${body}\n`
	);
	const { status, stderr } = kovrel(server.data, 'import', mboxFile(folder, mail, 'mail.mbox'), '--mailbox', 'Office');
	expect(status, stderr).toBe(0);
});
test.afterAll(async () => {
	await server.remove();
	stranger.close();
	rmSync(folder, { recursive: true });
});

test(`${SHOWN} hostile documents are shown: nothing is fetched, run or left`, async ({ page }) => {
	test.setTimeout(600_000);
	const strange: string[] = [];
	page.on('request', (request) => {
		if (!request.url().startsWith(server.url) && !/^(data|blob|about):/.test(request.url()))
			strange.push(request.url());
	});
	page.on('dialog', (dialog) => {
		strange.push(`a dialog: ${dialog.message()}`);
		void dialog.dismiss();
	});
	page.on('popup', (popup) => strange.push(`a window: ${popup.url()}`));
	// what the policy of the frame had to stop has got through the sanitising
	page.on('console', (line) => {
		if (/Refused to|Blocked|violates/.test(line.text())) strange.push(line.text());
	});
	const every = Math.max(1, Math.floor(documents.length / SHOWN));
	for (let at = 0; at < documents.length; at += every) {
		const address = `${server.url}/m/1/archive?q=subject%3A%22hostile+${at}%22`;
		await page.goto(address);
		await page.locator('html[data-ready]').waitFor();
		await page.getByRole('button', { name: `Hostile ${at}`, exact: true }).click();
		const text = page.getByRole('dialog').frameLocator('iframe[title="Text of the message"]').locator('body');
		await expect(text).toContainText(`Before ${at % (documents.length / 2)}.`);
		const what = documents[at]?.html;
		const { names, attributes, addresses } = await text.evaluate((body) => {
			const elements = [...body.querySelectorAll('*')];
			const all = elements.flatMap((element) => [...element.attributes]);
			return {
				names: elements.map(({ localName }) => localName),
				attributes: all.map(({ name }) => name),
				addresses: all.filter(({ name }) => name !== 'title').map(({ value }) => value)
			};
		});
		expect(
			names.filter((name) => !SHOWN_ELEMENTS.includes(name)),
			what
		).toEqual([]);
		expect(
			attributes.filter((name) => !SHOWN_ATTRIBUTES.includes(name)),
			what
		).toEqual([]);
		expect(
			addresses.filter((value) => /script:|url\(|^data:(?!image\/(png|jpeg|gif|webp))/i.test(value)),
			what
		).toEqual([]);
		expect(await page.title(), what).not.toContain('broken');
		expect(page.url(), what).toContain(server.url);
		expect(strange, what).toEqual([]);
		expect(asked, what).toEqual([]);
	}
});
