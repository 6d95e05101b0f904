import { execFileSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import path from 'node:path';
import { expect, type Page } from '@playwright/test';
import { kovrel, letter, mboxFile, temporaryFolder, test, TestServer, TestStandIns } from './server.ts';

/* Mail that is written at the desk, answers that are awaited, threads that are closed: in an inbox of 500 messages. */
let server: TestServer;
let standIns: TestStandIns;
let environment: Record<string, string>;
const files = temporaryFolder();
const MESSAGES = 500;
const OFFICE = ['--mailbox', 'Office'];
const NORA = 'Nora Vik <nora@quay.example>';
const day = (n: number) => new Date(Date.UTC(2026, 10, 24) - n * 86_400_000).toUTCString();

test.describe.configure({ mode: 'serial' });

const terminal = (...words: string[]) => kovrel({ data: server.data, environment }, ...words);
function json<T>(...words: string[]): T {
	const { status, stdout, stderr } = terminal(...words, '--json');
	expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
	return JSON.parse(stdout) as T;
}
const bring = (name: string, ...letters: string[]) =>
	expect(terminal('import', mboxFile(files, letters, `${name}.mbox`, 'O'), ...OFFICE)).toMatchObject({ status: 0 });

test.beforeAll(async () => {
	standIns = await TestStandIns.start(path.join(files, 'standins'));
	environment = { KOVREL_STANDINS: standIns.file, KOVREL_NOW: '2026-11-25T12:00:00Z' };
	server = await TestServer.start(undefined, environment);
	const others = Array.from({ length: MESSAGES - 1 }, (_, n) =>
		letter(`Note ${n}`, day(n + 2), 'The ramp is stiff.', `Crew <crew${n % 5}@skerryline.example>`)
	);
	const asked = letter('Crates', day(1), 'When do they come?', NORA).replace(
		'Subject:',
		'Message-ID: <crates@quay.example>\nSubject:'
	);
	bring('inbox', ...others, asked);
	expect(terminal('mailbox', 'set', 'Office', '--address', 'office@skerryline.example')).toMatchObject({ status: 0 });
});
test.afterAll(async () => {
	await server.remove();
	await standIns.end();
	rmSync(files, { recursive: true });
});

async function visit(page: Page, address: string): Promise<void> {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}
const onDesk = (page: Page) =>
	page.getByRole('region', { name: 'Message on the desk' }).getByRole('heading', { level: 2 });

test('replies from the desk by a key, and archives the thread until it is answered', async ({ page }) => {
	await visit(page, '/m/1/desk/outgoing');
	await page.getByText('Signature of Office').click();
	await page.getByLabel('Signature', { exact: true }).fill('Ylva Strand');
	await page.getByRole('button', { name: 'Set the signature' }).click();
	await expect(page.getByText('New mail ends with it from now on')).toBeVisible();
	await page.getByRole('link', { name: 'Daily round' }).click();
	await expect(onDesk(page)).toHaveText('Crates');
	await expect(page.getByRole('link', { name: '< Reply' })).toBeVisible();
	await page.keyboard.press('<');
	await expect(page.getByLabel('To', { exact: true })).toHaveValue(NORA);
	await expect(page.getByLabel('Subject')).toHaveValue('Re: Crates');
	await expect(page.getByLabel('Text')).toBeFocused();
	await page.keyboard.type('On Tuesday. How many are there?');
	// a slip is said, and nothing is lost
	await page.getByLabel('Copy to').fill('emre');
	await page.getByRole('button', { name: 'Send now' }).click();
	await expect(page.getByRole('alert')).toContainText('"emre" is no address. Nothing was sent.');
	await page.getByLabel('Copy to').fill('emre@quay.example');
	await page.getByRole('button', { name: 'Send now' }).click();
	await expect(page.getByTestId('sent')).toContainText(`Sent to ${NORA}, with a copy to emre@quay.example.`);
	// the thread is decided on here: two messages, the reply among them
	await page.getByLabel('awaited because').fill('the number of crates');
	await page.getByRole('button', { name: 'Archive until it is answered' }).click();
	await expect(page.getByTestId('decided')).toContainText('Archived 2 messages');

	// what went, as the stand-in that took it shows it, and as Python's email reads it
	await page.goto(standIns.post);
	await page.getByRole('link', { name: '1', exact: true }).click();
	const went = await page.locator('pre').textContent();
	const read = execFileSync(
		'python3',
		[
			'-c',
			'import email,sys;m=email.message_from_string(sys.stdin.read());print(m["In-Reply-To"],m["To"],m["Cc"],m.get_payload(decode=True).decode())'
		],
		{ input: went ?? '', encoding: 'utf8' }
	);
	expect(read).toContain('<crates@quay.example> Nora Vik <nora@quay.example> emre@quay.example');
	expect(read).toMatch(
		/On Tuesday\. How many are there\?\s+On 23 Nov 2026 Nora Vik wrote:\s+> When do they come\?\s+-- \s+Ylva Strand/
	);
});

test('brings an awaited thread back to its folder when it is answered, and says why', async ({ page }) => {
	await visit(page, '/m/1/desk/awaited');
	await expect(page.getByRole('row', { name: /Crates/ })).toContainText('the number of crates');
	expect(json('awaited', ...OFFICE)).toMatchObject([
		{ subject: 'Crates', who: 'Nora Vik', messages: 2, since: '2026-11-25' }
	]);
	bring(
		'answer',
		letter('Re: Crates', new Date(Date.UTC(2026, 10, 25, 9)).toUTCString(), 'Twelve.', NORA).replace(
			'Subject:',
			'In-Reply-To: <crates@quay.example>\nSubject:'
		)
	);
	await visit(page, '/m/1/desk/rules');
	expect(json<unknown[]>('awaited', ...OFFICE)).toHaveLength(1);
	expect(terminal('days', 'night')).toMatchObject({ status: 0 });
	expect(json<unknown[]>('awaited', ...OFFICE)).toHaveLength(0);
	await visit(page, '/m/1/desk');
	await expect(onDesk(page)).toHaveText('Re: Crates');
	await expect(page.getByText('The thread, 3 messages')).toBeVisible();
	await page.getByText('The thread, 3 messages').click();
	await page.getByRole('button', { name: 'Crates', exact: true }).click();
	await expect(page.getByText('because Nora Vik answered (awaited: the number of crates)')).toBeVisible();
});

test('keeps a mail that goes at a time, changes and discards it, and takes that back', async ({ page }) => {
	await visit(page, '/m/1/desk/write');
	await page.getByLabel('To', { exact: true }).fill('emre@quay.example');
	await page.getByLabel('Subject').fill('Tides');
	await page.getByLabel('or on').fill('1 Dec 2026');
	await page.getByLabel('at', { exact: true }).fill('8:30');
	await page.getByRole('button', { name: 'Send on 1 Dec 2026, 08:30' }).click();
	const row = page.getByRole('row', { name: /Tides/ });
	await expect(row).toContainText('Goes on 1 Dec 2026, 08:30');
	await row.getByRole('link', { name: 'Tides' }).click();
	await page.getByLabel('Subject').fill('Tides of December');
	await page.getByRole('button', { name: 'Send on 1 Dec 2026, 08:30' }).click();
	await page
		.getByRole('row', { name: /Tides of December/ })
		.getByRole('button', { name: 'Discard' })
		.click();
	await expect(page.getByText('Nothing waits to be sent')).toBeVisible();
	await page.getByRole('button', { name: 'Take back', exact: true }).click();
	await expect(page.getByRole('row', { name: /Tides of December/ })).toContainText('Draft');
	await page
		.getByRole('row', { name: /Tides of December/ })
		.getByRole('button', { name: 'Send now' })
		.click();
	await expect(page.getByText('It was sent.')).toBeVisible();
	await expect(page.getByRole('heading', { name: 'Sent last' })).toBeVisible();
});

test('closes a thread: it goes, and so does what still comes in it', async ({ page }) => {
	await visit(page, '/m/1/desk');
	await page.getByRole('button', { name: 'Close the thread …' }).click();
	const form = page.getByRole('form', { name: 'Close the thread' });
	await form.getByLabel(/^Move the thread/).selectOption('a folder');
	await form.getByLabel('named').fill('Done');
	await form.getByRole('button', { name: 'Close the thread' }).click();
	await expect(onDesk(page)).toHaveText(/^Note/);
	await expect(page.getByTestId('decided')).toContainText('Moved 3 messages');
	await page.getByRole('link', { name: 'Standing decisions' }).click();
	await expect(page.getByText(/^Closed thread \d+: Re: Crates$/)).toBeVisible();
	expect(json<{ hits: unknown[] }>('search', 'folder:Done', ...OFFICE).hits).toHaveLength(3);
});

test('does the same from the terminal', () => {
	const { hits } = json<{ hits: { id: number }[] }>('search', 'subject:"note 7"', ...OFFICE);
	const id = String(hits[0]?.id);
	expect(json('reply', id, '--text', 'Greased.', '--tag', 'Ramp')).toMatchObject({
		state: 'sent',
		subject: 'Re: Note 7'
	});
	expect(json('reply', id, '--text', 'Later.', '--send-at', '2026-12-01T08:00:00Z')).toMatchObject({
		state: 'waiting'
	});
	expect(json('awaited', '--message', id, '--until', '2026-12-02')).toMatchObject({ messages: 1 });
	expect(json('awaited', ...OFFICE)).toMatchObject([{ subject: 'Note 7', until: '2026-12-02' }]);
	expect(terminal('reply', id)).toMatchObject({ status: 2 });
	expect(terminal('reply', '999999', '--text', 'x')).toMatchObject({ status: 1 });
});
