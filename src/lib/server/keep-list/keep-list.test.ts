import { execFileSync } from 'node:child_process';
import { afterAll, describe, expect, it } from 'vitest';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { Context } from '../context/context.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { decideKeepList, discardKeepLine, readKeepList, searchKeepList, standingKeepLines } from './keep-list.ts';

afterAll(closeParsePool);

const ON = 'Mon, 02 Mar 2020 10:00:00 +0000';

describe('a pasted list', () => {
	it.each<[string, string, string[]]>([
		['one name a line', 'Slipway claim\nMV Terne\n', ['Slipway claim', 'MV Terne']],
		['line ends of Windows, blanks around', '  Slipway claim \r\n\r\n MV Terne\r\n', ['Slipway claim', 'MV Terne']],
		['the same twice', 'Terne\nTerne\n Terne', ['Terne']],
		['the first column of a CSV', 'Name,Since\n"Harbour, east",2020\nTerne,2021', ['Name', 'Harbour, east', 'Terne']],
		['a table with semicolons or tabs', 'Terne;MV\nHarbour\teast', ['Terne', 'Harbour']],
		['a mark at its beginning', '\ufeffTerne', ['Terne']],
		['quotation marks within a cell', '"the ""Terne"""\n', ['the Terne']],
		['a quotation mark in the middle of a line', 'the "Terne\nHarbour', ['the Terne', 'Harbour']],
		['nothing', ' \n\n', []]
	])('%s', (_what, text, lines) => {
		expect(readKeepList(text)).toEqual(lines);
	});

	// Python's csv module, as an outside writer of RFC 4180
	it('of cells that Python has written is read as they were', () => {
		const cells = ['plain', 'with, comma', 'two\nlines', 'a "quoted" word', ' blanks ', 'süß', '=1+1'];
		const script = 'import csv, json, sys; csv.writer(sys.stdout).writerows([[c, "2"] for c in json.load(sys.stdin)])';
		const text = execFileSync('python3', ['-c', script], { input: JSON.stringify(cells), encoding: 'utf8' });
		const asOneLine = cells.map((cell) => cell.replace(/["\s]+/g, ' ').trim());
		expect(readKeepList(text)).toEqual(asOneLine);
	});

	it('has at most 2,000 lines', () => {
		const lines = Array.from({ length: 2_001 }, (_, n) => `line ${n}`);
		expect(readKeepList(lines.slice(1).join('\n'))).toHaveLength(2_000);
		expect(() => readKeepList(lines.join('\n'))).toThrow(/at most 2,000 lines; this one has 2,001/);
	});
});

async function office(): Promise<Context> {
	const context = await openOffice();
	const mail = (folder: string) => [
		letter(`Ramp plan ${folder}`, ON, 'The gangway stays.'),
		letter(`Winter ${folder}`, ON, 'About the slipway claim of last year.'),
		letter(`Claim ${folder}`, ON, 'It is about the slipway; a claim, they say.'),
		letter(`Other ${folder}`, ON, 'Nothing of it.', 'MV Terne <terne@skerryline.example>')
	];
	for (const mailbox of ['Office', 'Workshop'])
		await importMailbox(context, { path: mboxFile(mail(mailbox)), mailbox, folder: 'Inbox' });
	return context;
}

const kept = async ({ db }: Context) =>
	(
		await rows<{ subject: string }>(
			db,
			sql`SELECT subject FROM item JOIN message ON message.id = item.message_id WHERE item.kept = 1 ORDER BY subject`
		)
	).map(({ subject }) => subject);

describe('a keep-list', () => {
	it('finds each line as it stands, its words in a row, in text, subject and names', async () => {
		const context = await office();
		const hits = await searchKeepList(context, { text: 'slipway claim\nramp plan\nmv terne\nferry "timetable' });
		expect(hits.map(({ line, messages }) => [line, messages])).toEqual([
			['slipway claim', 2],
			['ramp plan', 2],
			['mv terne', 2],
			['ferry timetable', 0]
		]);
		expect(hits[0]?.examples.toSorted()).toEqual(['Winter Office', 'Winter Workshop']);
		expect(hits[0]?.query).toBe('"slipway claim"');
		const inOne = await searchKeepList(context, { mailboxId: 1, text: 'slipway claim' });
		expect(inOne[0]?.examples).toEqual(['Winter Office']);
	});

	it('counts hits in the bin apart: they can be restored', async () => {
		const context = await office();
		const scope = { kind: 'query' as const, query: 'subject:Winter', label: 'of a search' };
		const docket = await prepareDocket(context, { mailboxId: 1, lines: [{ decision: 'delete', options: {}, scope }] });
		await carryOut(context, { id: docket.id });
		const [hit] = await searchKeepList(context, { mailboxId: 1, text: 'slipway claim' });
		expect([hit?.messages, hit?.binned]).toEqual([0, 1]);
	});

	it('keeps its hits in every mailbox by a docket of each, and these can be taken back', async () => {
		const context = await office();
		const decision = { decision: 'keep' as const, options: {}, standing: false };
		const dockets = await decideKeepList(context, { text: 'slipway claim\nterne', ...decision });
		expect(dockets.map(({ messages }) => messages)).toEqual([2, 2]);
		expect(await kept(context), 'nothing is done before it is carried out').toEqual([]);
		for (const { id } of dockets) await carryOut(context, { id });
		expect(await kept(context)).toEqual(['Other Office', 'Other Workshop', 'Winter Office', 'Winter Workshop']);
		await takeBack(context, { id: dockets[0]?.id as number });
		expect(await kept(context)).toEqual(['Other Workshop', 'Winter Workshop']);
		expect(await standingKeepLines(context, { mailboxId: 1 })).toEqual([]);
	});

	it('stands for mail that comes later, until a line is discarded', async () => {
		const context = await office();
		const text = 'slipway claim\nterne';
		await decideKeepList(context, { mailboxId: 1, text, decision: 'keep', options: {}, standing: true });
		const lines = await standingKeepLines(context, { mailboxId: 1 });
		expect(lines.map((line) => line.text)).toEqual(['slipway claim', 'terne']);

		const later = (n: number) => [
			letter(`Late ${n}`, ON, 'The slipway claim again.'),
			letter(`Crew ${n}`, ON, 'The Terne sails.'),
			letter(`Rest ${n}`, ON, 'Words.')
		];
		await importMailbox(context, { path: mboxFile(later(1)), mailbox: 'Office' });
		expect(await kept(context)).toEqual(['Crew 1', 'Late 1']);
		await importMailbox(context, { path: mboxFile(later(2)), mailbox: 'Workshop' });
		expect(await kept(context), 'it stands in its own mailbox').toEqual(['Crew 1', 'Late 1']);

		const [first] = lines;
		await discardKeepLine(context, { mailboxId: 1, lineId: first?.id as number });
		await expect(discardKeepLine(context, { mailboxId: 1, lineId: first?.id as number })).rejects.toThrow(
			'There is no such line any more. Nothing was changed.'
		);
		await importMailbox(context, { path: mboxFile(later(3)), mailbox: 'Office' });
		expect(await kept(context)).toEqual(['Crew 1', 'Crew 3', 'Late 1']);
	});

	it('protects what it keeps from the next docket that deletes', async () => {
		const context = await office();
		const [docket] = await decideKeepList(context, {
			mailboxId: 1,
			text: 'terne',
			decision: 'keep',
			options: {},
			standing: false
		});
		await carryOut(context, { id: docket?.id as number });
		const scope = { kind: 'query' as const, query: 'from:skerryline.example', label: 'from Skerryline' };
		const cleared = await prepareDocket(context, { mailboxId: 1, lines: [{ decision: 'delete', options: {}, scope }] });
		expect([cleared.messages, cleared.lines[0]?.left.map(({ reason, messages }) => [reason, messages])]).toEqual([
			3,
			[['kept', 1]]
		]);
	});

	it.each<[string, string, string]>([
		['an empty list', ' \n', 'The list is empty. Nothing was done.'],
		['a mailbox that is not there', 'terne', 'There is no mailbox 9. Nothing was done.']
	])('refuses %s, and puts nothing on a docket', async (what, text, message) => {
		const context = await office();
		const mailboxId = what === 'an empty list' ? 1 : 9;
		const decided = decideKeepList(context, { mailboxId, text, decision: 'keep', options: {}, standing: true });
		await expect(decided).rejects.toThrow(message);
		expect(await rows(context.db, sql`SELECT id FROM docket`)).toEqual([]);
	});
});
