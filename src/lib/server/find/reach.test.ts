import fc from 'fast-check';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import type { Actor, Role } from '../../../core/access/roles.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { actingAs, type Context } from '../context/context.ts';
import { exportZip } from './export-mail.ts';
import { find, narrow } from './find.ts';
import { placeHold } from '../retention/holds.ts';
import { prepareEmptying } from '../archive/bin.ts';
import { readPolicy } from '../retention/policy.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { letWrite } from '../database/open.ts';
import { openingsIn } from '../mail/openings-store.ts';
import { recordOpening } from '../mail/openings.ts';
import { copyToOwnMailbox, keepOwn, myReach, ownerView, ownItems } from '../people/own.ts';
import { addPerson, changeGroup, grant, requirePerson, revoke, setAccess, setOwner } from '../people/people.ts';
import { decideArchiving } from '../archive/prepare-archiving.ts';
import { carryOut } from '../docket/carry-out.ts';
import { approveDocket } from '../docket/approve-docket.ts';
import { decide, decideOn } from '../docket/prepare-docket.ts';
import { readAttachment, readHtml, readMessage, readRaw } from './read-message.ts';
import {
	answerRequest,
	changeSaved,
	countAnswers,
	countRequests,
	listRequests,
	listSaved,
	makeRequest,
	myRequests,
	noticeAnswers
} from '../people/requests.ts';
import { listedDockets, showDocket } from '../docket/show-docket.ts';
import { restore } from './restore.ts';
import { suggest } from './suggest.ts';
import { readThread } from '../mail/thread-mail.ts';

afterAll(closeParsePool);

const FOLDERS = ['Inbox', 'Berths', 'Berths/2020', 'Berths/2020/Torsay', 'Complaints', 'Crew'];
const MAILBOXES = ['Harbour', 'Desk'];
const EVERYWHERE: ('live' | 'archived' | 'binned')[] = ['live', 'archived', 'binned'];

let office: Context;
let jonas: Context;
/* The mailbox and folder of each message as people see it, by its number: `mailbox/folder`. */
let places: Map<number, string>;

async function as(name: string, role: Role = 'colleague'): Promise<Context> {
	await addPerson(office, { name, address: `${name}@s.example`, role });
	const { id } = await requirePerson(office.db, name);
	return actingAs(office, { personId: id, name, role } satisfies Actor);
}

beforeEach(async () => {
	office = await openOffice();
	places = new Map();
	for (const mailbox of MAILBOXES)
		for (const folder of FOLDERS)
			await importMailbox(office, {
				path: mboxFile(
					[2019, 2021].map((year) =>
						letter(
							`Kelp in ${mailbox} ${folder} ${year}`,
							`Mon, 02 Mar ${year} 10:00:00 +0000`,
							`Words about kelp, ${mailbox}.`,
							`${folder.replace(/\W/g, '')} <${folder.replace(/\W/g, '').toLowerCase()}@${mailbox.toLowerCase()}.example>`
						)
					)
				),
				mailbox,
				folder
			});
	// some are archived: people still find them under the folder they came from
	const docket = await decideArchiving(office, { mailbox: 'Harbour', before: '2020' });
	await carryOut(office, { id: docket.id });
	const all = await find(office, { query: 'kelp', states: EVERYWHERE, limit: 100 });
	for (const hit of all.hits) places.set(hit.id, `${hit.mailbox}/${hit.origin ?? hit.folder}`);
	jonas = await as('Jonas');
});

const found = async (context: Context) =>
	(await find(context, { query: 'kelp', states: EVERYWHERE, limit: 100 })).hits
		.map(({ id }) => id)
		.sort((a, b) => a - b);
const within = (...begins: string[]) =>
	[...places]
		.filter(([, place]) => begins.some((begin) => place === begin || place.startsWith(`${begin}/`)))
		.map(([id]) => id)
		.sort((a, b) => a - b);
const idIn = (place: string) => [...places].find(([, at]) => at === place)?.[0] as number;

