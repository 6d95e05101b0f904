import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { type Asked, type DecisionButton } from '../src/core/docket/decision.ts';
import { type Decision, DECISIONS, ruleOf } from '../src/core/docket/decisions.ts';
import { kovrel, letter, mboxFile, slip, temporaryFolder, test, TestServer } from './server.ts';

/* Every decision there is, over 150 messages: drafted on the screen that offers it, asked what it has to be asked, carried out, and
   taken back, or refused to be. A decision that is added is in here by itself, or this does not compile. */

const MESSAGES = 150;
const OLD = 'Mon, 3 Feb 2020 10:00:00 +0000';
const OFFICE = 'Harbour office';
const environment = { KOVREL_NOW: '2026-11-25T12:00:00Z' };

let server: TestServer;

function terminal(...words: string[]): string {
	const { status, stdout, stderr } = kovrel({ data: server.data, environment }, ...words);
	expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
	return stdout;
}

/* Decides on a folder beforehand, so that there is something to undo or to go on from. */
function decided(decision: string, folder: string, ...words: string[]): void {
	const said = terminal('docket', 'new', decision, '--mailbox', OFFICE, '--folder', folder, '--json', ...words);
	terminal('docket', 'carry-out', String((JSON.parse(said) as { id: number }).id));
}
const BEFORE: Partial<Record<Decision, () => void>> = {
	restore: () => decided('archive', 'restore'),
	arrange: () => decided('archive', 'arrange'),
	destroy: () => decided('delete', 'destroy'),
	dispose: () => terminal('retain', 'dispose', '--mailbox', OFFICE, '--period', 'P1Y', '--disposition', 'destroy'),
	untag: () => decided('tag', 'untag', '--tag', 'Ramp'),
	unflag: () => decided('flag', 'unflag'),
	// what is imported from such a file is read
	read: () => decided('unread', 'read'),
	release: () => decided('keep', 'release'),
	'allow-archiving': () => decided('never-archive', 'allow-archiving'),
	unfold: () => decided('fold', 'unfold'),
	resume: () => decided('pause', 'resume', '--until', '2027-06-01', '--because', 'the season')
};

/* Mail of a list: 150 messages from one that says how to unsubscribe. */
const listMail = (name: string) =>
	Array.from({ length: MESSAGES }, (_, n) =>
		letter(`${name} ${n}`, OLD, 'News.', `${name} <news@${name}.example>`).replace(
			'\n\n',
			`\nList-Id: ${name} news <${name}.lists.example>\nList-Unsubscribe: <https://${name}.example/leave>\n\n`
		)
	);

test.beforeAll(async () => {
	server = await TestServer.start(undefined, environment);
	// a folder of files is imported as folders of those names
	const mail = temporaryFolder();
	for (const decision of DECISIONS) {
		const letters =
			ruleOf(decision).about === 'lists'
				? listMail(decision)
				: Array.from({ length: MESSAGES }, (_, n) => letter(`${decision} ${n}`, OLD));
		mboxFile(mail, letters, `${decision}.mbox`);
	}
	terminal('import', mail, '--mailbox', OFFICE);
	rmSync(mail, { recursive: true });
	for (const prepare of Object.values(BEFORE)) prepare();
});
test.afterAll(async () => {
	await server.remove();
});
test.describe.configure({ mode: 'serial' });

async function visit(page: Page, address: string) {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}

/* What a form asks, answered as a person would. */
const ANSWERS: Record<Asked, (page: Page) => Promise<void>> = {
	folder: (page) => page.getByLabel('Move to').fill('Elsewhere'),
	tag: (page) => page.getByLabel(/^(Tag with|Remove tag)/).fill('Ramp'),
	pause: async (page) => {
		await page.getByLabel('Not before').fill('2027-06-01');
		await page.getByLabel('because').fill('the season');
	},
	class: async (page) => {
		await page.getByLabel(/^Class/).selectOption('working papers');
		await page.getByLabel('because').fill('drafts');
	},
	period: async (page) => {
		await page.getByLabel('At the end').selectOption('destroy');
		await page.getByLabel(/how many$/).fill('3');
	},
	series: async (page) => void (await page.getByLabel('Series').selectOption('FIN-01'))
};

