import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { type BrowserContext, expect, type Page, type Route } from '@playwright/test';
import { Secret, TOTP } from 'otpauth';
import { ADMINISTRATOR, kovrel, letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/* People who come in, find, restore and ask; and those who let them. */

let server: TestServer;
const files = temporaryFolder();
test.beforeAll(async () => {
	server = await TestServer.start();
});
test.afterAll(async () => {
	await server.remove();
	rmSync(files, { recursive: true });
});
test.describe.configure({ mode: 'serial' });

const PASSWORD = 'lighthouse pony corrugated';

async function visit(page: Page, place: string) {
	await page.goto(server.url + place);
	await page.locator('html[data-ready]').waitFor();
}

/* A browser of somebody's own. */
async function someone(page: Page): Promise<{ context: BrowserContext; own: Page }> {
	const context = (await page
		.context()
		.browser()
		?.newContext({ locale: 'en-GB', viewport: { width: 1280, height: 800 } })) as BrowserContext;
	return { context, own: await context.newPage() };
}

function withPdf(subject: string, pdf: Buffer): string {
	return letter(subject, 'Tue, 03 Mar 2020 10:00:00 +0000').replace(
		/\n\n[\s\S]*$/,
		`\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nThe survey is attached.\n--b\nContent-Type: application/pdf; name="survey.pdf"\nContent-Disposition: attachment; filename="survey.pdf"\nContent-Transfer-Encoding: base64\n\n${pdf.toString('base64').replace(/.{76}/g, '$&\n')}\n--b--\n`
	);
}

test('words inside a PDF that another program made are found', async ({ page }) => {
	// Chromium prints it: an outside writer of PDF
	await page.setContent('<h1>Hull survey</h1><p>No wormholes in the garboard strake of MV Terne.</p>');
	const pdf = await page.pdf();
	const complaints = [1, 2, 3].map((n) =>
		letter(`Complaint ${n} about the ramp`, `Mon, 0${n} Mar 2021 10:00:00 +0000`)
	);
	writeFileSync(path.join(files, 'survey.pdf'), pdf);
	mboxFile(files, [...complaints, withPdf('Survey of the Terne', pdf)], 'complaints.mbox');
	mboxFile(
		files,
		[letter('Crew secret', 'Mon, 01 Mar 2021 10:00:00 +0000', 'Nobody else reads about the ramp here.')],
		'crew.mbox'
	);
	for (const name of ['complaints', 'crew'])
		expect(
			kovrel(
				server.data,
				'import',
				path.join(files, `${name}.mbox`),
				'--mailbox',
				'Harbour',
				'--folder',
				name,
				'--files-now'
			).status
		).toBe(0);
	expect(kovrel(server.data, 'archive', '--mailbox', 'Harbour', '--before', '2022-01-01').status).toBe(0);
	await visit(page, '/find?q=garboard');
	await expect(page.getByTestId('total')).toContainText('1 message');
	await expect(page.locator('mark')).toHaveText(['garboard']);
});

test('an administrator lets a colleague in, who chooses a password and finds what was granted alone', async ({
	page
}) => {
	await visit(page, '/people');
	await page.getByLabel('Name', { exact: true }).fill('Jonas Berg');
	await page.getByLabel('E-mail address for signing in').fill('jonas@skerryline.example');
	await page.getByRole('button', { name: 'Add a person' }).click();
	const link = (await page.getByTestId('link').textContent()) ?? '';
	await page.getByRole('combobox', { name: 'To', exact: true }).selectOption('Jonas Berg');
	await page.getByLabel('Folder, with those below').fill('complaints');
	await page.getByRole('button', { name: 'Grant', exact: true }).click();
	await expect(page.getByRole('row', { name: /Jonas Berg Harbour, complaints and below find/ })).toBeVisible();

	const { context, own } = await someone(page);
	await own.goto(link);
	await own.locator('html[data-ready]').waitFor();
	await own.getByLabel('Password', { exact: true }).fill('jonas12345678');
	await own.getByRole('button', { name: 'Set the password and sign in' }).click();
	await expect(own.getByRole('alert')).toContainText('easily guessed');
	await own.getByLabel('Password', { exact: true }).fill(PASSWORD);
	await own.getByRole('button', { name: 'Set the password and sign in' }).click();
	await expect(own.getByText('Harbour, folder complaints and below: to find')).toBeVisible();

	const box = own.getByRole('combobox', { name: 'What are you looking for?' });
	await box.pressSequentially('ramp');
	await expect(own.getByTestId('total')).toContainText('3 messages');
	await expect(own.getByText('Crew secret')).toHaveCount(0);
	await box.press('ArrowDown');
	await expect(own.getByRole('listbox').getByRole('option', { selected: true })).toBeVisible();
	await box.press('Escape');
	// a word that is nearly right
	await box.fill('complant');
	await own.getByRole('button', { name: 'Find', exact: true }).click();
	await own.getByRole('button', { name: 'complaint', exact: true }).click();
	await expect(own.getByTestId('total')).toContainText('3 messages');
	// a time in words is suggested, and taken by a key
	await box.fill('');
	await box.pressSequentially('complaint March 2021');
	await expect(own.getByRole('option', { name: /time March 2021: 1 Mar 2021 to 31 Mar 2021/ })).toBeVisible();
	await box.press('ArrowDown');
	await box.press('Enter');
	await expect(box).toHaveValue('complaint since:2021-03-01 before:2021-04-01');
	await expect(own.getByTestId('total')).toContainText('3 messages');
	await context.close();
});

test('suggests for the newest text, and takes no letter away, whatever order answers arrive in', async ({ page }) => {
	await visit(page, '/find?q=');
	const box = page.getByRole('combobox', { name: 'What are you looking for?' });
	const option = page.getByRole('option', { name: /time March 2021: 1 Mar 2021 to 31 Mar 2021/ });
	// answers are held back at random, the same in every run
	let dice = 4711;
	const held = async (route: Route) => {
		dice = (dice * 48_271) % 2_147_483_647;
		await new Promise((resolve) => setTimeout(resolve, dice % 900));
		await route.continue().catch(() => {});
	};
	await page.route(/find\/(suggest|__data)/, held);
	for (let round = 0; round < 4; round++) {
		await box.fill('');
		await box.pressSequentially('complaint March 2021', { delay: 90 });
		await expect(option).toBeVisible();
		await expect(box).toHaveValue('complaint March 2021');
		await box.press('Escape');
	}
	await page.unrouteAll({ behavior: 'wait' });
});

async function signIn(page: Page, address: string, password: string) {
	await visit(page, '/sign-in');
	await page.getByLabel('Address').fill(address);
	await page.getByLabel('Password', { exact: true }).fill(password);
	await page.getByRole('button', { name: 'Sign in' }).click();
}

test('narrows down, opens, keeps a copy, and asks for what may not be restored; the answer comes', async ({ page }) => {
	const { context, own } = await someone(page);
	await visit(own, '/find?q=ramp');
	await expect(own).toHaveURL(/sign-in\?to=/);
	await own.getByLabel('Address').fill('jonas@skerryline.example');
	await own.getByLabel('Password', { exact: true }).fill(PASSWORD);
	await own.keyboard.press('Enter');
	// back to where they wanted to go
	await expect(own.getByTestId('total')).toContainText('3 messages');
	await visit(own, '/find?q=terne');
	const filters = own.getByRole('group', { name: 'Filters' });
	await filters.getByText('Attachment', { exact: true }).click();
	await filters.getByRole('button', { name: /PDF/ }).click();
	await expect(own).toHaveURL(/file=pdf/);
	const [kept] = await Promise.all([
		own.waitForEvent('download'),
		own.getByRole('link', { name: 'survey.pdf' }).click()
	]);
	expect(readFileSync(await kept.path())).toEqual(readFileSync(path.join(files, 'survey.pdf')));

	await visit(own, '/find?q=complaint');
	const rows = own.locator('tbody tr[aria-label]');
	await rows.first().focus();
	await own.keyboard.press('Enter');
	await expect(own.getByRole('dialog')).toContainText('archived');
	await expect(own.getByRole('dialog').getByRole('button', { name: 'Junk' })).toHaveCount(0);
	await own.keyboard.press('Escape');
	for (let n = 0; n < 2; n++) {
		await rows.nth(n).focus();
		await own.keyboard.press(' ');
	}
	const [zip] = await Promise.all([
		own.waitForEvent('download'),
		own.getByRole('button', { name: 'Download', exact: true }).click()
	]);
	expect(readFileSync(await zip.path()).toString('latin1')).toContain('index.csv');
	await own.getByRole('button', { name: 'Ask an administrator to restore 2 messages' }).click();
	await own.getByLabel(/^Why do you need/).fill('The passenger calls again');
	await own.getByRole('button', { name: 'Ask for 2 messages' }).click();
	await expect(own.getByText('Your request was sent.')).toBeVisible();

	await visit(page, '/ledger');
	await expect(page.getByRole('link', { name: /^People 1 asks/ })).toBeVisible();
	await visit(page, '/people/requests');
	const request = page.getByRole('region', { name: 'Request of Jonas Berg' });
	await expect(request).toContainText('The passenger calls again');
	await request.getByRole('checkbox').last().uncheck();
	await request.getByLabel(/^Note to/).fill('One will do');
	await request.getByRole('button', { name: 'Restore selected messages' }).click();
	await expect(page.getByText('Jonas Berg: granted in part, 1 message restored.')).toBeVisible();

	await visit(own, '/find/requests');
	await expect(own.getByRole('row', { name: /2 messages of Harbour/ })).toContainText(
		`granted in part, new by ${ADMINISTRATOR.name}: One will do`
	);
	await context.close();
});

test('has back by themselves what is granted for that; keeps a search; their own mailbox shows who looked', async ({
	page
}) => {
	mboxFile(files, [letter('Note to Jonas', 'Mon, 02 Nov 2020 10:00:00 +0000')], 'own.mbox');
	for (const words of [
		['import', path.join(files, 'own.mbox'), '--mailbox', 'Jonas'],
		['person', 'own', 'Jonas', '--owner', 'Jonas Berg'],
		['person', 'grant', 'jonas@skerryline.example', '--mailbox', 'Harbour', '--folder', 'complaints', '--restore'],
		['retain', 'Inbox', '--mailbox', 'Jonas', '--period', 'P6Y1M']
	])
		expect(kovrel(server.data, ...words), words.join(' ')).toMatchObject({ status: 0 });
	// an administrator looks into it
	await visit(page, '/find?q="note+to+jonas"');
	await page.getByRole('button', { name: 'Note to Jonas' }).click();
	await expect(page.getByRole('dialog')).toContainText('Retention');

	const { context, own } = await someone(page);
	await signIn(own, 'Jonas Berg', PASSWORD);
	await own.waitForURL(/find/);
	await visit(own, '/find?q=complaint&sort=newest');
	await own.locator('tbody').getByRole('checkbox').first().check();
	await own.getByRole('button', { name: 'Put a copy into Jonas' }).click();
	await expect(own.getByText('1 message put into Jonas, folder Given back.')).toBeVisible();
	await own.getByLabel('Name for this search').fill('Complaints, newest');
	await own.getByRole('button', { name: 'Save this search' }).click();
	await visit(own, '/find?q=survey');
	await own.locator('tbody').getByRole('checkbox').first().check();
	await own.getByRole('button', { name: 'Restore it to where it came from' }).click();
	await expect(own.getByTestId('restored')).toContainText('1 message restored to where it came from.');
	await visit(own, '/find');
	await own.getByRole('link', { name: 'Complaints, newest' }).click();
	await expect(own.getByTestId('total')).toContainText('4 messages');

	await own.getByRole('link', { name: 'My mailbox' }).click();
	await expect(own.getByRole('row', { name: new RegExp(`${ADMINISTRATOR.name} read Note to Jonas`) })).toBeVisible();
	const due = own.getByRole('row', { name: /destroyed .* Inbox 1 message/ });
	await due.getByRole('button').click();
	await own.getByRole('checkbox', { name: 'Select Note to Jonas' }).check();
	await own.getByRole('button', { name: 'Do that for 1 message' }).click();
	await expect(own.getByText('Done for 1 message.')).toBeVisible();
	await own.getByRole('link', { name: 'The whole policy on one page' }).click();
	await expect(own.getByRole('heading', { name: 'What happens to mail here' })).toBeVisible();
	await context.close();
});

test('one-time codes are set up, asked for, and recovered from', async ({ page }) => {
	const { context, own } = await someone(page);
	await signIn(own, 'jonas@skerryline.example', PASSWORD);
	await own.waitForURL(/find/);
	await visit(own, '/account?codes');
	const secret = (await own.locator('code').textContent()) ?? '';
	const code = () => new TOTP({ secret: Secret.fromBase32(secret) }).generate();
	await own.getByLabel('The six digits shown now').fill(code());
	await own.getByRole('button', { name: 'Use codes from now on' }).click();
	const codes = own.getByTestId('recovery-codes').getByRole('listitem');
	await expect(codes).toHaveCount(10);
	const recovery = await codes.allTextContents();
	const saving = own.waitForEvent('download');
	await own.getByRole('link', { name: 'Save them as a text file' }).click();
	const saved = readFileSync(await (await saving).path(), 'utf8').split('\r\n');
	expect(saved.filter((line) => recovery.includes(line))).toHaveLength(10);
	await own.getByRole('button', { name: 'Sign out' }).click();
	await signIn(own, 'jonas@skerryline.example', PASSWORD);
	await own.getByLabel(/^The six digits/).fill('000000');
	await own.getByRole('button', { name: 'Continue' }).click();
	await expect(own.getByRole('alert')).toContainText('That code is not right');
	await own.getByLabel(/^The six digits/).fill(recovery[0] ?? '');
	await own.getByRole('button', { name: 'Continue' }).click();
	await own.waitForURL(/find/);
	await visit(own, '/account');
	await expect(own.getByText('9 recovery codes are left')).toBeVisible();
	await context.close();
});

test('a second administrator approves what the first one destroys', async ({ page }) => {
	const ruben = await server.addPerson('Ruben Holm', 'administrator');
	await visit(page, '/people');
	await page.getByRole('checkbox', { name: /What a person destroys/ }).check();
	await page.getByRole('region', { name: 'Sign-in rules' }).getByRole('button', { name: 'Set' }).click();
	await expect(page.getByText('Saved.')).toBeVisible();
	expect(kovrel(server.data, 'restore', '5').status).toBe(0);
	const by = (person: string, ...words: string[]) =>
		kovrel({ data: server.data, environment: { KOVREL_PERSON: person } }, ...words);
	const deleting = by(
		ADMINISTRATOR.name,
		'docket',
		'new',
		'delete',
		'--mailbox',
		'Harbour',
		'--folder',
		'crew',
		'--json'
	);
	const { id } = JSON.parse(deleting.stdout) as { id: number };
	expect(by(ADMINISTRATOR.name, 'docket', 'carry-out', String(id)).status).toBe(0);
	const emptying = by(ADMINISTRATOR.name, 'bin', 'empty', '--mailbox', 'Harbour', '--confirm', 'Harbour');
	expect(emptying.status).not.toBe(0);
	expect(emptying.stderr).toContain('a second administrator has to approve it first');
	const draft = /Docket (\d+) destroys/.exec(emptying.stderr)?.[1];
	await visit(page, `/dockets/${draft}`);
	await expect(page.getByText('so a second administrator has to approve it')).toBeVisible();
	await expect(page.getByRole('button', { name: /^Carry out/ })).toBeDisabled();

	const { context, own } = await someone(page);
	await context.addCookies([{ name: 'kovrel-session', value: ruben, domain: '127.0.0.1', path: '/' }]);
	await visit(own, `/dockets/${draft}`);
	await own.getByRole('button', { name: /^Approve: destroy/ }).click();
	await expect(own.getByText('by Ruben Holm')).toBeVisible();
	await context.close();
	await visit(page, `/dockets/${draft}`);
	await page.getByLabel(/^To destroy/).fill('destroy');
	await page.getByRole('button', { name: /^Carry out/ }).click();
	await expect(page.getByTestId('docket-state')).toHaveText('carried out');
});

test('the terminal asks who acts, and lets a colleague do no more than the page', async () => {
	const by = (person: string, ...words: string[]) =>
		kovrel({ data: server.data, environment: { KOVREL_PERSON: person } }, ...words);
	const total = (found: { stdout: string }) => (JSON.parse(found.stdout) as { total: number }).total;
	mboxFile(files, [letter('Crew again', 'Mon, 08 Mar 2021 10:00:00 +0000', 'The ramp.')], 'again.mbox');
	const again = path.join(files, 'again.mbox');
	expect(kovrel(server.data, 'import', again, '--mailbox', 'Harbour', '--folder', 'crew').status).toBe(0);
	// the three complaints, and the copy of one in the mailbox of their own
	expect(total(by('Jonas Berg', 'search', 'ramp', '--json'))).toBe(4);
	expect(total(kovrel(server.data, 'search', 'ramp', '--json'))).toBe(5);
	for (const words of [
		['weigh', '--mailbox', 'Harbour'],
		['archive', '--mailbox', 'Harbour', '--before', '2020'],
		['person', 'add', 'Mallory', '--address', 'm'],
		['export', '--out', path.join(files, 'out'), '--mailbox', 'Harbour', '--format', 'eml'],
		['verify']
	])
		expect(by('Jonas Berg', ...words), words.join(' ')).toMatchObject({ status: 1 });
	expect(by('Mallory', 'search', 'ramp').stderr).toContain('Mallory is nobody here');
	const list = JSON.parse(kovrel(server.data, 'person', 'list', '--json').stdout) as {
		grants: { id: number; to: string }[];
	};
	expect(list.grants.map(({ to }) => to)).toEqual(['Jonas Berg', 'Jonas Berg']);
	for (const { id } of list.grants) expect(kovrel(server.data, 'person', 'revoke', String(id)).status).toBe(0);
	expect(total(by('Jonas Berg', 'search', 'ramp', '--json'))).toBe(1);
});