describe('what is beyond a colleague’s reach (invariant 20)', () => {
	it('neither gives a suggestion nor takes one away', async () => {
		await grant(office, { to: 'Jonas', mailbox: 'Desk', find: true, restore: true });
		const seen = ['zandersee', 'barnacle', 'harbourmaster'];
		const bring = (mailbox: string, words: readonly string[]) =>
			importMailbox(office, {
				path: mboxFile(
					Array.from({ length: 300 }, (_, n) =>
						letter(`${mailbox} ${n}`, 'Mon, 02 Mar 2020 10:00:00 +0000', `Of ${words[n % words.length]}, number ${n}`)
					)
				),
				mailbox
			});
		await bring('Desk', seen);
		const asked = ['zandersea', 'zandersed', 'barnacel', 'barnacle', 'harbourmasted', 'zandersex'];
		const suggested = async (context: Context) => {
			const all: string[][] = [];
			for (const text of asked) all.push((await suggest(context, { text })).map(({ of, query }) => `${of} ${query}`));
			return all;
		};
		const before = await suggested(jonas);
		expect(before[0]).toContain('word zandersee');
		// words closer to the typed one, and the very same, in mail outside Jonas's reach
		await bring('Secret', ['zandersed', 'zandersea', 'barnacel', 'harbourmasted', 'zandersex']);
		expect(await suggested(jonas)).toEqual(before);
		expect(await suggested(office)).not.toEqual(before);
	});

	it('a copy put into their own mailbox leaves a look for the owner of each message', async () => {
		const ylva = await as('Ylva');
		await setOwner(office, { mailbox: 'Desk', owner: 'Ylva' });
		await importMailbox(office, {
			path: mboxFile([letter('Mine', 'Mon, 02 Mar 2020 10:00:00 +0000')]),
			mailbox: 'Jonas'
		});
		await setOwner(office, { mailbox: 'Jonas', owner: 'Jonas' });
		await importMailbox(office, {
			path: mboxFile(Array.from({ length: 200 }, (_, n) => letter(`Many ${n}`, 'Mon, 02 Mar 2020 10:00:00 +0000'))),
			mailbox: 'Desk'
		});
		await grant(office, { to: 'Jonas', mailbox: 'Desk', find: true, restore: true });
		const { hits } = await find(jonas, { query: 'subject:many', states: EVERYWHERE, limit: 500 });
		const mailboxId = (await myReach(jonas)).own[0]?.id as number;
		expect(await copyToOwnMailbox(jonas, { ids: hits.map(({ id }) => id), mailboxId })).toMatchObject({
			messages: 200
		});
		const desk = (await myReach(ylva)).own[0]?.id as number;
		const looks = await openingsIn(office.db, { mailboxId: desk, but: 'Ylva', limit: 500 });
		expect(looks.map(({ who, what }) => `${who} ${what}`)).toEqual(
			Array.from({ length: 200 }, () => 'Jonas kept a copy of')
		);
	});
});

