import { afterAll, describe, expect, it } from 'vitest';
import fc from 'fast-check';
import type { HoldScope } from '../../../core/retention/holds.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { Context } from '../context/context.ts';
import { carryOut } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { addHold, heldBy, holdsOfItem, holdWeights, listHolds, putHoldRelease, refreshHolds } from './holds-store.ts';

afterAll(closeParsePool);

/* Every message is written down here as a person would describe it; the store knows only its bytes. */
interface Described {
	mailbox: string;
	folder: string;
	from: string;
	to: string;
	day: string;
	isDateCertain: boolean;
	word: string;
	isTagged: boolean;
}

const MAILBOXES = ['Office', 'Workshop'];
const FOLDERS = ['Complaints', 'Complaints/2022', 'Complaintsbook', 'Inbox'];
const ADDRESSES = [
	'anna@slipworks.example',
	'emre@mail.slipworks.example',
	'kai@notslipworks.example',
	'tove@skerryline.example',
	'xanna@slipworks.example'
];
const DAYS = ['2019-12-31', '2020-01-01', '2021-06-15', '2022-01-01'];
const WORDS = ['ramp', 'gangway', 'winch'];

function described(): Described[] {
	const all: Described[] = [];
	for (const mailbox of MAILBOXES)
		for (const folder of FOLDERS)
			for (const [n, from] of ADDRESSES.entries())
				for (const [at, day] of DAYS.entries())
					all.push({
						mailbox,
						folder,
						from,
						to: ADDRESSES[(n + at + 1) % ADDRESSES.length] as string,
						day,
						isDateCertain: (n + at) % 7 !== 0,
						word: WORDS[(n * at) % WORDS.length] as string,
						isTagged: (n + 2 * at) % 3 === 0
					});
	return all;
}

const MESSAGES = described();
const subjectOf = (n: number) => `Letter ${n}`;

function bytes({ from, to, day, isDateCertain, word }: Described, n: number): string {
	// RFC 5322 asks for four digits of a year; three are an old clock's and cannot be true
	const date = isDateCertain
		? new Date(`${day}T10:00:00Z`).toUTCString().replace('GMT', '+0000')
		: 'Mon, 14 Mar 102 09:12:00 +0000';
	return letter(subjectOf(n), date, `About the ${word}.`, from).replace(/^To: .*$/m, `To: ${to}`);
}

async function office(): Promise<Context> {
	const context = await openOffice();
	for (const mailbox of MAILBOXES)
		for (const folder of FOLDERS) {
			const here = MESSAGES.map((message, n) => ({ message, n })).filter(
				({ message }) => message.mailbox === mailbox && message.folder === folder
			);
			await importMailbox(context, {
				path: mboxFile(here.map(({ message, n }) => bytes(message, n))),
				mailbox,
				folder
			});
		}
	for (const [at] of MAILBOXES.entries()) {
		const ids = await numbersOf(context, ({ mailbox, isTagged }) => isTagged && mailbox === MAILBOXES[at]);
		const line = { decision: 'tag' as const, options: { tag: 'Claim' }, scope: { kind: 'items' as const, ids } };
		const docket = await prepareDocket(context, { mailboxId: at + 1, lines: [line] });
		await carryOut(context, { id: docket.id });
	}
	return context;
}

async function numbersOf({ db }: Context, isMeant: (message: Described) => boolean): Promise<number[]> {
	const found = await rows<{ id: number; subject: string }>(
		db,
		sql`SELECT item.id, subject FROM item JOIN message ON message.id = item.message_id ORDER BY item.id`
	);
	return found.filter(({ subject }) => isMeant(MESSAGES[Number(subject.slice(7))] as Described)).map(({ id }) => id);
}

/* The rule in words of its own: every part that is given has to be true. */
function isCovered(message: Described, scope: HoldScope & { folder?: string | undefined }): boolean {
	const { mailboxId, folder, correspondent, tag, since, before, query } = scope;
	const domainOf = (address: string) => address.split('@')[1] as string;
	const isFrom = (address: string) =>
		correspondent?.includes('@')
			? address === correspondent
			: domainOf(address) === correspondent || domainOf(address).endsWith(`.${correspondent}`);
	return (
		(mailboxId === undefined || message.mailbox === MAILBOXES[mailboxId - 1]) &&
		(folder === undefined || message.folder === folder || message.folder.startsWith(`${folder}/`)) &&
		(correspondent === undefined || isFrom(message.from) || isFrom(message.to)) &&
		(tag === undefined || message.isTagged) &&
		(since === undefined || !message.isDateCertain || message.day >= since) &&
		(before === undefined || !message.isDateCertain || message.day < before) &&
		(query === undefined || message.word === query)
	);
}

