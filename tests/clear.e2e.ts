import { rmSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { discardDocket, kovrel, letter, mboxFile, slip, temporaryFolder, test, TestServer } from './server.ts';

const OLD = 'Mon, 3 Feb 2020 10:00:00 +0000';
const NEW = 'Tue, 3 Feb 2026 10:00:00 +0000';

let server: TestServer;
const files = temporaryFolder();

/* Thirty correspondents, one of whom writes a lot; a copy of one message in another folder. */
test.beforeAll(async () => {
	server = await TestServer.start();
	const many = Array.from({ length: 30 }, (_, n) =>
		letter(`Quay light ${n}`, n % 2 ? OLD : NEW, 'Words.', `P${n} <p${n}@org${n}.example>`)
	);
	const often = Array.from({ length: 12 }, (_, n) =>
		letter(`Bulletin ${n}`, OLD, 'Calm.', 'Tide <tide@bulletin.example>')
	);
	for (const [name, mail, folder] of [
		['mail.mbox', [...many, ...often], 'Inbox'],
		['copy.mbox', [many[4] as string], 'Vessels/MV Terne']
	] as const)
		expect(
			kovrel(server.data, 'import', mboxFile(files, [...mail], name), '--mailbox', 'Harbour office', '--folder', folder)
		).toMatchObject({ status: 0 });
});
test.afterAll(async () => {
	await server.remove();
	rmSync(files, { recursive: true });
});
test.describe.configure({ mode: 'serial' });

async function visit(page: Page, address: string) {
	await page.goto(server.url + address);
	await page.locator('html[data-ready]').waitFor();
}
const selected = (page: Page) => page.getByTestId('selected');
const carryOut = async (page: Page) => {
	await slip(page)
		.getByRole('button', { name: /^Carry out/ })
		.click();
	await expect(page.getByTestId('docket-state')).toHaveText('carried out');
};

test('chooses lots from the keyboard alone: rows, ranges, all that match; decides by a digit', async ({ page }) => {
	await visit(page, '/m/1/clear/lots?sort=label');
	await expect(page.getByTestId('sheet-total')).toContainText('31 lots, 43 messages');
	// a click leaves the keys with the sheet, however far it is scrolled then
	await page.getByRole('row', { name: /bulletin\.example/ }).click();
	await page.keyboard.press('End');
	await expect(page.getByRole('row', { name: /org9\.example/ })).toBeVisible();
	await expect(page.getByRole('grid')).toBeFocused();
	await page.keyboard.press('Home');
	await page.keyboard.press('Space');
	await page.keyboard.press('Space');
	await expect(selected(page)).toContainText('1 lot, 12 messages');
	await page.keyboard.press('ArrowDown');
	await page.keyboard.press('Space');
	await page.keyboard.press('Shift+ArrowDown');
	await page.keyboard.press('Shift+ArrowDown');
	await expect(selected(page)).toContainText('4 lots, 15 messages');
	await page.keyboard.press('Control+a');
	await expect(selected(page)).toContainText('31 lots, 43 messages');
	await page.keyboard.press('Home');
	await page.keyboard.press('Space');
	await expect(selected(page)).toContainText('30 lots, 31 messages');
	await page.keyboard.press('Escape');
	await page.keyboard.press('End');
	await expect(page.locator('[id="lot-30"]')).toBeVisible();
	await page.keyboard.press('Home');
	await page.keyboard.press('Space');
	await page.keyboard.press('2');
	await expect(slip(page)).toContainText('Delete 12 messages from bulletin.example');
	await expect(slip(page)).toContainText('Deleting takes them out of every tag and view.');
	await expect(selected(page)).toContainText('Select rows');
	// the keys are where they were
	await page.keyboard.press('ArrowDown');
	await page.keyboard.press('Space');
	await expect(selected(page)).toContainText('1 lot, 1 message');
});

test('collects a second decision; what both claim is said, and what keeps more wins', async ({ page }) => {
	await visit(page, '/m/1/clear/lots?by=year');
	await page.getByRole('row', { name: /2020/ }).click();
	await page.getByRole('button', { name: '1 Archive' }).click();
	await expect(slip(page)).toContainText('Archive 27 messages received in 2020');
	await expect(slip(page)).toContainText(
		'12 messages are claimed by lines 1 and 2: line 2 decides, as to archive keeps more than to delete.'
	);
	await slip(page)
		.getByRole('button', { name: /^Discard line 2/ })
		.click();
	await expect(slip(page)).not.toContainText('claimed by');
	await slip(page).getByRole('link', { name: 'Details, folder by folder' }).click();
	await page.getByText('Line 1, message by message:').click();
	await expect(page.getByRole('button', { name: 'Bulletin 3', exact: true })).toBeVisible();
	await page.getByLabel('Name of the docket').fill('Bulletins');
	await page.getByRole('button', { name: 'Save the name' }).click();
	await expect(slip(page)).toContainText('Bulletins');
	await visit(page, '/m/1/clear/lots?by=year');
	await carryOut(page);
	await expect(page.getByTestId('sheet-total')).toContainText('31 messages');
	await expect(page.getByRole('link', { name: /^Clear/ })).toContainText('12 in the bin');
});

test('filters, opens a lot, leaves one of its messages out, and takes back what was done', async ({ page }) => {
	await visit(page, '/m/1/clear/lots?by=folder');
	await page.getByLabel('Older than').selectOption({ label: '12 months' });
	await expect(page.getByTestId('sheet-total')).toContainText('1 lot, 15 messages');
	await page.getByRole('link', { name: 'Open Inbox' }).click();
	await expect(page.getByRole('heading', { name: 'Inbox', level: 1 })).toBeVisible();
	await expect(page.getByTestId('total')).toContainText('15 messages');
	await page.getByRole('checkbox', { name: 'Select the messages of this page' }).click();
	await page.getByRole('checkbox', { name: 'Select Quay light 1', exact: true }).click();
	await expect(selected(page)).toContainText('14 messages');
	await page.keyboard.press('4');
	await expect(page.getByLabel('Tag with')).toBeFocused();
	await page.getByRole('button', { name: 'Not now' }).click();
	await page.getByRole('button', { name: '3 Move …' }).click();
	await page.getByLabel('Move to').fill('vessels/mv TERNE');
	await page.getByRole('button', { name: 'Move 14 messages', exact: true }).click();
	// the folder is there: it is named as it is written
	await expect(page.getByTestId('decided')).toContainText('Moved 14 messages to Vessels/MV Terne');
	await expect(page.getByTestId('total')).toContainText('1 message');
	await page.getByTestId('decided').getByRole('button', { name: 'Take back' }).click();
	await expect(page.getByTestId('total')).toContainText('15 messages');
	await visit(page, '/m/1/clear/folders');
	// found whatever the case: not a second folder
	await expect(page.getByRole('row', { name: /MV Terne/i })).toHaveCount(1);
});

test('what is selected while a decision is on its way is for the next one; what could not be decided on is selected again', async ({
	page
}) => {
	await visit(page, '/m/1/clear/lots?sort=label');
	let goOn = () => {};
	const held = new Promise<void>((resolve) => (goOn = resolve));
	// one route for all: between two, a request could pass by both
	const answers = [held.then(() => 'continue' as const), 'abort', 'continue'] as const;
	let sent = 0;
	await page.route(/decide/, async (route) => route[(await answers[sent++]) ?? 'continue']());
	await page.getByRole('row', { name: /org0\.example/ }).click();
	await page.keyboard.press('7');
	await expect(selected(page)).toContainText('Select rows');
	await page.getByRole('row', { name: /org10\.example/ }).click();
	goOn();
	await expect(slip(page)).toContainText('Flag 1 message from org0.example');
	await expect(selected(page)).toContainText('1 lot, 1 message');
	await page.keyboard.press('7');
	await expect(page.getByRole('alert')).toContainText('The server did not answer');
	await expect(selected(page)).toContainText('1 lot, 1 message');
	await page.keyboard.press('7');
	await expect(slip(page)).toContainText('Flag 1 message from org10.example');
	await expect(page.getByRole('alert')).toHaveCount(0);
	await discardDocket(page);
});

test('tags, keeps and pauses; what is kept or paused stays, unless a line names it', async ({ page }) => {
	await visit(page, '/m/1/clear/lots?sort=label');
	await page.getByRole('row', { name: /org0\.example/ }).click();
	await page.getByRole('button', { name: '4 Tag …' }).click();
	await page.getByLabel('Tag with').fill('Vessels/MV Skarv');
	await page.getByRole('button', { name: 'Tag 1 message: put on the docket' }).click();
	await page.getByRole('row', { name: /org0\.example/ }).click();
	await page.getByRole('button', { name: '5 Keep' }).click();
	await page.getByRole('row', { name: /org10\.example/ }).click();
	await page.getByRole('button', { name: '6 Pause …' }).click();
	await page.getByLabel('Not before').fill('2090-01-01');
	await page.getByLabel('because').fill('the claim runs');
	await page.getByRole('button', { name: 'Pause 1 message: put on the docket' }).click();
	await expect(slip(page)).toContainText('not to be deleted before 1 Jan 2090, because the claim runs');
	await carryOut(page);
	await page.getByRole('button', { name: /^Select all/ }).click();
	await page.getByRole('button', { name: '2 Delete' }).click();
	await expect(slip(page)).toContainText('1 message stays: kept.');
	await expect(slip(page)).toContainText('1 message stays: under a pause.');
	await slip(page).getByRole('button', { name: 'Include kept mail' }).click();
	await expect(slip(page)).toContainText('Delete 1 kept message');
	// two lines now, and each says what it frees
	await expect(slip(page).getByText(/free once the bin is empty/)).toHaveCount(2);
	await discardDocket(page);
	await visit(page, '/m/1/clear/tags');
	await expect(page.getByRole('row', { name: /MV Skarv/ })).toContainText('1');
	await page.getByLabel(/^New name of Vessels\/MV Skarv/).fill('Vessels/Skarv');
	await page.getByRole('button', { name: 'Rename' }).click();
	await page.getByRole('link', { name: 'Messages tagged Vessels/Skarv' }).click();
	await expect(page.getByTestId('total')).toHaveText('1 message found');
});

test('looks for what is safe to clear, shows why, compares, and deletes what was selected', async ({ page }) => {
	await visit(page, '/m/1/clear/proposals');
	await page.getByRole('button', { name: 'Look through the mailbox' }).click();
	await page.getByRole('link', { name: 'Exact duplicates' }).click();
	await expect(page.getByText('also in Vessels/MV Terne, a folder made for it')).toBeVisible();
	// nothing is selected beforehand
	await expect(page.getByRole('button', { name: '2 Delete' })).toBeDisabled();
	await page.getByRole('button', { name: 'compare the two' }).click();
	await expect(page.getByRole('dialog').getByText('Stays: Quay light 4')).toBeVisible();
	await page.keyboard.press('Escape');
	await page.getByRole('checkbox', { name: 'Select Quay light 4' }).click();
	await page.getByRole('button', { name: '2 Delete' }).click();
	await expect(page.getByTestId('decided')).toContainText('Deleted 1 message');
	await expect(page.getByTestId('decided')).toContainText('1 of them lies in another place as well, and stays there.');
	await expect(page.getByText('No message of this proposal is left.')).toBeVisible();
});

test('searches a keep-list in one go and keeps what it finds', async ({ page }) => {
	await visit(page, '/m/1/clear/keep-list');
	await page.getByLabel('The list').fill('Quay light 6\nslipway claim');
	await page.getByRole('button', { name: 'Search every line' }).click();
	await expect(page.getByRole('row', { name: /^Quay light 6/ })).toContainText('1');
	await expect(page.getByRole('row', { name: /^slipway claim/ })).toContainText('nothing found');
	await page.getByLabel('and to new mail').check();
	await page.getByRole('button', { name: 'Put 1 message on the docket' }).click();
	await expect(slip(page)).toContainText('Keep 1 message found by 2 lines of the keep-list');
	await expect(page.getByRole('button', { name: 'Stop applying slipway claim' })).toBeVisible();
	await discardDocket(page);
});

test('makes, renames and pauses folders; dropping one on a tag only tags, and says so before', async ({ page }) => {
	await visit(page, '/m/1/clear/folders');
	await page.getByLabel('A new folder, with its path').fill('Contracts/2026');
	await page.getByRole('button', { name: 'Create it' }).click();
	await page.getByRole('row', { name: /^2026/ }).click();
	await page.getByLabel('Name, or another path').fill('Contracts/This year');
	await page.getByRole('button', { name: 'Rename or move' }).click();
	await expect(page.getByRole('row', { name: /^This year/ })).toBeVisible();
	await page.getByRole('row', { name: /^MV Terne/ }).click();
	await page.getByLabel('Not to be deleted before').fill('2090-01-01');
	await page.getByLabel('because').fill('the claim runs');
	await page.getByRole('button', { name: 'Pause', exact: true }).click();
	await expect(page.getByRole('row', { name: /^MV Terne/ })).toContainText('paused to 1 Jan 2090');

	const tag = page.getByRole('listitem').filter({ hasText: 'Vessels/Skarv' });
	const dragged = page.getByRole('row', { name: /^MV Terne/ });
	await dragged.hover();
	await page.mouse.down();
	await tag.hover();
	await tag.hover();
	await expect(page.getByText('are tagged “Vessels/Skarv”. They stay where they are.')).toBeVisible();
	await page.mouse.up();
	await expect(slip(page)).toContainText('Put the tag “Vessels/Skarv” on 1 message');
	const target = page.getByRole('row', { name: /^Inbox/ });
	await page.getByRole('row', { name: /^MV Terne/ }).hover();
	await page.mouse.down();
	await target.hover();
	await target.hover();
	await expect(page.getByText('move into Inbox.')).toBeVisible();
	await page.mouse.up();
	await expect(slip(page)).toContainText('Move 1 message');
	await discardDocket(page);
});

test('renames, divides and merges folders of the archive; what lies there still goes back to where it came from', async ({
	page
}) => {
	await visit(page, '/m/1/clear/folders');
	await page.getByRole('row', { name: /^MV Terne/ }).click();
	await page.getByRole('button', { name: 'Draft: archive it whole' }).click();
	await carryOut(page);
	await page.getByRole('link', { name: 'of the archive' }).click();
	await expect(page.getByText('follow the folder that the mail came from')).toBeVisible();
	await expect(page.getByRole('button', { name: 'Create it' })).toHaveCount(0);
	await page.getByRole('row', { name: /^MV Terne/ }).focus();
	await page.keyboard.press('Space');
	await page.getByLabel('Name, or another path').fill('Ships/Terne');
	await page.getByRole('button', { name: 'Rename or move' }).click();
	// it stays selected under its new name
	await expect(page.getByRole('heading', { name: 'Ships/Terne' })).toBeVisible();
	await page.getByRole('button', { name: 'Draft: a folder per year' }).click();
	await expect(slip(page)).toContainText('within the archive to Ships/Terne/2026');
	await carryOut(page);
	await page.getByRole('row', { name: /^2026/ }).click();
	await page.getByLabel('Merge into (or a new folder)').fill('Sold vessels');
	await page.getByRole('button', { name: 'Draft: move 1 message' }).click();
	await carryOut(page);
	await page.getByRole('row', { name: /^Sold vessels/ }).click();
	await page.getByRole('link', { name: 'Open its mail, or restore it' }).click();
	await page.getByRole('checkbox', { name: /^Select Quay light 4/ }).click();
	await page.getByRole('button', { name: '9 Restore' }).click();
	await expect(page.getByTestId('decided')).toContainText('Restored 1 message');
	await visit(page, '/m/1/clear/folders');
	await expect(page.getByRole('row', { name: /^MV Terne/ })).toContainText('1');
	await page.getByRole('link', { name: 'of the archive' }).click();
	await expect(page.getByText('Nothing is archived yet')).toBeVisible();
});

test('empties the bin by a docket of its own, once the name is typed, and leaves a certificate', async ({ page }) => {
	await visit(page, '/m/1/clear/bin');
	await expect(page.getByTestId('bin-total')).toContainText('13 messages');
	await page.getByRole('checkbox', { name: 'Select Bulletin 3', exact: true }).click();
	await page.getByRole('button', { name: '9 Restore' }).click();
	await expect(page.getByTestId('decided')).toContainText('Restored 1 message to where it came from');
	await expect(page.getByTestId('bin-total')).toContainText('12 messages');
	await page.getByText('Settings of the bin').click();
	await page.getByLabel(/^Destroying more than/).fill('5');
	await page.getByRole('button', { name: 'Save' }).click();
	await expect(page.getByText('Saved.')).toBeVisible();
	await page.getByRole('button', { name: 'Draft: empty the bin' }).click();
	await expect(slip(page)).toContainText('This cannot be undone');
	const go = slip(page).getByRole('button', { name: 'Carry out: destroy 12 messages' });
	await expect(go).toBeDisabled();
	await slip(page)
		.getByLabel(/the mailbox's name: Harbour office/)
		.fill('harbour office');
	await go.click();
	await expect(page.getByTestId('docket-state')).toHaveText('carried out');
	await slip(page).getByRole('link', { name: 'Open the certificate' }).click();
	await expect(page.getByRole('heading', { name: /^Certificate of destruction/ })).toBeVisible();
	await expect(page.getByRole('row', { name: /gone$/ })).toHaveCount(11);
	// the duplicate that was deleted: its bytes lie in a folder still
	await expect(page.getByRole('row', { name: /still needed by another message$/ })).toHaveCount(1);
	await visit(page, '/m/1/clear/bin');
	await expect(page.getByText('The bin is empty.')).toBeVisible();
});

test('drags lots onto a tag and a folder, and a message of an opened lot; says first what letting go does', async ({
	page
}) => {
	await visit(page, '/m/1/clear/lots?sort=label');
	const rail = page.getByRole('complementary', { name: 'Where to drop' });
	const drag = async (from: ReturnType<Page['locator']>, to: string, says: string) => {
		await from.hover();
		await page.mouse.down();
		await page.mouse.move(600, 500);
		await rail.getByRole('listitem').filter({ hasText: to }).hover();
		await rail.getByRole('listitem').filter({ hasText: to }).hover();
		await expect(rail.getByRole('status')).toContainText(says);
		await page.mouse.up();
	};
	await drag(
		page.getByRole('row', { name: /org14\.example/ }),
		'Vessels/Skarv',
		'put the tag “Vessels/Skarv” on 1 message. It stays in place.'
	);
	await expect(slip(page)).toContainText('Put the tag “Vessels/Skarv” on 1 message from org14.example');
	await drag(
		page.getByRole('row', { name: /org14\.example/ }),
		'Contracts/This year',
		'move 1 message to Contracts/This year.'
	);
	await expect(slip(page)).toContainText('Move 1 message from org14.example to Contracts/This year');
	await discardDocket(page);
	await page.getByRole('link', { name: 'Open org16.example' }).click();
	await drag(page.getByRole('row', { name: /Quay light 16/ }), 'Contracts/This year', 'Let go to move 1 message');
	await expect(page.getByTestId('decided')).toContainText('Moved 1 message to Contracts/This year');
	await page.getByTestId('decided').getByRole('button', { name: 'Take back' }).click();
	await expect(page.getByTestId('total')).toContainText('1 message');
});

test('shows the finish line, lets one aim at another number, and what was freed', async ({ page }) => {
	await visit(page, '/m/1/clear');
	await expect(page.getByTestId('finish-line')).toContainText('in the inbox');
	await page.getByRole('button', { name: 'Aim at another number' }).click();
	await page.getByLabel(/^At most/).fill('100');
	await page.getByRole('button', { name: 'Set', exact: true }).click();
	await expect(page.getByTestId('finish-line')).toContainText('Reached:');
	await expect(page.getByRole('heading', { name: /^Freed so far/ })).toBeVisible();
});

test('decides on lots over all mailboxes', async ({ page }) => {
	await visit(page, '/lots?by=organisation');
	await page.getByRole('row', { name: /org12\.example/ }).click();
	await page.getByRole('button', { name: '1 Archive' }).click();
	await page.getByRole('link', { name: 'Harbour office' }).click();
	await expect(slip(page)).toContainText('Archive 1 message from org12.example');
});

test('holds mail against whatever would delete it, until the hold is released with a reason', async ({ page }) => {
	await visit(page, '/retain/holds');
	await expect(page.getByText('Nothing is held.')).toBeVisible();
	await page.getByLabel('Name', { exact: true }).fill('Quay claim');
	await page.getByLabel('Why', { exact: true }).fill('the claim runs');
	await page.getByLabel('Requested by').fill('Counsel');
	await page.getByLabel('Written by or to').fill('org3.example');
	await page.getByRole('button', { name: 'Preview' }).click();
	await expect(page.getByTestId('covers')).toContainText('Everything in all mailboxes, with org3.example');
	await expect(page.getByTestId('covers')).toContainText('1 message');
	await page.getByRole('button', { name: 'Place the hold' }).click();
	await expect(page.getByRole('row', { name: /Quay claim/ })).toContainText('1 message');
	await expect(page.getByRole('link', { name: /^Retain/ })).toContainText('1 hold');
	// it says so where it stands in the way, and nothing takes it in
	await visit(page, '/m/1/clear/lots?by=organisation&q=from%3Aorg3');
	await page.getByRole('row', { name: /org3\.example/ }).click();
	await page.getByRole('button', { name: '2 Delete' }).click();
	await expect(slip(page)).toContainText('1 message is under the hold “Quay claim” and stays.');
	await discardDocket(page);
	await visit(page, '/m/1/archive?q=held');
	await page.locator('tbody button.lead').first().click();
	await expect(page.getByRole('dialog').getByText('Quay claim')).toBeVisible();
	await page.keyboard.press('Escape');
	await visit(page, '/retain/holds');
	await page.getByRole('button', { name: 'Release Quay claim' }).click();
	await page.getByLabel('Why it is released').fill('settled');
	await page.getByRole('button', { name: 'Release', exact: true }).click();
	await expect(page.getByText('are no longer under it')).toBeVisible();
	await page.getByText('Released', { exact: true }).click();
	await expect(page.getByRole('row', { name: /Quay claim/ })).toContainText('settled');
});

test('says line by line what stays where two cutoff dates are drafted', async ({ page }) => {
	const errors: Error[] = [];
	page.on('pageerror', (error) => errors.push(error));
	await visit(page, '/m/1/clear');
	const stays = page.getByRole('heading', { name: 'What stays, and why' }).locator('..');
	for (const [date, folder] of [
		['1 Jan 2025', ''],
		['1 Jan 2024', 'Inbox']
	] as const) {
		await page.getByLabel('Received before').fill(date);
		await page.locator('select[name=folder]').selectOption(folder);
		await page.getByRole('button', { name: 'Count it, and draft a docket' }).click();
		await expect(stays.getByText(/stays?: received on or after the cutoff date\./)).toHaveCount(folder === '' ? 1 : 2);
	}
	await expect(stays.getByText(/from Inbox received before 1 Jan 2024/)).toBeVisible();
	expect(errors).toEqual([]);
	await discardDocket(page);
});
