import { afterAll, describe, expect, it } from 'vitest';
import { holdSentence } from '../../../core/retention/holds.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { listBin, prepareEmptying, setClearing } from '../archive/bin.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import type { Context } from '../context/context.ts';
import { find } from '../find/find.ts';
import { renameFolder } from '../folders/folders.ts';
import { type HoldInput, releaseHold, listedHolds, placeHold, tryHold } from './holds.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { runNight } from '../process/night.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { readLedger } from '../ledger/read-ledger.ts';
import { readMessage } from '../find/read-message.ts';

afterAll(closeParsePool);

const on = (year: number) => `Mon, 02 Mar ${year} 10:00:00 +0000`;
const to = (text: string, address: string) => text.replace(/^To: .*$/m, `To: ${address}`);

async function office(): Promise<Context> {
	const context = await openOffice();
	const anna = 'Anna <anna@slipworks.example>';
	await importMailbox(context, {
		path: mboxFile([
			letter('Ramp', on(2019), 'The ramp is broken.', anna),
			to(letter('Answer', on(2020), 'We will see.'), 'anna@slipworks.example'),
			letter('Lift', on(2021), 'The lift is stuck.', 'Emre <emre@mail.slipworks.example>'),
			letter('Clock', 'Mon, 14 Mar 102 09:12:00 +0000', 'Dates are wrong.')
		]),
		mailbox: 'Office'
	});
	await importMailbox(context, {
		path: mboxFile([letter('Complaint', on(2022)), letter('Ramp 2', on(2023))]),
		mailbox: 'Office',
		folder: 'Complaints/2022'
	});
	await importMailbox(context, { path: mboxFile([letter('Elsewhere', on(2022))]), mailbox: 'Workshop' });
	return context;
}

const wish = (scope: Partial<HoldInput>): HoldInput => ({
	name: 'Slipway claim',
	because: 'the claim runs',
	from: 'Counsel',
	...scope
});
const held = async (context: Context) =>
	(
		await rows<{ subject: string }>(
			context.db,
			sql`SELECT DISTINCT subject FROM hold_item JOIN item ON item.id = item_id JOIN message ON message.id = item.message_id ORDER BY 1`
		)
	).map(({ subject }) => subject);
const idOf = async (context: Context, subject: string) =>
	(
		await rows<{ id: number }>(
			context.db,
			sql`SELECT item.id FROM item JOIN message ON message.id = item.message_id WHERE subject = ${subject}`
		)
	)[0]?.id as number;
async function does(
	context: Context,
	decision: 'delete' | 'move' | 'tag' | 'archive' | 'restore',
	ids: number[],
	options = {}
) {
	const docket = await prepareDocket(context, {
		mailboxId: 1,
		lines: [{ decision, options, scope: { kind: 'items', ids } }]
	});
	return { docket, outcome: await carryOut(context, { id: docket.id, confirm: 'destroy' }) };
}