describe('how far a colleague reaches', () => {
	it('nowhere at first, and an auditor never', async () => {
		expect(places.size).toBe(24);
		expect(await found(jonas)).toEqual([]);
		expect(await found(await as('Agnes', 'auditor'))).toEqual([]);
		expect(await found(office)).toHaveLength(24);
	});

	/* Against a second statement of the rule: a path begins with that of the grant. */
	it('is what the grants say, whatever they are', async () => {
		const grants = fc.array(
			fc.record({
				mailbox: fc.constantFrom(...MAILBOXES),
				folder: fc.option(fc.constantFrom(...FOLDERS), { nil: undefined }),
				find: fc.boolean(),
				restore: fc.boolean(),
				to: fc.constantFrom('Jonas', 'Desk people', 'Others'),
				ended: fc.boolean()
			}),
			{ maxLength: 5 }
		);
		await changeGroup(office, { group: 'Desk people', members: ['Jonas'] });
		await changeGroup(office, { group: 'Others', members: [] });
		await fc.assert(
			fc.asyncProperty(grants, async (wishes) => {
				const given: number[] = [];
				const reached = { find: new Set<number>(), restore: new Set<number>() };
				for (const { ended, ...wish } of wishes) {
					if (!wish.find && !wish.restore) continue;
					const { id } = await grant(office, wish);
					if (ended) await revoke(office, { id });
					else given.push(id);
					if (ended || wish.to === 'Others') continue;
					const ids = within(wish.folder ? `${wish.mailbox}/${wish.folder}` : wish.mailbox);
					if (wish.find) for (const one of ids) reached.find.add(one);
					if (wish.restore) for (const one of ids) reached.restore.add(one);
				}
				const result = await find(jonas, { query: 'kelp', states: EVERYWHERE, limit: 100 });
				const shown = result.hits.map(({ id }) => id).sort((a, b) => a - b);
				expect(shown).toEqual([...reached.find].sort((a, b) => a - b));
				expect(result.total).toBe(reached.find.size);
				for (const hit of result.hits) expect(hit.restorable).toBe(reached.restore.has(hit.id));
				// its filters reveal nothing else
				const choices = await narrow(jonas, { query: 'kelp', states: EVERYWHERE });
				expect(choices.mailbox.reduce((sum, { messages }) => sum + messages, 0)).toBe(reached.find.size);
				for (const id of given) await revoke(office, { id });
			}),
			{ numRuns: 25 }
		);
	});

	it('ends with its last day', async () => {
		await grant(office, { to: 'Jonas', mailbox: 'Desk', find: true, restore: false, until: '2026-11-25' });
		expect(await found(jonas)).toEqual(within('Desk'));
		process.env.KOVREL_NOW = '2026-11-26T12:00:00Z';
		const later = { ...jonas, now: () => new Date('2026-11-26T12:00:00Z') };
		expect(await found(later)).toEqual([]);
		await expect(
			grant(office, { to: 'Jonas', mailbox: 'Desk', find: true, restore: false, until: '2026-11-24' })
		).rejects.toThrow('no day from today on');
	});

	it('holds for every way to a message, in the words of one that is not there', async () => {
		await grant(office, { to: 'Jonas', mailbox: 'Harbour', folder: 'Complaints', find: true, restore: false });
		const [mine, other] = [idIn('Harbour/Complaints'), idIn('Harbour/Crew')];
		const ways: ((id: number) => Promise<unknown>)[] = [
			(id) => readMessage(jonas, { id }),
			(id) => readRaw(jonas, { id }),
			(id) => readThread(jonas, { itemId: id })
		];
		for (const way of ways) {
			await way(mine);
			await expect(way(other)).rejects.toThrow(`There is no message ${other} that you may see.`);
			await expect(way(99_999)).rejects.toThrow('There is no message 99999');
		}
		await expect(readHtml(jonas, { id: other })).rejects.toThrow('There is no message');
		await expect(readAttachment(jonas, { id: other, index: 0 })).rejects.toThrow('There is no message');
		await expect(restore(jonas, { ids: [mine, other] })).rejects.toThrow('that you may restore');
		await expect(copyToOwnMailbox(jonas, { ids: [mine], mailboxId: 2 })).rejects.toThrow('no mailbox of your own');
		const bytes: Buffer[] = [];
		for await (const chunk of exportZip(jonas, { format: 'eml', ids: [mine, other] })) bytes.push(Buffer.from(chunk));
		const listed = Buffer.concat(bytes).toString('latin1');
		expect(listed).toContain('Kelp in Harbour Complaints');
		expect(listed).not.toContain('Kelp in Harbour Crew');
	});

	it('suggests nothing of what is beyond it, and a nearly right word only where it finds', async () => {
		await grant(office, { to: 'Jonas', mailbox: 'Harbour', folder: 'Complaints', find: true, restore: false });
		const names = async (text: string) => (await suggest(jonas, { text })).map(({ of, name }) => `${of} ${name}`);
		expect(await names('comp')).toEqual([
			'person Complaints <complaints@harbour.example>',
			'folder Complaints',
			'subject Kelp in Harbour Complaints 2019',
			'subject Kelp in Harbour Complaints 2021'
		]);
		expect(await names('crew')).toEqual([]);
		expect(await names('kelpp')).toEqual(['word kelp']);
		// "crew" is in the index, but in no message they may see
		expect(await names('crewe')).toEqual([]);
		expect((await suggest(office, { text: 'crewe' })).map(({ name }) => name)).toContain('crew');
		expect(await names('kelp March 2021')).toContain('time March 2021: 1 Mar 2021 to 31 Mar 2021');
	});
});

