import { afterAll, describe, expect, it } from 'vitest';
import { AT_ONCE, type Decision } from '../../../core/docket/decisions.ts';
import { setAtOnce } from '../access/account.ts';
import { setArchiving } from '../archive/archiving.ts';
import { actingAs, type Context } from '../context/context.ts';
import { row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { recentOptions } from '../docket/dockets-store.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { addPerson, requirePerson } from '../people/index.ts';
import { listedHolds, releaseHold } from '../retention/holds.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { bytesOf, idOf, smallOffice, SUBJECTS } from '../testing/small-office.ts';
import { decideMessages } from './decide-messages.ts';

afterAll(closeParsePool);

const stateOf = async ({ db }: Context, subject: string) =>
	(
		await row<{ state: string }>(
			db,
			sql`SELECT item.state FROM item JOIN message ON message.id = item.message_id WHERE subject = ${subject}`
		)
	)?.state;
const dockets = async ({ db }: Context) =>
	(await rows<{ state: string }>(db, sql`SELECT state FROM docket ORDER BY id`)).map(({ state }) => state);
const idsOf = (context: Context, subjects: readonly string[]) =>
	Promise.all(subjects.map((subject) => idOf(context, subject)));

async function put(context: Context, decision: Decision, subject: string): Promise<void> {
	const scope = { kind: 'items' as const, ids: [await idOf(context, subject)] };
	const { id } = await prepareDocket(context, { mailboxId: 1, lines: [{ decision, options: {}, scope }] });
	await carryOut(context, { id });
}

const alphas = async ({ db }: Context) =>
	(
		await rows<{ id: number }>(
			db,
			sql`SELECT item.id FROM item JOIN message ON message.id = item.message_id WHERE subject = 'Alpha' ORDER BY item.id`
		)
	).map(({ id }) => id);
const heldIn = async ({ db }: Context) =>
	(await row<{ n: number }>(db, sql`SELECT count(DISTINCT item_id) AS n FROM hold_item`))?.n;

describe('deciding from where one stands', () => {
	it('restores archived and binned mail into a folder that is named, and takes that back', async () => {
		const context = await smallOffice();
		await put(context, 'archive', 'Alpha');
		await put(context, 'delete', 'Bravo');
		const places = () =>
			rows<{ subject: string; state: string; path: string; origin: string | null }>(
				context.db,
				sql`SELECT subject, item.state, folder.path, origin.path AS origin FROM item
				 JOIN message ON message.id = item.message_id JOIN folder ON folder.id = item.folder_id
				 LEFT JOIN folder origin ON origin.id = origin_folder_id WHERE subject IN ('Alpha', 'Bravo') ORDER BY subject`
			);
		const before = await places();
		expect(before.map(({ state, origin }) => [state, origin])).toEqual([
			['archived', 'Inbox'],
			['binned', 'Inbox']
		]);
		const ids = await idsOf(context, ['Alpha', 'Bravo']);
		const [done] = await decideMessages(context, { ids, decision: 'restore', options: { folder: 'Claims/2026' } });
		expect(done?.sentences).toEqual([expect.stringContaining('Restored 2 messages to Claims/2026')]);
		const restored = { state: 'live', path: 'Claims/2026', origin: null };
		expect(await places()).toEqual([
			{ subject: 'Alpha', ...restored },
			{ subject: 'Bravo', ...restored }
		]);
		await takeBack(context, { id: done?.docket as number });
		expect(await places()).toEqual(before);
	});

	it('carries out at once what can be taken back, names what stays, and takes it back', async () => {
		const context = await smallOffice();
		await put(context, 'delete', 'Charlie');
		const ids = await idsOf(context, ['Alpha', 'Bravo', 'Charlie']);
		const [done] = await decideMessages(context, { ids, decision: 'archive', options: {} });
		expect(done).toMatchObject({ mailbox: 'Office', isDone: true, messages: 2 });
		expect(done?.sentences[0]).toContain('Archived 2 messages');
		expect(done?.left).toEqual([{ reason: 'binned', messages: 1 }]);
		expect(await stateOf(context, 'Alpha')).toBe('archived');
		const lines = await rows<{ action: string }>(
			context.db,
			sql`SELECT action FROM ledger ORDER BY rowid DESC LIMIT 1`
		);
		expect(lines).toEqual([{ action: 'docket-carried-out' }]);
		await takeBack(context, { id: done?.docket as number });
		expect(await Promise.all(SUBJECTS.map((subject) => stateOf(context, subject)))).toEqual([
			'live',
			'live',
			'binned',
			'live'
		]);
	});

	/* Written by hand: the state of a live, an archived and a binned message after a decision. */
	it.each<[Decision, string]>([
		['archive', 'archived archived binned'],
		['delete', 'binned archived binned'],
		['restore', 'live live live'],
		['flag', 'live archived binned'],
		['keep', 'live archived binned']
	])('%s over mail in three states: %s', async (decision, states) => {
		const context = await smallOffice();
		await put(context, 'archive', 'Bravo');
		await put(context, 'delete', 'Charlie');
		const subjects = ['Alpha', 'Bravo', 'Charlie'];
		await decideMessages(context, { ids: await idsOf(context, subjects), decision, options: {} });
		expect((await Promise.all(subjects.map((subject) => stateOf(context, subject)))).join(' ')).toBe(states);
	});

	it('puts several tags on in one docket', async () => {
		const context = await smallOffice();
		const ids = await idsOf(context, ['Alpha']);
		await decideMessages(context, { ids, decision: 'tag', options: { tag: 'Ramp, Berth' }, tags: ['Ramp', 'Berth'] });
		const tags = await rows<{ name: string }>(
			context.db,
			sql`SELECT name FROM item_tag JOIN tag ON tag.id = tag_id WHERE item_id = ${ids[0] as number} ORDER BY name`
		);
		expect(tags.map(({ name }) => name)).toEqual(['Berth', 'Ramp']);
		expect(await dockets(context)).toEqual(['carried-out']);
	});

	it('leaves what lies in the folder already, however its name is written', async () => {
		const context = await smallOffice();
		const ids = await idsOf(context, ['Alpha', 'Bravo']);
		await decideMessages(context, { ids: ids.slice(0, 1), decision: 'move', options: { folder: 'Vessels/MV Terné' } });
		const [moved] = await decideMessages(context, { ids, decision: 'move', options: { folder: 'vessels/mv terne' } });
		expect(moved).toMatchObject({ messages: 1, left: [{ reason: 'already', messages: 1 }] });
		const [other] = await decideMessages(context, { ids, decision: 'move', options: { folder: 'MV Terne' } });
		expect(other).toMatchObject({ messages: 2, left: [] });
	});

	it('moves junk and tags it', async () => {
		const context = await smallOffice();
		await decideMessages(context, { ids: await idsOf(context, ['Delta']), decision: 'junk', options: {} });
		const found = await row<{ path: string }>(
			context.db,
			sql`SELECT folder.path FROM item JOIN folder ON folder.id = folder_id WHERE item.id = ${await idOf(context, 'Delta')}`
		);
		expect(found?.path).toMatch(/junk/i);
	});

	it('leaves no draft of what is refused', async () => {
		const context = await smallOffice();
		await setArchiving(context, { mailbox: 1, archives: false });
		const ids = await idsOf(context, ['Alpha']);
		await expect(decideMessages(context, { ids, decision: 'archive', options: {} })).rejects.toThrow(/archive/);
		expect(await dockets(context)).toEqual([]);
		await expect(decideMessages(context, { ids: [4711], decision: 'archive', options: {} })).rejects.toThrow(
			'no such messages'
		);
	});

	it(`collects what is more than ${AT_ONCE} messages, also when a search finds them`, async () => {
		const context = await openOffice();
		const many = Array.from({ length: AT_ONCE + 1 }, (_, n) => letter(`Crew ${n}`, 'Fri, 31 May 2019 10:00:00 +0000'));
		await importMailbox(context, { path: mboxFile(many), mailbox: 'Office' });
		const search = { query: 'crew', mailbox: 1, states: ['live' as const] };
		const [collected] = await decideMessages(context, { search, decision: 'archive', options: {} });
		expect(collected).toMatchObject({ isDone: false, messages: AT_ONCE + 1 });
		expect(await dockets(context)).toEqual(['drafted']);
		expect(await stateOf(context, 'Crew 7')).toBe('live');
		const one = { ...search, query: 'subject:"crew 7"' };
		expect(await decideMessages(context, { search: one, decision: 'archive', options: {} })).toMatchObject([
			{ isDone: true, messages: 1 }
		]);
		expect(await dockets(context)).toEqual(['drafted', 'carried-out']);
	});

	it.each<[number, string]>([
		[0, 'drafted'],
		[1, 'drafted'],
		[2, 'carried-out']
	])('decides at once on as many messages as the person has set: %i of two, %s', async (atOnce, state) => {
		const context = await smallOffice();
		await addPerson(context, { name: 'Ylva', address: 'ylva@skerryline.example', role: 'administrator' });
		const { id: personId } = await requirePerson(context.db, 'Ylva');
		const ylva = actingAs(context, { personId, name: 'Ylva', role: 'administrator' });
		await setAtOnce(ylva, { atOnce });
		await decideMessages(ylva, { ids: await idsOf(context, ['Alpha', 'Bravo']), decision: 'archive', options: {} });
		expect(await dockets(context)).toEqual([state]);
		for (const wrong of [-1, 0.5, 1_001])
			await expect(setAtOnce(ylva, { atOnce: wrong })).rejects.toThrow('between 0 and 1,000');
	});

	it('leaves messages out of everything that is found', async () => {
		const context = await smallOffice();
		const without = await idsOf(context, ['Bravo']);
		const search = { query: 'zanzibar', mailbox: 1, states: ['live' as const] };
		await decideMessages(context, { search, without, decision: 'archive', options: {} });
		expect(await Promise.all(SUBJECTS.map((subject) => stateOf(context, subject)))).toEqual([
			'archived',
			'live',
			'archived',
			'archived'
		]);
	});

	it('destroys mail whose period has ended only out of a row of due mail', async () => {
		const context = await smallOffice();
		const ids = await idsOf(context, ['Alpha']);
		await expect(decideMessages(context, { ids, decision: 'dispose', options: {} })).rejects.toThrow(
			'where mail is due'
		);
		expect(await dockets(context)).toEqual([]);
	});

	it('puts messages under a hold, in all their places and in those still to come, and lets none be deleted', async () => {
		const context = await smallOffice();
		const again = () => importMailbox(context, { path: mboxFile([bytesOf('Alpha')]), mailbox: 'Other' });
		await again();
		const ids = (await idsOf(context, ['Bravo'])).concat(await alphas(context));
		const hold = { name: 'Slipway claim', because: 'the claim runs', from: 'Counsel' };
		const [held] = await decideMessages(context, { ids: ids.slice(0, 2), decision: 'hold', options: {}, hold });
		// two places of the one message, and the other message
		expect(held).toMatchObject({ docket: undefined, isDone: true, messages: 3 });
		expect(held?.sentences[0]).toContain('3 messages came under the hold Slipway claim');
		const more = { ids: await idsOf(context, ['Delta']), decision: 'hold' as const, options: {} };
		expect(await decideMessages(context, { ...more, hold: { name: 'slipway CLAIM' } })).toMatchObject([
			{ messages: 1 }
		]);
		expect(await decideMessages(context, { ...more, hold: { name: 'slipway CLAIM' } })).toMatchObject([
			{ messages: 0 }
		]);
		await expect(decideMessages(context, { ...more, hold: { name: 'Another' } })).rejects.toThrow('needs a reason');
		const all = await idsOf(context, SUBJECTS);
		const [deleted] = await decideMessages(context, { ids: all, decision: 'delete', options: {} });
		expect(deleted).toMatchObject({ messages: 1, left: [{ reason: 'held', messages: 3 }] });
		await importMailbox(context, { path: mboxFile([bytesOf('Bravo')]), mailbox: 'Third' });
		await prepareDocket(context, {
			mailboxId: 3,
			lines: [{ decision: 'delete', options: {}, scope: { kind: 'query', query: 'bravo', label: '' } }]
		});
		expect(await heldIn(context)).toBe(5);
		expect((await listedHolds(context, { released: false }))[0]?.sentence).toContain('put under it one by one');
		await releaseHold(context, { name: 'Slipway claim', because: 'settled' });
		expect(await heldIn(context)).toBe(0);
	});

	it('puts unsubscribing from the lists of messages on the docket, and says where there are none', async () => {
		const context = await smallOffice();
		const listed = `List-Id: <weekly.harbour.example>\nList-Unsubscribe: <mailto:leave@harbour.example>\n${bytesOf('Echo')}`;
		await importMailbox(context, { path: mboxFile([listed]), mailbox: 'Office' });
		const decision = 'unsubscribe' as const;
		const ids = await idsOf(context, ['Echo', 'Alpha']);
		expect(await decideMessages(context, { ids, decision, options: {} })).toMatchObject([
			{ isDone: false, sentences: ['1 list is on the docket: nothing is sent until it is carried out.'] }
		]);
		expect(await dockets(context)).toEqual(['drafted']);
		await expect(decideMessages(context, { ids: ids.slice(1), decision, options: {} })).rejects.toThrow(
			'None of these messages is from a list'
		);
	});

	it('remembers what each person decided with last', async () => {
		const context = await smallOffice();
		const people: Context[] = [];
		for (const name of ['Ylva', 'Knut']) {
			await addPerson(context, { name, address: `${name}@skerryline.example`, role: 'administrator' });
			const { id } = await requirePerson(context.db, name);
			people.push(actingAs(context, { personId: id, name, role: 'administrator' }));
		}
		const [ylva, knut] = people as [Context, Context];
		const ids = await idsOf(context, ['Alpha']);
		for (const tag of ['A', 'B', 'A', 'C', 'D', 'E', 'F'])
			await decideMessages(ylva, { ids, decision: tag === 'B' ? 'untag' : 'tag', options: { tag } }).catch(() => {});
		await decideMessages(knut, { ids, decision: 'move', options: { folder: 'Vessels' } });
		await decideMessages(ylva, { ids, decision: 'junk', options: {} });
		expect((await recentOptions(context.db, ylva.actor, 5)).tags).toEqual(['F', 'E', 'D', 'C', 'A']);
		expect(await recentOptions(context.db, knut.actor, 5)).toEqual({ folders: ['Vessels'], tags: [] });
	});
});
