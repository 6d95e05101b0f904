import { execFile } from 'node:child_process';
import { readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { promisify } from 'node:util';
import { expect, type Page } from '@playwright/test';
import { kovrel, letter, mboxFile, slip, temporaryFolder, test, TestServer } from './server.ts';

const execFileAsync = promisify(execFile);
let server: TestServer;
const files = temporaryFolder();
const environment = { KOVREL_NOW: '2026-11-25T12:00:00Z' };
const OFFICE = 'Harbour office';

/* Invoices of eight years, drafts, and odds and ends. */
test.beforeAll(async () => {
	server = await TestServer.start(undefined, environment);
	const folders: Record<string, string[]> = {
		Accounts: [2017, 2018, 2019, 2020, 2021, 2022, 2023, 2024].map((year) =>
			letter(`Invoice ${year}`, `Wed, 31 May ${year} 10:00:00 +0000`)
		),
		'Accounts/Drafts': [letter('Draft of a budget', 'Fri, 31 Jan 2020 10:00:00 +0000')],
		Odds: [letter('Thanks', 'Fri, 30 Jun 2023 10:00:00 +0000')]
	};
	for (const [folder, letters] of Object.entries(folders)) {
		const file = mboxFile(files, letters, `${folder.replaceAll('/', '-')}.mbox`);
		expect(terminal('import', file, '--mailbox', OFFICE, '--folder', folder)).toMatchObject({ status: 0 });
	}
});
test.afterAll(async () => {
	await server.remove();
	rmSync(files, { recursive: true });
});
test.describe.configure({ mode: 'serial' });

const terminal = (...words: string[]) => kovrel({ data: server.data, environment }, ...words);
function json<T>(...words: string[]): T {
	const { status, stdout, stderr } = terminal(...words, '--json');
	expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
	return JSON.parse(stdout) as T;
}
async function visit(page: Page, address: string) {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}
const change = (page: Page) => page.getByTestId('change');
const carryOut = async (page: Page) => {
	await slip(page)
		.getByRole('button', { name: /^Carry out/ })
		.click();
	await expect(page.getByTestId('docket-state')).toHaveText('carried out');
};

test('begins with an example schedule, and changes a series with a reason', async ({ page }) => {
	await visit(page, '/retain/schedule');
	await page.getByRole('button', { name: 'Begin with the example' }).click();
	await expect(page.getByText('10 made, 0 changed')).toBeVisible();
	await page.getByRole('button', { name: 'FIN-01' }).click();
	const drawer = page.getByRole('dialog');
	await drawer.getByLabel('Authority').fill('Board, 3 May 2021');
	await drawer.getByLabel('Destroyed after: how many').fill('6');
	await expect(drawer.getByTestId('tried')).toContainText('No due date would change.');
	await drawer.getByLabel('Reason, for the ledger').fill('The board said six');
	await drawer.getByRole('button', { name: 'Save' }).click();
	await expect(page.getByRole('row', { name: /FIN-01/ })).toContainText('6 years');
	await page.getByRole('button', { name: 'FIN-01' }).click();
	await expect(page.getByRole('dialog').getByRole('row', { name: /The board said six/ })).toContainText('2');
	await page.keyboard.press('Escape');

	await page.getByRole('button', { name: 'LEG-01' }).click();
	await drawer.getByRole('button', { name: 'Remove from the schedule' }).click();
	await drawer.getByLabel('Reason for removing it').fill('Nobody sues us');
	await drawer.getByRole('button', { name: 'Remove from the schedule', exact: true }).click();
	await expect(page.getByText('LEG-01 was removed from the schedule.')).toBeVisible();
	await expect(page.getByRole('button', { name: 'LEG-01' })).toBeHidden();

	await page.getByRole('button', { name: 'New series' }).click();
	await drawer.getByLabel('Code').fill('FIN 1');
	await drawer.getByLabel('Title').fill('x');
	await drawer.getByLabel('At the end').selectOption('destroy');
	await drawer.getByLabel('After: how many').fill('1');
	await expect(drawer.getByRole('alert')).toContainText('not "FIN 1"');
	await page.keyboard.press('Escape');
	await page.getByLabel('A schedule as CSV').setInputFiles({
		name: 's.csv',
		mimeType: 'text/csv',
		buffer: Buffer.from('code,title,period,disposition\nA,,P1Y,destroy\n')
	});
	await page.getByRole('button', { name: 'Import it' }).click();
	await expect(page.getByRole('alert')).toContainText('Line 2: A title is missing');
});

test('puts folders under a series, saying first what that makes due', async ({ page }) => {
	await visit(page, '/retain/folders');
	await page
		.getByRole('row', { name: /Accounts/ })
		.first()
		.focus();
	await page.keyboard.press(' ');
	await expect(change(page)).toContainText('1 selected folder');
	await change(page).getByRole('combobox', { name: 'set', exact: true }).selectOption('series');
	await change(page).getByRole('combobox', { name: 'Series' }).selectOption('FIN-01');
	await expect(page.getByTestId('tried')).toContainText('9 messages would become due at once, to be archived.');
	await page.getByRole('button', { name: 'Save' }).click();
	await expect(page.getByText('The change is saved.')).toBeVisible();
	await expect(page.getByRole('row', { name: /^Select Accounts / })).toContainText(
		'Mail here is due to be archived 2 years after it was received and destroyed 6 years after the end of that financial year (series FIN-01, set here). Due now: 8 messages are to be archived.'
	);
	await expect(page.getByRole('row', { name: /Drafts/ })).toContainText('set on Accounts');

	// by dragging: a folder onto a series
	const data = await page.evaluateHandle(() => new DataTransfer());
	await page.getByRole('row', { name: /Odds/ }).dispatchEvent('dragstart', { dataTransfer: data });
	const target = page.getByRole('complementary', { name: 'Where to drop' }).getByText('GEN-01', { exact: true });
	await target.dispatchEvent('dragover', { dataTransfer: data });
	await target.dispatchEvent('drop', { dataTransfer: data });
	await page.getByRole('row', { name: /Odds/ }).dispatchEvent('dragend', { dataTransfer: data });
	await expect(page.getByTestId('tried')).toContainText('1 message would become due at once, to be destroyed.');
	await page.getByRole('button', { name: 'Cancel' }).click();

	// a class wants no reason the first time, and one from then on
	await page.getByRole('checkbox', { name: 'Select Odds' }).uncheck();
	await page.getByRole('checkbox', { name: 'Select Accounts', exact: true }).check();
	await change(page).getByRole('combobox', { name: 'set', exact: true }).selectOption('class');
	await change(page).getByRole('combobox', { name: 'Class' }).selectOption('record');
	await page.getByRole('button', { name: 'Save' }).click();
	await expect(page.getByRole('row', { name: /^Select Accounts / })).toContainText('R record');
	await page.getByRole('checkbox', { name: 'Select Accounts/Drafts' }).check();
	await change(page).getByRole('combobox', { name: 'set', exact: true }).selectOption('class');
	await change(page).getByRole('combobox', { name: 'Class' }).selectOption('working');
	await expect(page.getByLabel('Reason, for the ledger')).toBeVisible();
	await page.getByRole('button', { name: 'Cancel' }).click();
});

test('adds a class of the office, gives it to a folder, and removes it when nothing uses it', async ({ page }) => {
	await visit(page, '/retain/schedule');
	const drawer = page.getByRole('dialog');
	const classes = page.getByRole('table', { name: 'Classes' });
	await expect(classes.getByRole('row')).toHaveCount(4);
	await page.getByRole('button', { name: 'New class' }).click();
	await drawer.getByLabel('Name').fill('Crew papers');
	await drawer.getByLabel('Letter').fill('R');
	await expect(drawer).toContainText('The letter R stands for “record” already.');
	await drawer.getByLabel('Letter').fill('C');
	await drawer.getByLabel('May weigh in each mailbox (MB)').fill('2.5');
	await drawer.getByRole('checkbox', { name: /Protected as records/ }).check();
	await drawer.getByRole('button', { name: 'Save' }).click();
	await expect(classes.getByRole('row', { name: /Crew papers/ })).toContainText('2.50 MB');
	await expect(classes.getByRole('row', { name: /Crew papers/ })).toContainText('as records');

	const setClass = async (name: string) => {
		await visit(page, '/retain/folders');
		await page.getByRole('checkbox', { name: 'Select Odds' }).check();
		await change(page).getByRole('combobox', { name: 'set', exact: true }).selectOption('class');
		await change(page).getByRole('combobox', { name: 'Class' }).selectOption(name);
		await expect(page.getByTestId('tried')).toContainText('No due date would change.');
		const reason = page.getByLabel('Reason, for the ledger');
		if (await reason.isVisible()) await reason.fill('only tried');
		await page.getByRole('button', { name: 'Save' }).click();
		await expect(page.getByText('The change is saved.')).toBeVisible();
	};
	await setClass('Crew papers');
	await expect(page.getByRole('row', { name: /^Select Odds / })).toContainText('C Crew papers');
	await visit(page, '/retain/schedule');
	await classes
		.getByRole('row', { name: /Crew papers/ })
		.getByRole('link')
		.click();
	await expect(page.getByTestId('total')).toContainText('message');
	await setClass('as inherited');
	await visit(page, '/retain/schedule');
	await classes.getByRole('button', { name: 'Crew papers' }).click();
	await drawer.getByRole('button', { name: 'Remove the class' }).click();
	await drawer.getByLabel('Reason for removing it').fill('only tried');
	await drawer.getByRole('button', { name: 'Remove the class', exact: true }).click();
	await expect(classes.getByRole('row')).toHaveCount(4);
});

test('shows what is due; every number opens, and what is selected there goes on a docket', async ({ page }) => {
	await visit(page, '/retain');
	await expect(page.getByTestId('due-now')).toContainText('Due now: 9 messages to be archived.');
	await page.getByRole('link', { name: '8 messages' }).click();
	await expect(page.getByTestId('total')).toContainText('8 messages');
	await expect(page.getByRole('row', { name: /Invoice 2017/ })).toContainText('R record, FIN-01');
	// nothing is selected beforehand
	await expect(page.getByRole('button', { name: '5 Keep' })).toBeDisabled();
	await page.getByRole('row', { name: /Invoice 2017/ }).focus();
	await page.keyboard.press(' ');
	await expect(page.getByTestId('selected')).toContainText('1 message');
	await page.keyboard.press('5');
	await expect(page.getByTestId('decided')).toContainText('Kept 1 message');
	await page.getByRole('button', { name: 'Take back' }).click();
	await expect(page.getByTestId('decided')).toHaveCount(0);
	await page.getByRole('checkbox', { name: 'Select the messages of this page' }).click();
	await expect(page.getByTestId('selected')).toContainText('8 messages');
	await page.keyboard.press('5');
	await expect(page.getByTestId('decided')).toContainText('Kept 8 messages');
	await page.getByRole('button', { name: 'Take back' }).click();
	await expect(page.getByTestId('decided')).toHaveCount(0);
});

test('runs: asks the first time, archives, then destroys with a certificate that the ledger knows', async ({
	page
}) => {
	await visit(page, '/retain/run');
	const section = page.getByRole('region', { name: `Scheduled run of ${OFFICE}` });
	await expect(section.getByTestId('would')).toContainText('archive 9 messages and destroy 0 messages');
	await section.getByRole('combobox', { name: 'Scheduled run', exact: true }).selectOption('do');
	await section.getByRole('button', { name: 'Switch on: 9 are due today' }).click();
	await expect(page.getByText(`The scheduled run of ${OFFICE} is set.`)).toBeVisible();
	await section.getByRole('button', { name: 'Run now' }).click();
	await section.getByRole('link', { name: /Retention: archive: 9 messages/ }).click();
	await carryOut(page);

	await visit(page, '/retain/run');
	await expect(section.getByTestId('would')).toContainText('archive 0 messages and destroy 3 messages');
	await section.getByRole('button', { name: 'Run now' }).click();
	await section.getByRole('link', { name: /Retention: destroy: 3 messages/ }).click();
	await expect(page.getByText('This cannot be undone')).toBeVisible();
	await slip(page).getByLabel('To destroy 3 messages for good, type the word: destroy').fill('destroy');
	await carryOut(page);
	await slip(page).getByRole('link', { name: 'Open the certificate' }).click();
	await page.waitForURL(/\/retain\/certificates\//);
	await expect(page.getByRole('heading', { name: 'Certificate of destruction' })).toBeVisible();
	// also where the server makes the whole page
	await page.reload();
	await expect(page.getByText('3 messages: Series FIN-01, version 2')).toBeVisible();
	await expect(page.getByTestId('genuine')).toContainText('The ledger has the same SHA-256');
	const [csv] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'As CSV' }).click()]);
	expect(
		readFileSync(await csv.path(), 'utf8')
			.trim()
			.split('\r\n')
	).toHaveLength(4);
	await page.getByRole('link', { name: 'Certificates' }).click();
	await expect(page.getByRole('row', { name: /of docket/ })).toContainText('3');

	await visit(page, '/retain/policy');
	await expect(
		page.getByText('Due mail is archived or destroyed automatically, once a person has carried out the first docket.')
	).toBeVisible();
});

