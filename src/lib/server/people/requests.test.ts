import { afterAll, describe, expect, it } from 'vitest';
import { actingAs, type Context } from '../context/context.ts';
import { findPerson } from '../access/people-store.ts';
import { find } from '../find/find.ts';
import { readMessage } from '../find/read-message.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { addPerson, grant, revoke } from './people.ts';
import { answerRequest, listRequests, makeRequest, myRequests } from './requests.ts';

afterAll(closeParsePool);

/* Invariant 20: nobody learns from counts or lists what they may not read. */
describe('a colleague', () => {
	/* The same letter in two mailboxes, of which a colleague may find one. */
	async function office(): Promise<{ admin: Context; colleague: Context; grantId: number; id: number }> {
		const admin = await openOffice();
		const same = letter('Slipway claim', 'Mon, 3 Feb 2020 10:00:00 +0000', 'About the slipway.');
		for (const mailbox of ['Office', 'Legal'])
			await importMailbox(admin, { path: mboxFile([same]), mailbox, folder: 'Claims' });
		await addPerson(admin, { name: 'Maren', address: 'maren@skerryline.example', role: 'colleague' });
		const personId = (await findPerson(admin.db, 'Maren'))?.id as number;
		const { id: grantId } = await grant(admin, { to: 'Maren', mailbox: 'Office', find: true, restore: false });
		const colleague = actingAs(admin, { personId, name: 'Maren', role: 'colleague' });
		const [hit] = (await find(colleague, { query: 'slipway', limit: 5 })).hits;
		return { admin, colleague, grantId, id: hit?.id as number };
	}

	it('learns of no place of a message that is not theirs to see', async () => {
		const { admin, colleague, id } = await office();
		expect((await readMessage(colleague, { id })).elsewhere).toBe(0);
		expect((await readMessage(admin, { id })).elsewhere).toBe(1);
		await grant(admin, { to: 'Maren', mailbox: 'Legal', find: true, restore: false });
		expect((await readMessage(colleague, { id })).elsewhere).toBe(1);
	});

	it('does not read the subjects of what they asked for once they may not find it any more', async () => {
		const { admin, colleague, grantId, id } = await office();
		await makeRequest(colleague, { ids: [id], because: 'for the insurer' });
		const items = async () => (await myRequests(colleague))[0]?.items[0];
		expect(await items()).toMatchObject({ subject: 'Slipway claim', folder: 'Claims' });
		await revoke(admin, { id: grantId });
		const seen = JSON.stringify(await myRequests(colleague));
		expect(seen).not.toMatch(/Slipway|sender@|Claims/);
		expect(await items()).toMatchObject({ subject: 'You may not see this message any more', folder: '' });
	});

	it('gets the same order whatever is in mail that is not theirs to see', async () => {
		const { admin, colleague } = await office();
		const three = ['berth berth kelp', 'kelp kelp berth', 'berth kelp'].map((words, n) =>
			letter(`Note ${n}`, `Tue, ${4 + n} Feb 2020 10:00:00 +0000`, words)
		);
		await importMailbox(admin, { path: mboxFile(three), mailbox: 'Office', folder: 'Notes' });
		const order = async (query = 'berth kelp') =>
			(await find(colleague, { query, limit: 9, sort: 'relevance' })).hits.map(({ subject }) => subject);
		const before = await order();
		expect(before).toHaveLength(3);
		const many = Array.from({ length: 60 }, (_, n) =>
			letter(`Other ${n}`, 'Mon, 3 Feb 2020 10:00:00 +0000', `kelp number ${n}`)
		);
		await importMailbox(admin, { path: mboxFile(many), mailbox: 'Legal', folder: 'Notes' });
		expect(await order()).toEqual(before);
		// subjects come before names, and names before text; then the newest
		await importMailbox(admin, {
			path: mboxFile([
				letter('Kelp', 'Mon, 3 Feb 2003 10:00:00 +0000', 'x'),
				letter('Y', 'Mon, 3 Feb 2003 10:00:00 +0000', 'x', 'Kelp <kelp@skerryline.example>')
			]),
			mailbox: 'Office',
			folder: 'Notes'
		});
		expect(await order('kelp')).toEqual(['Kelp', 'Y', ...before]);
	});

	it('does not learn from asking whether there is a folder', async () => {
		const { admin, colleague } = await office();
		const seen: string[] = [];
		for (const folder of ['claims', 'nowhere']) {
			const [id = 0] = await makeRequest(colleague, { mailbox: 'Legal', folder, because: 'for the insurer' });
			const mine = (await myRequests(colleague)).find((request) => request.id === id);
			seen.push(JSON.stringify({ ...mine, id: 0 }).replaceAll(folder, 'FOLDER'));
		}
		expect(seen[0]).toBe(seen[1]);
		const { open } = await listRequests(admin);
		expect(open.map(({ folder }) => folder)).toEqual(['Claims', 'nowhere']);
		await expect(answerRequest(admin, { id: open[1]?.id as number, word: '' })).rejects.toThrow(/nowhere/);
		await answerRequest(admin, { id: open[0]?.id as number, word: '' });
	});
});
