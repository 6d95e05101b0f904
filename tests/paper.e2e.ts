import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { extractText, getDocumentProxy } from 'unpdf';
import { kovrel, letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/* What is printed, read back from the PDF that Chromium makes of it (pages by pdf.js). */

let server: TestServer;
const environment = { KOVREL_NOW: '2026-11-25T12:00:00Z' };
const DESTROYED = 90;

test.beforeAll(async () => {
	const files = temporaryFolder();
	const mail = Array.from({ length: DESTROYED }, (_, n) =>
		letter(
			`Berth permit ${n}, with a subject that is longer than one line of a narrow column`,
			`${1 + (n % 28)} Mar 2019 10:00:00 +0000`
		)
	);
	server = await TestServer.start(undefined, environment);
	const run = (...words: string[]) => {
		const { status, stderr } = kovrel({ data: server.data, environment }, ...words);
		expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
	};
	run('import', mboxFile(files, mail, 'mail.mbox', 'RO'), '--mailbox', 'Harbour office', '--folder', 'Trash');
	run('schedule', 'import', '--starter');
	run('bin', 'empty', '--mailbox', 'Harbour office', '--confirm', 'Harbour office');
	rmSync(files, { recursive: true });
});
test.afterAll(() => server.remove());

/* The text of each page, as it stands on paper. */
async function printed(page: Page, address: string): Promise<string[]> {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
	const pdf = await page.pdf({ preferCSSPageSize: true });
	const document = await getDocumentProxy(new Uint8Array(pdf));
	const { text } = await extractText(document, { mergePages: false });
	return text.map((one) => one.replace(/\s+/g, ' '));
}
/* The frame, and what is there to be pressed, stay off the paper. */
const SCREEN_ONLY = ['Sign out', 'Import mail', 'Take back', 'Stages', 'Help', 'F1'];

test('a certificate: whole rows, its headings on each page, its pages numbered', async ({ page }) => {
	const pages = await printed(page, '/retain/certificates/1');
	expect(pages.length).toBeGreaterThan(2);
	expect(pages[0]).toContain('Certificate of destruction');
	for (const [at, text] of pages.entries()) {
		expect(text, 'the headings of the table').toContain('SHA-256');
		expect(text, 'the number of the page').toContain(`${at + 1} / ${pages.length}`);
		for (const word of SCREEN_ONLY) expect(text).not.toContain(word);
	}
	// each message stands on one page, with its whole hash; the certificate's own is on the first
	const hashes = pages.flatMap((text) => text.replace(/ /g, '').match(/[0-9a-f]{64}/g) ?? []);
	expect(hashes).toHaveLength(DESTROYED + 1);
	expect(new Set(hashes).size).toBe(DESTROYED + 1);
});

for (const { name, address, says } of [
	{
		name: 'the policy',
		address: '/retain/policy',
		says: ['What happens to mail here', 'Passenger claims', 'Harbour office']
	},
	{ name: 'the schedule', address: '/retain/schedule', says: ['BER-01', 'Charter contracts', 'LEG-01'] },
	{ name: 'a docket', address: '/dockets/1', says: ['Docket 1 for Harbour office', `${DESTROYED} messages`] }
])
	test(`${name} on paper`, async ({ page }) => {
		const pages = await printed(page, address);
		const whole = pages.join(' ');
		for (const words of says) expect(whole).toContain(words);
		for (const word of SCREEN_ONLY) expect(whole).not.toContain(word);
		expect(pages.at(-1)).toContain(`${pages.length} / ${pages.length}`);
	});