test('does the same from the terminal', async () => {
	const file = path.join(files, 'schedule.csv');
	expect(terminal('schedule', 'export', '--out', file).status).toBe(0);
	expect(json('schedule', 'import', file)).toMatchObject({ same: 9 });
	const { due } = json<{ due: object[] }>('due', '--until', '2027-12-31', '--items');
	expect(due[0]).toMatchObject({
		disposition: 'destroy',
		series: 'FIN-01',
		mailbox: OFFICE,
		folder: 'Accounts',
		messages: 1
	});
	expect(terminal('retain', 'Odds', '--mailbox', OFFICE, '--period', 'P2Y', '--dry-run').stdout).toContain(
		'1 message would become due at once, to be destroyed.'
	);
	expect(json('retain', 'Odds', '--mailbox', OFFICE, '--period', 'P2Y')).toMatchObject({
		changes: [{ mailbox: OFFICE, dueAtOnce: [{ action: 'destroy', messages: 1 }] }]
	});
	expect(json('run-schedule', '--as-of', '2027-06-01', '--dry-run')).toMatchObject({
		asOf: '2027-06-01',
		destroyed: 3
	});
	// switched on and asked once: now it is done, and once, also where two runs overlap
	const run = () =>
		execFileAsync(process.execPath, [path.join('build', 'programs', 'kovrel.mjs'), 'run-schedule', '--json'], {
			env: { ...process.env, KOVREL_DATA: server.data, KOVREL_TIME_ZONE: 'UTC', ...environment }
		});
	const runs = (await Promise.all([run(), run()])).map(({ stdout }) => JSON.parse(stdout) as { destroyed: number });
	expect(runs.map(({ destroyed }) => destroyed).sort()).toEqual([0, 1]);
	const { certificates } = json<{ certificates: { docketId: number }[] }>('certificate');
	expect(certificates).toHaveLength(2);
	expect(json('certificate', String(certificates[1]?.docketId))).toMatchObject({ messages: 3, isGenuine: true });
	// the classes of the office
	expect(json('class', 'set', 'Crew papers', '--letter', 'C', '--quota', '5MB', '--protected')).toMatchObject({
		class: 'crew-papers',
		name: 'Crew papers',
		isProtected: true,
		quotaBytes: 5_000_000
	});
	expect(terminal('class', 'set', 'crew-papers', '--no-protected').stderr).toContain('These are records');
	expect(terminal('class', 'set', 'crew-papers', '--name', 'Seafarers').stdout).toContain('"Seafarers" was changed');
	expect(json('class', 'list')).toContainEqual(
		expect.objectContaining({ class: 'crew-papers', name: 'Seafarers', letter: 'C', places: 0, messages: 0 })
	);
	expect(json('mailbox', 'set', OFFICE, '--quota', 'crew-papers=1MB', '--working-quota', '2MB')).toMatchObject({
		workingQuotaBytes: 2_000_000,
		quotas: [
			{ class: 'working', quotaBytes: 2_000_000 },
			{ class: 'record' },
			{ class: 'crew-papers', quotaBytes: 1_000_000 }
		]
	});
	expect(terminal('mailbox', 'set', OFFICE, '--quota', 'crew-papers').status).toBe(2);
	expect(json('class', 'remove', 'crew-papers', '--because', 'only tried')).toEqual({ removed: 'crew-papers' });
	expect(terminal('retain', 'Odds', '--mailbox', OFFICE, '--period', '7 years').status).toBe(2);
	expect(terminal('verify').stdout).toContain('Certificates: as the ledger has them.');
});