describe('having back', () => {
	it('what was archived goes back by their own hand, as far as that is granted', async () => {
		await grant(office, { to: 'Jonas', mailbox: 'Harbour', folder: 'Berths', find: true, restore: true });
		await grant(office, { to: 'Jonas', mailbox: 'Harbour', find: true, restore: false });
		const { hits } = await find(jonas, { query: 'kelp', states: ['archived'], limit: 50 });
		const done = await restore(jonas, { ids: hits.map(({ id }) => id) });
		expect(done.restored).toBe(3);
		const [line] = await listLedger(office.db, { limit: 1 });
		expect(line).toMatchObject({ who: 'Jonas', action: 'docket-carried-out' });
	});

	it('or into a mailbox of their own, where it stays archived as well', async () => {
		await grant(office, { to: 'Jonas', mailbox: 'Harbour', folder: 'Berths', find: true, restore: true });
		await importMailbox(office, {
			path: mboxFile([letter('Mine', 'Mon, 02 Mar 2020 10:00:00 +0000')]),
			mailbox: 'Jonas'
		});
		await setOwner(office, { mailbox: 'Jonas', owner: 'Jonas' });
		const { own } = await myReach(jonas);
		const wish = { ids: within('Harbour/Berths'), mailboxId: own[0]?.id ?? 0 };
		expect(await copyToOwnMailbox(jonas, wish)).toMatchObject({
			messages: 6,
			already: 0,
			folder: 'Given back'
		});
		expect(await copyToOwnMailbox(jonas, wish)).toMatchObject({ messages: 0, already: 6 });
		const mine = await find(jonas, { query: 'kelp', mailbox: 'Jonas', states: EVERYWHERE, limit: 20 });
		expect(mine.hits.map(({ folder, state }) => `${folder} ${state}`)).toEqual(Array(6).fill('Given back live'));
		expect((await find(jonas, { query: 'kelp', states: ['archived'], limit: 20 })).total).toBe(3);
	});
});

describe('requests', () => {
	it('are made with a reason, answered once, and both sides see it', async () => {
		await grant(office, { to: 'Jonas', mailbox: 'Harbour', folder: 'Crew', find: true, restore: false });
		const ids = within('Harbour/Crew');
		await expect(makeRequest(jonas, { ids, because: ' ' })).rejects.toThrow('Say why');
		await expect(makeRequest(jonas, { ids: [idIn('Desk/Crew')], because: 'x' })).rejects.toThrow('that you have found');
		const [id = 0] = await makeRequest(jonas, { ids: [...ids, idIn('Desk/Crew')], because: 'The inspector asks' });
		expect(await countRequests(office)).toBe(1);
		expect((await listRequests(office)).open).toMatchObject([
			{ id, person: 'Jonas', messages: 2, because: 'The inspector asks', mailbox: 'Harbour' }
		]);
		await expect(answerRequest(office, { id, decline: true, word: '' })).rejects.toThrow('Say why it is declined');
		// without a ticked box nothing is granted
		await expect(answerRequest(office, { id, ids: [], word: '' })).rejects.toThrow('Select at least one');
		// one of the two was archived and is restored, the other is in its folder already
		expect(await answerRequest(office, { id, word: 'Here' })).toMatchObject({ state: 'granted', restored: 1 });
		await expect(answerRequest(office, { id, word: '' })).rejects.toThrow('has answered this request already');
		expect(await myRequests(jonas)).toMatchObject([{ state: 'granted', word: 'Here', answeredBy: 'tester' }]);
		expect((await listLedger(office.db)).map(({ action }) => action)).toEqual(
			expect.arrayContaining(['request-made', 'request-answered'])
		);
	});

	it('in part, and declined; those of others are not seen', async () => {
		await grant(office, { to: 'Jonas', mailbox: 'Harbour', find: true, restore: false });
		const ids = within('Harbour/Crew', 'Harbour/Complaints');
		const [id = 0] = await makeRequest(jonas, { ids, because: 'x' });
		const archived = (await listRequests(office)).open[0]?.items.filter(({ state }) => state === 'archived') ?? [];
		expect(archived).toHaveLength(2);
		expect(await answerRequest(office, { id, ids: [archived[0]?.itemId ?? 0], word: '' })).toMatchObject({
			state: 'in-part',
			restored: 1
		});
		const [declined = 0] = await makeRequest(jonas, { ids, because: 'y' });
		expect(await answerRequest(office, { id: declined, decline: true, word: 'Not yours' })).toMatchObject({
			state: 'declined'
		});
		expect(await myRequests(await as('Nora'))).toEqual([]);
	});

	it('for access become a grant', async () => {
		const [id = 0] = await makeRequest(jonas, { mailbox: 'Desk', folder: 'Berths', because: 'I do berths now' });
		await answerRequest(office, { id, word: '', until: '2026-12-31' });
		expect(await found(jonas)).toEqual(within('Desk/Berths'));
	});

	it('say where messages were destroyed, or are held', async () => {
		await grant(office, { to: 'Jonas', mailbox: 'Desk', find: true, restore: false });
		const ids = within('Desk/Crew');
		const [id = 0] = await makeRequest(jonas, { ids, because: 'x' });
		await placeHold(office, { name: 'Claim', because: 'x', from: 'y', query: '"Crew 2021"' });
		expect((await listRequests(office)).open).toMatchObject([{ held: 1, destroyed: 0 }]);
		const draft = await decide(office, {
			mailboxId: 2,
			line: { decision: 'delete', options: {}, scope: { kind: 'items', ids } }
		});
		await carryOut(office, { id: draft.id });
		const emptying = await prepareEmptying(office, { mailboxId: 2, onlyDue: false });
		await carryOut(office, { id: emptying.id, confirm: 'destroy' });
		expect((await listRequests(office)).open).toMatchObject([{ held: 1, destroyed: 1, messages: 2 }]);
		expect(await answerRequest(office, { id, word: '' })).toMatchObject({ state: 'in-part' });
	});
});

