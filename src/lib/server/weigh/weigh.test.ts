import { afterAll, describe, expect, it } from 'vitest';
import { row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { Context } from '../context/context.ts';
import { prepareArchiving } from '../archive/prepare-archiving.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { setFolderArchiving } from '../folders/folders.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { setQuota } from '../mail/mailboxes.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { clearingOverview } from './clearing.ts';
import { compareMailboxes, mailboxFolders, setQuotaWarnings, weighMailbox } from './weigh.ts';
import { WEIGHED_BY } from './weighed-rows.ts';

afterAll(closeParsePool);

const FILE =
	'MIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nSee the plan.\n--b\nContent-Type: application/pdf; name="plan.pdf"\nContent-Disposition: attachment\n\nxx\n--b\nContent-Type: image/png; name="plan.png"\nContent-Disposition: attachment\n\nxx\n--b--\n';

/* Mail with everything that a weighing may stumble over: no sender, no date, dates that cannot be true, odd names. */
function mail(): string[] {
	const senders = [
		'Tove <tove@skerryline.example>',
		'tove@mail.skerryline.example',
		'"O\'Hara, Q" <q.o\'hara@quay.example>',
		'A <a+b@quay.example>',
		'nobody at all',
		'B <b@co.uk.example>'
	];
	const dates = [
		'Mon, 02 Mar 2020 10:00:00 +0000',
		'Thu, 31 Dec 2020 23:59:59 +0000',
		'Fri, 01 Jan 2021 00:00:00 +0000',
		'Mon, 14 Mar 102 09:12:00 +0000',
		'Tue, 24 Nov 2026 10:00:00 +0000',
		'Sat, 02 Jan 2038 10:00:00 +0000',
		'not a date'
	];
	return Array.from({ length: 84 }, (_, n) => {
		const size = [0, 900, 12_000, 110_000][n % 4] as number;
		let text = letter(`Letter ${n}`, dates[n % dates.length] as string, 'x'.repeat(size), senders[n % senders.length]);
		if (n % 5 === 0) text = `List-Id: "Harbour, Times" <times${n % 2}.quay.example>\n${text}`;
		if (n % 7 === 0) text = text.replace(/\n\n[\s\S]*$/, `\n${FILE}`);
		return `Status: ${n % 3 === 0 ? 'O' : 'RO'}\n${text}`;
	});
}

async function office(): Promise<Context> {
	const context = await openOffice();
	const all = mail();
	const folders: [string, string[]][] = [
		['Inbox', all.slice(0, 40)],
		['Vessels/MV Terne', all.slice(40, 60)],
		['Vessels', all.slice(60, 64)],
		['Sent', all.slice(64, 74)],
		['Trash', all.slice(74)]
	];
	for (const [folder, messages] of folders)
		await importMailbox(context, { path: mboxFile(messages), mailbox: 'Office', folder });
	await importMailbox(context, { path: mboxFile(all.slice(0, 9)), mailbox: 'Workshop' });
	return context;
}

/* What lies in some states, counted message by message. */
async function counted({ db }: Context, mailboxId: number, states: string[]) {
	const found = await rows<{ bytes: number; seen: number | null; state: string }>(
		db,
		sql`SELECT item.bytes, seen, state FROM item WHERE mailbox_id = ${mailboxId}`
	);
	const meant = found.filter(({ state }) => states.includes(state));
	return { messages: meant.length, bytes: meant.reduce((sum, { bytes }) => sum + bytes, 0) };
}

async function decided(context: Context, decision: 'archive' | 'delete', query: string): Promise<number> {
	const scope = { kind: 'query' as const, query, label: 'of a search' };
	const docket = await prepareDocket(context, { mailboxId: 1, lines: [{ decision, options: {}, scope }] });
	await carryOut(context, { id: docket.id });
	return docket.id;
}

describe('weighing a mailbox', () => {
	it.each(WEIGHED_BY)('by %s: the rows are the mailbox, and each leads to its messages and no others', async (by) => {
		const context = await office();
		await decided(context, 'archive', 'subject:"Letter 7"');
		const { rows: weighed, mailbox } = await weighMailbox(context, { mailboxId: 1, by });
		const whole = await counted(context, 1, ['live', 'binned']);
		expect({ messages: mailbox.messages, bytes: mailbox.bytes }).toEqual(whole);

		const sum = weighed.reduce((total, { messages }) => total + messages, 0);
		if (by === 'list') expect(sum).toBeLessThan(whole.messages);
		// a message with two kinds of attachments counts under both
		else if (by === 'attachment') expect(sum).toBeGreaterThanOrEqual(whole.messages);
		else expect(sum).toBe(whole.messages);

		for (const { label, query, messages, bytes } of weighed) {
			const found = await find(context, { query, mailbox: 1, states: ['live', 'binned'], limit: 1, offset: 0 });
			expect([label, query, found.total, found.bytes]).toEqual([label, query, messages, bytes]);
		}
	});

	it('by folder: each with what lies in it and below, which adds up to the whole', async () => {
		const context = await office();
		const { folders, mailbox } = await mailboxFolders(context, { mailboxId: 1, tree: 'mailbox' });
		const at = (path: string) => folders.find((folder) => folder.path === path);
		expect(at('Vessels')).toMatchObject({ messages: 4, messagesBelow: 24 });
		expect(at('Vessels/MV Terne')).toMatchObject({ messages: 20, messagesBelow: 20 });
		const tops = folders.filter(({ parentId }) => parentId === null);
		expect(tops.reduce((sum, { bytesBelow }) => sum + bytesBelow, 0)).toBe(mailbox.bytes);
	});

	it('names the largest messages, the largest first, and none under 100 kB', async () => {
		const context = await office();
		const { largest } = await weighMailbox(context, { mailboxId: 1 });
		const sizes = largest.map(({ bytes }) => bytes);
		expect(sizes).toEqual(sizes.toSorted((a, b) => b - a));
		expect(Math.min(...sizes)).toBeGreaterThanOrEqual(100_000);
	});

	it.each([[], ['Vessels'], ['Inbox']])(
		'advises what frees most first, and each gain is what a docket of it frees; never archived: %j',
		async (...never) => {
			const context = await office();
			for (const folder of never) await setFolderArchiving(context, { mailbox: 1, folder, neverArchived: true });
			const { suggestions } = await weighMailbox(context, { mailboxId: 1 });
			expect(suggestions.length).toBeGreaterThan(1);
			const gains = suggestions.map(({ bytes }) => bytes);
			expect(gains).toEqual(gains.toSorted((a, b) => b - a));
			for (const { wish, messages, bytes } of suggestions) {
				if (wish === 'empty-bin') continue;
				const docket = await prepareArchiving(context, { mailbox: 1, ...wish });
				expect([wish, docket.messages, docket.bytes]).toEqual([wish, messages, bytes]);
			}
		}
	);
});

describe('what was freed', () => {
	it('counts archived mail at once and binned mail not yet, and restoring takes it off again', async () => {
		const context = await office();
		const before = await clearingOverview(context, { mailboxId: 1 });
		expect(before.freed.total).toEqual({ messages: 0, bytes: 0 });

		const docket = await decided(context, 'archive', 'list:times');
		const archived = await counted(context, 1, ['archived']);
		const after = await clearingOverview(context, { mailboxId: 1 });
		expect(after.freed.total).toEqual(archived);
		expect(after.mailbox.bytes).toBe(before.mailbox.bytes - archived.bytes);

		await decided(context, 'delete', 'subject:"Letter 3"');
		expect((await clearingOverview(context, { mailboxId: 1 })).freed.total, 'the bin weighs').toEqual(archived);

		await takeBack(context, { id: docket });
		expect((await clearingOverview(context, { mailboxId: 1 })).freed.total).toEqual({ messages: 0, bytes: 0 });
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('says how far the finish line is: bytes over the quota, messages over the aim', async () => {
		const context = await office();
		const { bytes } = await counted(context, 1, ['live', 'binned']);
		const inbox = await row<{ n: number }>(
			context.db,
			sql`SELECT count(*) AS n FROM item JOIN folder ON folder.id = folder_id WHERE role = 'inbox' AND item.mailbox_id = 1 AND state = 'live'`
		);
		for (const [quotaBytes, over] of [
			[bytes, 0],
			[bytes - 1, 1],
			[bytes + 1, 0]
		] as const) {
			await setQuota(context, { mailbox: 'Office', bytes: quotaBytes });
			const { finish } = await clearingOverview(context, { mailboxId: 1 });
			expect([finish.over, finish.inbox.messages]).toEqual([over, inbox?.n]);
			expect(finish.reached).toBe(over === 0 && (inbox?.n ?? 0) <= finish.inbox.aim);
			expect(finish.next[0]?.bytes).toBeGreaterThan(0);
		}
	});
});

describe('mailboxes side by side', () => {
	it('begin with the one that is fullest against its quota, and each month is what it holds', async () => {
		const context = await office();
		await setQuota(context, { mailbox: 'Workshop', bytes: 1_000 });
		const { mailboxes: compared } = await compareMailboxes(context);
		expect(compared.map(({ name }) => name)).toEqual(['Workshop', 'Office']);
		for (const { id, months, messages } of compared) {
			const inDoubt = await row<{ n: number }>(
				context.db,
				sql`SELECT count(*) AS n FROM item WHERE mailbox_id = ${id} AND state IN ('live', 'binned') AND (date_in_doubt = 1 OR received_on IS NULL)`
			);
			expect(months.reduce((sum, month) => sum + month.messages, 0)).toBe(messages - (inDoubt?.n ?? 0));
		}
	});
});

describe('warnings of quotas', () => {
	it('stand at the shares and days that the office sets', async () => {
		const context = await office();
		const [{ id = 0, bytes = 0 } = {}] = (await compareMailboxes(context)).mailboxes.filter(
			({ name }) => name === 'Workshop'
		);
		await setQuota(context, { mailbox: 'Workshop', bytes: Math.ceil(bytes / 0.85) });
		const warned = async () => (await weighMailbox(context, { mailboxId: id })).warnings;
		expect(await warned()).toEqual([
			expect.stringMatching(/^This mailbox is 8[45]\s% full: .* The warning is set at 80\s%\.$/)
		]);
		expect(await setQuotaWarnings(context, { shares: '95, 90', days: 10 })).toEqual({ shares: [90, 95], days: 10 });
		expect(await warned()).toEqual([]);
		expect((await compareMailboxes(context)).limits).toEqual({ shares: [90, 95], days: 10 });
		await expect(setQuotaWarnings(context, { shares: '101', days: 10 })).rejects.toThrow('Nothing was changed');
	});
});
