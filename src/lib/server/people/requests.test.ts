import { afterAll, describe, expect, it } from 'vitest';
import { actingAs, type Context } from '../context/context.ts';
import { findPerson } from '../access/people-store.ts';
import { find } from '../find/find.ts';
import { readMessage } from '../find/read-message.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/parse-pool.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { addPerson, grant, revoke } from './people.ts';
import { makeRequest, myRequests } from './requests.ts';

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
});