describe('a hold', () => {
	it.each<[string, Partial<HoldInput>, string[]]>([
		['everything', {}, ['Answer', 'Clock', 'Complaint', 'Elsewhere', 'Lift', 'Ramp', 'Ramp 2']],
		['a mailbox', { mailbox: 'Workshop' }, ['Elsewhere']],
		['a folder with those below it', { mailbox: 'Office', folder: 'complaints' }, ['Complaint', 'Ramp 2']],
		['who wrote, or was written to', { correspondent: 'Anna@slipworks.example' }, ['Answer', 'Ramp']],
		['a domain with its subdomains', { correspondent: 'slipworks.example' }, ['Answer', 'Lift', 'Ramp']],
		['no part of a domain', { correspondent: 'works.example' }, []],
		// an implausible date releases nothing
		['dates', { mailbox: 'Office', since: '2020-01-01', before: '2022-01-01' }, ['Answer', 'Clock', 'Lift']],
		['a search', { query: 'ramp or lift' }, ['Lift', 'Ramp', 'Ramp 2']],
		['all of these together', { mailbox: 'Office', folder: 'Complaints', query: 'subject:ramp' }, ['Ramp 2']]
	])('covers %s', async (_what, scope, expected) => {
		const context = await office();
		expect((await tryHold(context, wish(scope))).messages).toBe(expected.length);
		expect(await held(context)).toEqual([]);
		expect((await placeHold(context, wish(scope))).messages).toBe(expected.length);
		expect(await held(context)).toEqual(expected);
		expect((await find(context, { query: 'held', limit: 50 })).hits).toHaveLength(expected.length);
	});

	it('says what it covers', () => {
		expect(
			holdSentence(
				{
					mailboxId: 1,
					folder: 'Complaints',
					correspondent: 'anna@x.example',
					tag: 'Claim',
					since: '2024-01-01',
					query: 'slipway'
				},
				'Office'
			)
		).toBe(
			'Everything in Office, in the folder Complaints and below, with anna@x.example, tagged “Claim”, received from 1 Jan 2024 on, that matches “slipway”; also what is still to come.'
		);
		expect(holdSentence({}, undefined)).toBe('Everything in all mailboxes; also what is still to come.');
	});

	it('stands against deleting, by whatever decision; everything else works', async () => {
		const context = await office();
		await placeHold(context, wish({ correspondent: 'anna@slipworks.example' }));
		const ids = [await idOf(context, 'Ramp'), await idOf(context, 'Lift')];
		const { docket, outcome } = await does(context, 'delete', ids);
		expect(docket.lines[0]).toMatchObject({
			messages: 1,
			left: [{ reason: 'held', messages: 1, holds: ['Slipway claim'] }]
		});
		expect(outcome.messages).toBe(1);
		for (const only of ['flagged', 'kept', 'paused'] as const)
			expect(
				(
					await prepareDocket(context, {
						mailboxId: 1,
						lines: [{ decision: 'delete', options: { only }, scope: { kind: 'items', ids } }]
					})
				).messages
			).toBe(0);
		expect((await does(context, 'move', ids, { folder: 'Elsewhere' })).outcome.messages).toBe(1);
		expect((await does(context, 'archive', ids)).outcome.messages).toBe(1);
		expect((await does(context, 'restore', ids)).outcome.messages).toBe(2);
		expect(await readMessage(context, { id: ids[0] as number })).toMatchObject({ holds: ['Slipway claim'] });
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('stays on what is moved out of it, and comes over what is moved, renamed or tagged into it', async () => {
		const context = await office();
		await placeHold(context, wish({ mailbox: 'Office', folder: 'Complaints' }));
		await placeHold(context, wish({ name: 'Tagged', tag: 'Claim' }));
		const complaint = await idOf(context, 'Complaint');
		await does(context, 'move', [complaint], { folder: 'Inbox' });
		expect((await does(context, 'delete', [complaint])).outcome.messages).toBe(0);
		const [ramp, lift] = [await idOf(context, 'Ramp'), await idOf(context, 'Lift')];
		await does(context, 'move', [ramp], { folder: 'Complaints' });
		await does(context, 'tag', [lift], { tag: 'Claim' });
		expect((await does(context, 'delete', [ramp, lift])).outcome.messages).toBe(0);
		expect(await held(context)).toEqual(['Complaint', 'Lift', 'Ramp', 'Ramp 2']);
		// the hold follows its folder to the new name
		await renameFolder(context, { mailbox: 'Office', folder: 'Complaints', to: 'Claims' });
		await importMailbox(context, {
			path: mboxFile([letter('New claim', on(2024))]),
			mailbox: 'Office',
			folder: 'Claims'
		});
		expect(await held(context)).toContain('New claim');
		expect((await does(context, 'delete', [ramp])).outcome.messages).toBe(0);
	});

	it('comes over mail that comes in', async () => {
		const context = await office();
		await placeHold(context, wish({ query: 'slipway' }));
		await importMailbox(context, { path: mboxFile([letter('Slipway costs', on(2024))]), mailbox: 'Workshop' });
		expect(await held(context)).toEqual(['Slipway costs']);
	});

	it('stands against a docket that was frozen before it', async () => {
		const context = await office();
		const ids = [await idOf(context, 'Ramp'), await idOf(context, 'Lift')];
		const docket = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'delete', options: {}, scope: { kind: 'items', ids } }]
		});
		await carryOut({ ...context, signal: AbortSignal.abort() }, { id: docket.id, confirm: 'destroy' });
		await placeHold(context, wish({ correspondent: 'anna@slipworks.example' }));
		expect(await carryOut(context, { id: docket.id, confirm: 'destroy' })).toMatchObject({
			messages: 1,
			left: [{ reason: 'changed', messages: 1 }]
		});
		expect(await compareWeights(context.db)).toBe(0);
		await takeBack(context, { id: docket.id });
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('stands against putting back into the bin what was restored before', async () => {
		const context = await office();
		const ids = [await idOf(context, 'Ramp'), await idOf(context, 'Lift')];
		await does(context, 'delete', ids);
		const { docket } = await does(context, 'restore', ids);
		await placeHold(context, wish({ correspondent: 'anna@slipworks.example' }));
		expect(await takeBack(context, { id: docket.id })).toMatchObject({ messages: 1, left: [{ messages: 1 }] });
		expect((await listBin(context, { mailboxId: 1, limit: 5 })).items.map(({ subject }) => subject)).toEqual(['Lift']);
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('finds what is under it by its name, and nothing else', async () => {
		const context = await office();
		await placeHold(context, wish({ mailbox: 'Workshop' }));
		await placeHold(context, wish({ name: 'Ramp', query: 'ramp' }));
		const found = async (query: string) =>
			(await find(context, { query, limit: 50 })).hits.map(({ subject }) => subject).sort();
		expect(await found('hold:"slipway claim"')).toEqual(['Elsewhere']);
		expect(await found('hold:ramp subject:2')).toEqual(['Ramp 2']);
		expect(await found('hold:other')).toEqual([]);
		await releaseHold(context, { name: 'Ramp', because: 'settled' });
		expect(await found('hold:ramp')).toEqual([]);
	});

	it('stands against emptying the bin, by hand and by night, and against a docket that was frozen', async () => {
		const context = await office();
		const ids = [await idOf(context, 'Ramp'), await idOf(context, 'Lift')];
		await does(context, 'delete', ids);
		const frozen = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await carryOut({ ...context, signal: AbortSignal.abort() }, { id: frozen.id, confirm: 'destroy' });
		await placeHold(context, wish({ correspondent: 'anna@slipworks.example' }));
		expect(await carryOut(context, { id: frozen.id })).toMatchObject({ messages: 1 });
		const again = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		expect(again.lines[0]).toMatchObject({ messages: 0, left: [{ reason: 'held', messages: 1 }] });
		await setClearing(context, { mailbox: 'Office', emptiesBin: true });
		const later = { ...context, now: () => new Date('2027-06-01T12:00:00Z') };
		await runNight(later);
		expect((await listBin(later, { mailboxId: 1, limit: 5 })).items.map(({ subject }) => subject)).toEqual(['Ramp']);
	});

	it('is released with a reason; what another one covers stays held', async () => {
		const context = await office();
		await placeHold(context, wish({ correspondent: 'anna@slipworks.example' }));
		await placeHold(context, wish({ name: 'Ramp', query: 'ramp' }));
		await expect(releaseHold(context, { name: 'ramp', because: ' ' })).rejects.toThrow('needs a reason');
		expect(await releaseHold(context, { name: 'slipway CLAIM', because: 'settled' })).toEqual({ messages: 2, due: 0 });
		expect(
			(await does(context, 'delete', [await idOf(context, 'Ramp'), await idOf(context, 'Answer')])).outcome.messages
		).toBe(1);
		await expect(releaseHold(context, { name: 'Slipway claim', because: 'again' })).rejects.toThrow('There is no hold');
		expect(await listedHolds(context, { released: false })).toMatchObject([{ name: 'Ramp', messages: 2 }]);
		expect(await listedHolds(context, { released: true })).toMatchObject([
			{ name: 'Ramp' },
			{ name: 'Slipway claim', releasedBecause: 'settled' }
		]);
		expect((await readLedger(context, { limit: 20 })).map(({ action }) => action)).toContain('hold-released');
	});

	it.each<[Partial<HoldInput>, string]>([
		[{ name: ' ' }, 'needs a name'],
		[{ name: 'The "old" claim' }, 'no quotation marks'],
		[{ because: '' }, 'needs a reason'],
		[{ from: '' }, 'who asked'],
		[{ folder: 'Complaints' }, 'choose the mailbox'],
		[{ mailbox: 'Nowhere' }, 'Nowhere'],
		[{ mailbox: 'Office', folder: 'Nowhere' }, 'Nowhere'],
		[{ since: '2024-13-01' }, 'no date'],
		[{ query: 'since:x' }, 'no date']
	])('is refused with %j', async (scope, message) => {
		const context = await office();
		await expect(placeHold(context, wish(scope))).rejects.toThrow(message);
		expect(await listedHolds(context, { released: true })).toEqual([]);
	});

	it('has a name that no other one has while it stands', async () => {
		const context = await office();
		await placeHold(context, wish({}));
		await expect(placeHold(context, wish({ name: 'SLIPWAY claim' }))).rejects.toThrow('already');
		await releaseHold(context, { name: 'Slipway claim', because: 'settled' });
		await placeHold(context, wish({}));
	});
});
