import { describe, expect, it } from 'vitest';
import { type ClassFields, wrongClass } from '../../../core/retention/classes.ts';
import type { Context } from '../context/context.ts';
import { carryOut } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import type { Decided } from '../docket/scope.ts';
import { showDocket } from '../docket/show-docket.ts';
import { find } from '../find/find.ts';
import { readMessage } from '../find/read-message.ts';
import { readLedger } from '../ledger/read-ledger.ts';
import { consistent, dues, FINANCE, folderId, itemId, retain, retainedOffice, terms } from '../testing/retaining.ts';
import { discardClass, showClasses } from './classes.ts';
import { readPolicy } from './policy.ts';
import { type RetentionSetting, setRetention, tryRetention } from './retain.ts';
import { setRetaining } from './run-schedule.ts';
import { saveSeries } from './schedule.ts';

const CREW: ClassFields = { name: 'Crew papers', letter: 'C', isProtected: true, quotaBytes: undefined };

type ClassSetting = Partial<Extract<RetentionSetting, { kind: 'class' }>>;
const setClass = (context: Context, wish: ClassSetting, because?: string) =>
	setRetention(context, { wish: { kind: 'class', class: null, ...wish }, because });
const found = async (context: Context, text: string) =>
	(await find(context, { query: text, limit: 10 })).hits.map(({ subject }) => subject).sort();

async function classified(context: Context, subject: string, word: string): Promise<number> {
	const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, subject)] };
	const line: Decided = { decision: 'classify', options: { class: word, because: 'they are' }, scope };
	const { id } = await prepareDocket(context, { mailboxId: 1, lines: [line] });
	await carryOut(context, { id });
	return id;
}

const deleting = async (context: Context, subject: string) => {
	const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, subject)] };
	return prepareDocket(context, { mailboxId: 1, lines: [{ decision: 'delete', options: {}, scope }] });
};