async function onSheet(page: Page, decision: Decision) {
	await visit(page, `/m/1/clear/lots?by=folder&q=${encodeURIComponent(`folder:"${decision}"`)}`);
	await page.locator('[id="lot-0"]').click();
	await expect(page.getByTestId('selected')).toContainText(`${MESSAGES} messages`);
	const { digit, buttons } = ruleOf(decision);
	const { label, asks } = buttons[0] as DecisionButton;
	if (digit === undefined) await page.getByRole('button', { name: 'More', exact: true }).click();
	const name = digit === undefined ? label : `${digit} ${label}`;
	await page.getByRole('group', { name: 'Decide' }).getByRole('button', { name, exact: true }).click();
	if (!asks) return;
	await ANSWERS[asks](page);
	await page.getByRole('button', { name: /: put on the docket$/ }).click();
}

const onLists = (key: string) => async (page: Page, decision: Decision) => {
	await visit(page, '/m/1/lists?all=1');
	await page
		.locator('tr[data-list]')
		.filter({ hasText: `${decision} news` })
		.focus();
	await page.keyboard.press(' ');
	await page.keyboard.press(key);
	// a stranger's: one that is asked all the same
	if (key === '1') await page.getByRole('button', { name: /nonetheless$/ }).click();
};

/* Where those are decided that are not on the sheet. */
const ELSEWHERE: Partial<Record<Decision, (page: Page, decision: Decision) => Promise<void>>> = {
	async restore(page) {
		await visit(page, '/m/1/archive?where=archived&q=folder%3Arestore');
		await page.getByRole('button', { name: `Select all ${MESSAGES}` }).click();
		await page.getByRole('button', { name: '9 Restore' }).click();
	},
	async arrange(page) {
		await visit(page, '/m/1/clear');
		await page.getByText(`How ${OFFICE} is archived`).click();
		const settings = page.locator('form[action="?/archiving"]');
		await settings.getByLabel('Level 1', { exact: true }).selectOption('year');
		await settings.getByRole('button', { name: /arranges the 300 messages/ }).click();
	},
	async destroy(page) {
		await visit(page, '/m/1/clear/bin');
		await page.getByRole('button', { name: 'Draft: empty the bin' }).click();
	},
	async dispose(page) {
		await visit(page, '/retain');
		await page
			.getByRole('row', { name: /dispose/ })
			.getByRole('link', { name: `${MESSAGES} messages` })
			.click();
		await page.getByRole('button', { name: `Select all ${MESSAGES}` }).click();
		await page.getByRole('button', { name: 'More', exact: true }).click();
		await page.getByRole('button', { name: 'Destroy', exact: true }).click();
		await page
			.getByTestId('decided')
			.getByRole('link', { name: /^Docket/ })
			.click();
	},
	unsubscribe: onLists('1'),
	block: onLists('2'),
	digest: onLists('3')
};

/* What was restored and taken back is archived again: the archive is arranged as a whole. */
const MEANT: Partial<Record<Decision, number>> = { arrange: 2 * MESSAGES };

for (const decision of DECISIONS)
	test(`${decision}: drafted, asked, carried out, and back again as far as it goes`, async ({ page }) => {
		const rule = ruleOf(decision);
		const messages = MEANT[decision] ?? MESSAGES;
		await (ELSEWHERE[decision] ?? onSheet)(page, decision);
		const state = page.getByTestId('docket-state');
		if (rule.about === 'messages') await expect(slip(page)).toContainText(`${messages} messages`);
		else await expect(slip(page)).toContainText(`1 list: ${decision} news`);
		const carryOut = slip(page).getByRole('button', { name: /^Carry out/ });
		if (rule.confirmation === 'typed') {
			await expect(carryOut).toBeDisabled();
			await expect(slip(page)).toContainText('This cannot be undone');
			await slip(page)
				.getByLabel(/the mailbox's name: Harbour office/)
				.fill(OFFICE);
		}
		await carryOut.click();
		await expect(state).toHaveText('carried out');
		const takeBack = slip(page).getByRole('button', { name: /^Take back/ });
		if (rule.takenBack === 'never') {
			await expect(takeBack).toHaveCount(0);
			await expect(slip(page)).toContainText('Destroyed mail cannot be restored.');
			return;
		}
		await takeBack.click();
		await expect(state).toHaveText('taken back');
		if (rule.about === 'messages') await expect(slip(page)).toContainText(`${messages} messages are as before`);
		await slip(page)
			.getByRole('button', { name: /^Dismiss/ })
			.click();
	});