describe('a second person', () => {
	it('approves what neither they nor Kovrel alone prepared', async () => {
		await as('Ruben', 'administrator');
		const [ylva, ruben, nora] = [
			await as('Ylva', 'administrator'),
			await as('Rune', 'administrator'),
			await as('Nora', 'administrator')
		];
		await setAccess(office, { approvalDemanded: true });
		const ids = within('Desk/Crew');
		const deleting = await decide(ylva, {
			mailboxId: 2,
			line: { decision: 'delete', options: {}, scope: { kind: 'items', ids } }
		});
		// a reversible decision needs no second person
		await carryOut(ylva, { id: deleting.id });
		const { id, messages, bytes } = await prepareEmptying(ylva, { mailboxId: 2, onlyDue: false });
		const approve = (context: Context, expected = { messages, bytes }) => approveDocket(context, { id, expected });
		await expect(carryOut(ylva, { id })).rejects.toThrow('a second administrator');
		await expect(approve(ylva)).rejects.toThrow('You prepared this docket');
		await expect(approve(office)).rejects.toThrow('known by name');
		await expect(approve(ruben, { messages: 1, bytes })).rejects.toThrow('changed after you opened it');
		await approve(ruben);
		// a later change withdraws the approval, and its author cannot approve
		const line = {
			decision: 'tag',
			options: { tag: 'Seen' },
			scope: { kind: 'items', ids: within('Desk/Inbox') }
		} as const;
		await decideOn(ruben, { id, lines: [{ ...line, scope: { ...line.scope, ids: [...line.scope.ids] } }] });
		await expect(carryOut(ylva, { id })).rejects.toThrow('a second administrator');
		const now = await showDocket(office, { id });
		await expect(approve(ruben, now)).rejects.toThrow('or a part of it');
		await approve(nora, now);
		expect((await carryOut(ylva, { id, confirm: 'destroy' })).finished).toBe(true);
	});
});