const scopes = fc.record(
	{
		mailboxId: fc.constantFrom(1, 2),
		folder: fc.constantFrom(...FOLDERS),
		correspondent: fc.constantFrom(
			...ADDRESSES,
			'slipworks.example',
			'mail.slipworks.example',
			'example',
			'works.example'
		),
		tag: fc.constantFrom('Claim', 'claim'),
		since: fc.constantFrom(...DAYS),
		before: fc.constantFrom(...DAYS),
		query: fc.constantFrom(...WORDS)
	},
	{ requiredKeys: [] }
);

describe('the scope of a hold', () => {
	it('covers what its parts say, one by one and together, and nothing else', async () => {
		const context = await office();
		const { db } = context;
		const folderIds = await rows<{ id: number; path: string; mailboxId: number }>(
			db,
			sql`SELECT id, path, mailbox_id AS mailboxId FROM folder WHERE tree = 'mailbox'`
		);
		await fc.assert(
			fc.asyncProperty(scopes, async ({ folder, ...scope }) => {
				// a folder belongs to one mailbox, as in the form
				const mailboxId = folder === undefined ? scope.mailboxId : (scope.mailboxId ?? 1);
				const folderId = folderIds.find((place) => place.path === folder && place.mailboxId === mailboxId)?.id;
				const covers = await heldBy(db, { ...scope, mailboxId, folderId });
				const held = await rows<{ id: number }>(db, sql`SELECT id FROM item WHERE ${covers} ORDER BY id`);
				const expected = await numbersOf(context, (message) => isCovered(message, { ...scope, mailboxId, folder }));
				expect(held.map(({ id }) => id)).toEqual(expected);
			}),
			{ numRuns: 150 }
		);
	});
});

describe('holds in effect', () => {
	const hold = (name: string, scope: HoldScope) => ({
		name,
		because: 'the claim runs',
		from: 'Counsel',
		scope,
		placedOn: '2026-11-25',
		placedBy: 'tester'
	});

	it('cover mail that comes into their scope later, and keep what has left it', async () => {
		const context = await office();
		const { db } = context;
		const id = await addHold(db, hold('Ramp', { query: 'ramp' }));
		const ramps = MESSAGES.filter(({ word }) => word === 'ramp').length;
		expect(await refreshHolds(db, sql`1`)).toBe(ramps);
		expect(await refreshHolds(db, sql`1`), 'a second time adds nothing').toBe(0);

		const added = letter('Late', 'Mon, 02 Mar 2026 10:00:00 +0000', 'Another ramp.');
		await importMailbox(context, { path: mboxFile([added]), mailbox: 'Office' });
		expect((await holdWeights(db)).get(id)?.messages).toBe(ramps + 1);
		// the words are lost to the search: the hold stays on the messages it covered
		await db('hold')
			.where({ id })
			.update({ scope: JSON.stringify({ query: 'nothing' }) });
		await refreshHolds(db, sql`1`);
		expect((await holdWeights(db)).get(id)?.messages).toBe(ramps + 1);
	});

	it('release only what no other one covers, and are listed by request', async () => {
		const context = await office();
		const { db } = context;
		const wide = await addHold(db, hold('All of Office', { mailboxId: 1 }));
		const narrow = await addHold(db, hold('Winch', { query: 'winch' }));
		await refreshHolds(db, sql`1`);
		const [item] = await numbersOf(context, ({ mailbox, word }) => mailbox === 'Office' && word === 'winch');
		expect(await holdsOfItem(db, item as number)).toEqual(['All of Office', 'Winch']);

		const covered = MESSAGES.filter(({ mailbox }) => mailbox === 'Office').length;
		expect(await putHoldRelease(db, wide, { on: '2026-11-25', by: 'tester', because: 'settled' })).toBe(covered);
		expect(await holdsOfItem(db, item as number)).toEqual(['Winch']);
		expect((await listHolds(db, { released: false })).map(({ name }) => name)).toEqual(['Winch']);
		expect(
			(await listHolds(db, { released: true })).map(({ name, releasedBecause }) => [name, releasedBecause])
		).toEqual([
			['Winch', null],
			['All of Office', 'settled']
		]);
		expect(narrow).toBeGreaterThan(wide);
	});
});
