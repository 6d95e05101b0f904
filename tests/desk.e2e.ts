import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { kovrel, letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/* The daily round, and the decisions that stand: an inbox of 500 messages, five senders, one of them a newsletter. */
let server: TestServer;
const MESSAGES = 500;
const SENDERS = ['times', 'quay', 'slipworks', 'crew', 'port'];
const OFFICE = ['--mailbox', 'Office'];

test.describe.configure({ mode: 'serial' });

test.beforeAll(async () => {
	const folder = temporaryFolder();
	// the last one comes on the day before today
	const last = Date.now() - 86_400_000;
	const letters = Array.from({ length: MESSAGES }, (_, n) =>
		letter(
			`Note ${n}`,
			new Date(last - (MESSAGES - 1 - n) * 86_400_000).toUTCString(),
			'The ramp is stiff.',
			`${SENDERS[n % SENDERS.length] ?? ''} <desk@${SENDERS[n % SENDERS.length] ?? ''}.example>`
		)
	);
	server = await TestServer.start();
	expect(kovrel(server.data, 'import', mboxFile(folder, letters, 'inbox.mbox', 'O'), ...OFFICE)).toMatchObject({
		status: 0
	});
	rmSync(folder, { recursive: true });
});
test.afterAll(() => server.remove());

async function visit(page: Page, address: string): Promise<void> {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}
const onDesk = (page: Page) => page.getByRole('region', { name: 'Message on the desk' });
const left = (page: Page) => page.getByTestId('left');

test('decides on one message after the other by a key, puts one off, and takes back the last ones', async ({
	page
}) => {
	await visit(page, '/m/1/weigh');
	await page.getByRole('link', { name: /^Desk/ }).click();
	await expect(page.getByTestId('aim')).toContainText(`${MESSAGES} messages in the inbox`);
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 499');
	await expect(left(page)).toContainText('500 left');
	await page.keyboard.press('1');
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 498');
	await expect(left(page)).toContainText('499 left');
	await expect(page.getByTestId('decided')).toContainText('Archived 1 message');
	await page.keyboard.press('0');
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 497');
	await page.keyboard.press('5');
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 496');
	await expect(page.getByTestId('decided')).toContainText('Kept 1 message');
	await page.keyboard.press('2');
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 495');
	await expect(left(page)).toContainText('496 left, 1 put off');
	await expect(page.getByTestId('decided')).toContainText('Deleted 1 message');
	// what was decided is known to the server, not to the page
	await page.reload();
	await page.locator('html[data-ready]').waitFor();
	await expect(page.getByRole('button', { name: /Take back the last: “Note 496”/ })).toBeVisible();
	for (const subject of ['496', '497', '499']) {
		await expect(page.getByRole('button', { name: `⌫ Take back the last: “Note ${subject}”` })).toBeVisible();
		await page.keyboard.press('Backspace');
	}
	await expect(page.getByRole('button', { name: '⌫ Take back the last' })).toBeDisabled();
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 499');
	await expect(left(page)).toContainText('500 left');
});

test('marks the likely decision after four of five that were alike, and never makes it by itself', async ({ page }) => {
	await visit(page, '/m/1/desk?first=oldest');
	for (let n = 0; n < 25; n++) {
		await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText(`Note ${n}`);
		// those of the newsletter are deleted but once, all others are put off
		const isNewsletter = n % SENDERS.length === 0;
		await page.keyboard.press(isNewsletter ? (n === 10 ? '1' : '2') : '0');
	}
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 25');
	await expect(page.getByTestId('likely')).toContainText('you decided four of the last five times: delete');
	await page.keyboard.press('0');
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 26');
	await expect(page.getByTestId('likely')).toHaveCount(0);
});

test('puts a message on a pile with a reason and a day, and shows how long the pile waits', async ({ page }) => {
	await visit(page, '/m/1/desk');
	await page.keyboard.press('+');
	const form = page.getByRole('form', { name: 'Put on a pile' });
	await form.getByLabel('Pile').fill('Reply owed');
	await form.getByLabel('waits because').fill('the yard asks');
	const nextWeek = new Date(Date.now() + 7 * 86_400_000).toISOString().slice(0, 10);
	await form.getByLabel('until').fill(nextWeek);
	await form.getByRole('button', { name: 'Put 1 message there' }).click();
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 498');
	await expect(page.getByTestId('decided')).toContainText('Moved 1 message to Reply owed');
	await page.getByRole('link', { name: 'Piles' }).click();
	await expect(page.getByRole('row', { name: /Reply owed/ })).toContainText('today, since');
	await page.getByRole('link', { name: 'Reply owed', exact: true }).click();
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 499');
	await expect(page.getByTestId('waits')).toContainText('the yard asks');
	await page.keyboard.press('Backspace');
	await expect(page.getByTestId('cleared')).toBeVisible();
	await visit(page, '/m/1/desk');
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 499');
});

test('makes a standing decision from a message, after saying what it would have done and what it meets', async ({
	page
}) => {
	expect(
		kovrel(
			server.data,
			'rules',
			'add',
			...OFFICE,
			'--from',
			'desk@quay.example',
			'--older-than',
			'P1Y',
			'--then',
			'archive'
		)
	).toMatchObject({ status: 0 });
	await visit(page, '/m/1/desk');
	await page.keyboard.press('0');
	await page.keyboard.press('0');
	await page.keyboard.press('0');
	await expect(onDesk(page).getByRole('heading', { level: 2 })).toHaveText('Note 496');
	await page.getByRole('link', { name: 'The same from now on …' }).click();
	await expect(page.getByLabel(/^Which mail/)).toHaveValue('address:"desk@quay.example"');
	await page.getByLabel('The newest').fill('3');
	await page.getByLabel('None older than: how many').fill('30');
	await page.getByLabel('None older than: of what').selectOption('days');
	await page.getByLabel('It takes').selectOption('all');
	await expect(page.getByTestId('sentence')).toHaveText(
		'The newest 3 messages found by “address:"desk@quay.example"” stay, unless they are older than 30 days; the rest is archived. Flagged mail stays.'
	);
	// every five days one of a year comes to 73; the newest three stay, which a year ago were others
	await expect(page.getByTestId('rehearsal')).toContainText('it would have taken 73 messages');
	await expect(page.getByTestId('rehearsal')).toContainText('“address:"desk@quay.example": archived”');
	await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Quay, newest three');
	await page.getByRole('button', { name: 'Save the standing decision' }).click();
	await page.waitForURL(/desk\/rules$/);
	await expect(page.getByRole('row', { name: 'Quay, newest three' })).toContainText('0 messages');

	// put first by the keyboard: then it takes them all
	await page.getByRole('row', { name: 'Quay, newest three' }).focus();
	await page.keyboard.press('Alt+ArrowUp');
	await expect(page.getByRole('table', { name: 'Standing decisions' }).locator('tbody tr').first()).toContainText(
		'Quay, newest three'
	);
	await page.getByRole('button', { name: 'Run now' }).click();
	await expect(page.getByText('The run has started.')).toBeVisible();
	await expect
		.poll(() => JSON.stringify(kovrel(server.data, 'docket', 'list', '--json')))
		.toContain('Standing decisions');
});

test('waits for a person the first time, shows on the message what acted, and takes back what one did', async ({
	page
}) => {
	const { dockets } = JSON.parse(kovrel(server.data, 'docket', 'list', '--json').stdout) as {
		dockets: { id: number; name: string }[];
	};
	const waiting = dockets.find(({ name }) => name === 'Standing decisions')?.id ?? 0;
	await visit(page, `/dockets/${waiting}`);
	await expect(page.locator('main')).toContainText('by the standing decision “Quay, newest three”');
	expect(kovrel(server.data, 'docket', 'carry-out', String(waiting))).toMatchObject({ status: 0 });
	await visit(page, '/m/1/archive?q=address%3Adesk%40quay.example&where=archived');
	await page.locator('tbody button').first().click();
	await expect(page.getByRole('dialog')).toContainText('The standing decision “Quay, newest three”');
	await page.keyboard.press('Escape');
	await visit(page, '/m/1/desk/rules');
	await page.getByRole('button', { name: 'Quay, newest three' }).click();
	await page.getByRole('button', { name: 'Take back its decisions' }).click();
	await expect(page.locator('p[role=status]')).toContainText('97 messages were taken back');
	await visit(page, '/m/1/archive?q=address%3Adesk%40quay.example&where=archived');
	await expect(page.getByText('Nothing was found')).toBeVisible();
	await visit(page, '/m/1/desk/rules');
	const row = page.getByRole('row', { name: 'Quay, newest three' });
	await row.getByRole('button', { name: 'Switch off' }).click();
	await expect(row.getByRole('button', { name: 'Switch on' })).toBeVisible();
	await page.getByRole('button', { name: 'Quay, newest three' }).click();
	await page.getByRole('button', { name: 'Remove' }).click();
	await expect(row).toHaveCount(0);
});

test('does the same from the terminal, each command as one JSON document', () => {
	const json = (...words: string[]) => JSON.parse(kovrel(server.data, 'rules', ...words, '--json').stdout) as unknown;
	const words = ['--mailbox', 'Office', '--organisation', 'port.example', '--newest', '5', '--then', 'delete'];
	const rehearsed = json('rehearse', ...words) as {
		rule: null;
		messages: number;
		examples: number[];
		meets: unknown[];
	};
	expect(rehearsed).toMatchObject({ rule: null, meets: [] });
	expect(rehearsed.examples).toHaveLength(5);
	const { rule } = json('add', ...words) as { rule: number };
	expect(json('list', '--mailbox', 'Office')).toContainEqual(
		expect.objectContaining({ rule, then: 'delete', stay: { newest: 5 }, on: true })
	);
	const run = json('run', '--mailbox', 'Office') as { dockets: number[]; messages: number; byRule: unknown[] };
	expect(run.byRule).toContainEqual({ rule, messages: 95 });
	expect(json('off', String(rule))).toEqual({ rule, on: false });
	const back = json('take-back', String(rule)) as { messages: number };
	expect(back.messages).toBe(95);
	expect(kovrel(server.data, 'rules', 'add', '--mailbox', 'Office', '--then', 'delete')).toMatchObject({ status: 2 });
	expect(kovrel(server.data, 'rules', 'add', '--mailbox', 'Office', '--where', 'a', '--then', 'destroy')).toMatchObject(
		{ status: 2 }
	);
});