describe('an owner', () => {
	beforeEach(() => setOwner(office, { mailbox: 'Desk', owner: 'Jonas' }));

	it('finds and restores all of their own, and sees who opened its messages', async () => {
		expect(await found(jonas)).toEqual(within('Desk'));
		const id = idIn('Desk/Crew');
		await recordOpening(jonas, { ids: [id], what: 'read' });
		const administrator = actingAs(office, { personId: 77, name: 'Ylva', role: 'administrator' });
		for (let n = 0; n < 3; n++) await recordOpening(administrator, { ids: [id], what: 'read' });
		await recordOpening(administrator, { ids: [id], what: 'kept a copy of' });
		const { looks } = await ownerView(jonas, { mailboxId: 2 });
		// once a day each, and not for their own mail
		expect(looks.map(({ who, what, itemId }) => [who, what, itemId])).toEqual([
			['Ylva', 'kept a copy of', id],
			['Ylva', 'read', id]
		]);
		expect((await listLedger(office.db)).filter(({ action }) => action === 'looked')).toHaveLength(2);
		// the ledger outlives the message, so it has no subject
		expect(JSON.stringify(await listLedger(office.db))).not.toContain('Kelp in Desk Crew');
		expect(await openingsIn(office.db, { mailboxId: 1, but: '', limit: 9 })).toEqual([]);
	});

	it('sees that somebody has read lines of found messages, and the ledger has the search', async () => {
		const administrator = actingAs(office, { personId: 77, name: 'Ylva', role: 'administrator' });
		const ids = within('Desk/Crew', 'Desk/Berths');
		const search = (query: string) => recordOpening(administrator, { ids, what: 'found words in', query });
		await search('kelp');
		// the same search is not noted again when its page is loaded again
		await search('kelp');
		await recordOpening(jonas, { ids, what: 'found words in', query: 'kelp' });
		const { looks } = await ownerView(jonas, { mailboxId: 2 });
		expect(looks.map(({ who, what, itemId }) => [who, what, itemId < 0])).toEqual([['Ylva', 'found words in', true]]);
		const lines = (await listLedger(office.db)).filter(({ action }) => action === 'searched');
		expect(lines.map(({ details }) => details)).toEqual([{ query: 'kelp', found: ids.length, items: ids }]);
	});

	it('learns of a search whose note could not be written at first', async () => {
		const administrator = actingAs(office, { personId: 77, name: 'Ylva', role: 'administrator' });
		const ids = within('Desk/Crew');
		const search = () => recordOpening(administrator, { ids, what: 'found words in', query: 'kelp pier' });
		await letWrite(office.db, false);
		await expect(search()).rejects.toThrow();
		await letWrite(office.db, true);
		await search();
		await search();
		const lines = (await listLedger(office.db)).filter(({ details }) => details.query === 'kelp pier');
		expect(lines).toHaveLength(1);
	});

	it('asks that more is kept than the policy lets them', async () => {
		const mine = idIn('Desk/Crew');
		const ask = (ids: number[]) => makeRequest(jonas, { ids, keep: true, because: 'The pier is not built yet' });
		await grant(office, { to: 'Jonas', mailbox: 'Harbour', find: true, restore: false });
		await expect(ask([mine, idIn('Harbour/Crew')])).rejects.toThrow('for the owner');
		const [id = 0] = await ask([mine]);
		expect(await answerRequest(office, { id, word: 'Kept' })).toMatchObject({ state: 'granted' });
		expect(await countAnswers(jonas)).toBe(1);
		await noticeAnswers(jonas);
		expect(await countAnswers(jonas)).toBe(0);
		const [docket] = await listedDockets(office, { mailboxId: 2, limit: 1 });
		expect(docket?.sentences).toEqual([expect.stringMatching(/^Kept 1 message/)]);
	});

	it('reads the policy for what is theirs, and of no hold', async () => {
		await placeHold(office, { name: 'Secret claim', because: 'x', from: 'y', query: 'kelp' });
		expect((await readPolicy(office)).mailboxes.map(({ mailbox }) => mailbox)).toEqual(['Desk', 'Harbour']);
		const policy = await readPolicy(jonas);
		expect(policy.mailboxes.map(({ mailbox }) => mailbox)).toEqual(['Desk']);
		expect(JSON.stringify(policy)).not.toContain('Secret claim');
	});

	it('keeps what is theirs, and nothing else', async () => {
		const mine = idIn('Desk/Crew');
		expect(await keepOwn(jonas, { ids: [mine], decision: 'keep', options: {} })).toMatchObject({ messages: 1 });
		expect(
			await keepOwn(jonas, {
				ids: [mine],
				decision: 'pause',
				options: { until: '2027-01-31', because: 'still needed' }
			})
		).toMatchObject({ messages: 1 });
		await expect(
			keepOwn(jonas, { ids: [mine], decision: 'pause', options: { until: '2020-01-31', because: 'x' } })
		).rejects.toThrow('still to come');
		await expect(keepOwn(jonas, { ids: [idIn('Harbour/Crew')], decision: 'keep', options: {} })).rejects.toThrow(
			'no mailbox of your own'
		);
		await expect(keepOwn(jonas, { ids: [mine, idIn('Harbour/Crew')], decision: 'keep', options: {} })).rejects.toThrow(
			'of one mailbox'
		);
		await expect(ownerView(jonas, { mailboxId: 1 })).rejects.toThrow('no mailbox of your own');
		await expect(ownItems(jonas, { mailboxId: 1, limit: 5 })).rejects.toThrow('no mailbox of your own');
		await expect(ownerView(office, { mailboxId: 2 })).rejects.toThrow('no mailbox of your own');
	});
});

it('searches are kept for each person', async () => {
	await changeSaved(jonas, { name: ' Ramps ', question: 'q=ramp' });
	await changeSaved(jonas, { name: 'Ramps', question: 'q=ramps' });
	const [saved] = await listSaved(jonas);
	expect(saved).toMatchObject({ name: 'Ramps', question: 'q=ramps' });
	const nora = await as('Nora');
	expect(await listSaved(nora)).toEqual([]);
	await changeSaved(nora, { forget: saved?.id ?? 0 });
	expect(await listSaved(jonas)).toHaveLength(1);
	await changeSaved(jonas, { forget: saved?.id ?? 0 });
	expect(await listSaved(jonas)).toEqual([]);
});