describe('a class of the office', () => {
	it('protects its mail as records, is searched by word and name, and stands in sentences, the policy and the ledger', async () => {
		const context = await retainedOffice();
		await setClass(context, { fields: CREW });
		const docket = await classified(context, 'Odd 2023', 'crew-papers');
		expect((await showDocket(context, { id: docket })).sentences[0]).toMatch(
			/^Classed 1 message as Crew papers, because they are/
		);
		expect((await deleting(context, 'Odd 2023')).lines[0]?.left).toEqual([{ reason: 'record', messages: 1 }]);
		for (const text of ['class:crew-papers', 'class:"Crew papers"', 'class:crew*'])
			expect(await found(context, text), text).toEqual(['Odd 2023']);
		expect(await found(context, 'class:nothing')).toEqual([]);
		expect((await readPolicy(context)).general.join(' ')).toContain(
			'Class C, “Crew papers”: mail in a folder without a period stays. It is protected as records'
		);
		const lines = await readLedger(context, { limit: 5 });
		expect(lines.find(({ action }) => action === 'retention-set')?.details).toMatchObject({ class: 'Crew papers' });
		await consistent(context);
	});

	it('gives a period to mail whose folder has none: a record’s by a series alone', async () => {
		const context = await retainedOffice();
		await saveSeries(context, { fields: FINANCE });
		await expect(setClass(context, { fields: CREW, retention: terms('received destroy P1Y -') })).rejects.toThrow(
			'takes its period from a series'
		);
		await setClass(context, { fields: CREW, retention: { series: 'FIN-01' } });
		await retain(context, 'Odds', { class: 'crew-papers' });
		expect((await dues(context))['Odd 2023']).toBe('2025-06-30 archive');
		expect((await readMessage(context, { id: await itemId(context, 'Odd 2023') })).standing).toMatchObject({
			class: 'crew-papers',
			series: 'FIN-01',
			sentence: expect.stringContaining('(the period of the class “Crew papers”)') as string
		});
		await consistent(context);
	});

	it('is renamed and keeps its word; taking its protection away wants a reason, and says what becomes due', async () => {
		const context = await retainedOffice();
		await setClass(context, { fields: CREW });
		await retain(context, 'Odds', { class: 'crew-papers' });
		const renamed = { class: 'crew-papers', fields: { ...CREW, name: 'Seafarers' } };
		await setClass(context, renamed);
		expect((await showClasses(context)).at(-1)).toMatchObject({ word: 'crew-papers', name: 'Seafarers', places: 1 });
		const open = { class: 'crew-papers', fields: { ...renamed.fields, isProtected: false } };
		expect(await tryRetention(context, { kind: 'class', ...open })).toMatchObject({ needsReason: true });
		await expect(setClass(context, open)).rejects.toThrow('These are records');
		await setClass(context, open, 'decided by the board');
		expect(await deleting(context, 'Odd 2023')).toMatchObject({ messages: 1 });
		await consistent(context);
	});

	it('has a quota in every mailbox, and a mailbox may have its own: nothing more comes into it beyond that', async () => {
		const context = await retainedOffice();
		await setClass(context, { fields: { ...CREW, isProtected: false, quotaBytes: 100 } });
		await expect(classified(context, 'Odd 2023', 'crew-papers')).rejects.toThrow(
			/^Mail of the class “Crew papers” may weigh 100\u00a0bytes in Office; with this it would weigh/
		);
		await retain(context, 'Accounts/Drafts', { class: 'crew-papers' });
		const scope: Decided['scope'] = { kind: 'items', ids: [await itemId(context, 'Odd 2023')] };
		const { id } = await prepareDocket(context, { mailboxId: 1, lines: [{ decision: 'delete', options: {}, scope }] });
		await carryOut(context, { id });
		// a restore to a folder of the class counts as well
		const back: Decided = { decision: 'restore', options: { folder: 'Accounts/Drafts' }, scope };
		const restoring = await prepareDocket(context, { mailboxId: 1, lines: [back] });
		await expect(carryOut(context, { id: restoring.id })).rejects.toThrow('may weigh 100\u00a0bytes');
		await setRetaining(context, { mailbox: 'Office', quotas: { 'crew-papers': 10_000 } });
		await carryOut(context, { id: restoring.id });
		await expect(setRetaining(context, { mailbox: 'Office', quotas: { nothing: 1 } })).rejects.toThrow('no class');
		await consistent(context);
	});

	it('is removed only when nothing is of it, and is in use again when it is made anew', async () => {
		const context = await retainedOffice();
		await setClass(context, { fields: CREW });
		const because = 'not needed';
		await retain(context, 'Odds', { class: 'crew-papers' });
		await expect(discardClass(context, { class: 'crew-papers', because })).rejects.toThrow(
			'1 folder or folder name sets it, and 2 messages are of it'
		);
		await retain(context, 'Odds', { class: null });
		await expect(discardClass(context, { class: 'crew-papers', because: ' ' })).rejects.toThrow('Say why');
		await expect(discardClass(context, { class: 'transitory', because })).rejects.toThrow('needs a class');
		await discardClass(context, { class: 'crew-papers', because });
		expect((await showClasses(context)).map(({ word }) => word)).toEqual(['transitory', 'working', 'record']);
		await expect(retain(context, 'Odds', { class: 'crew-papers' })).rejects.toThrow('There is no class');
		const folderIds = [await folderId(context, 'Odds')];
		await setClass(context, { fields: { ...CREW, isProtected: false } });
		await setRetention(context, { wish: { kind: 'folders', folderIds, class: 'crew-papers' } });
		expect(await found(context, 'class:crew-papers')).toEqual(['Odd 2023', 'Odd never']);
		await consistent(context);
	});
});

describe('the fields of a class', () => {
	const others = [{ name: 'record', letter: 'R' }];
	it.each<[string, Partial<ClassFields>, boolean, RegExp | undefined]>([
		['are right', {}, false, undefined],
		['need a name', { name: ' - ' }, false, /needs a name/],
		['need a short name', { name: 'a'.repeat(61) }, false, /up to 60 letters/],
		['need a letter', { letter: '' }, false, /one or two letters/],
		['need a letter that is one', { letter: '??' }, false, /one or two letters/],
		['need a name of their own', { name: 'RECORD' }, false, /There is a class “record” already/],
		['need a letter of their own', { letter: 'r' }, false, /The letter R stands for “record”/],
		['need a quota of a byte', { quotaBytes: 0 }, false, /at least one byte/],
		['of the unclassed protect nothing', {}, true, /cannot be protected/],
		['of the unclassed have no quota', { isProtected: false, quotaBytes: 5 }, true, /quota of its mailbox/]
	])('%s', (_name, also, isUnclassed, expected) => {
		const wrong = wrongClass({ ...CREW, ...also }, others, isUnclassed);
		if (expected) expect(wrong).toMatch(expected);
		else expect(wrong).toBeUndefined();
	});
});
