import { rmSync } from 'node:fs';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import Database from 'better-sqlite3';
import { Dice } from '../demo/random.ts';
import { after, canRecord, type Files, filesIn, putFiles, record, type Recorded } from './recorded-writes.ts';
import { kovrel, letter, mboxFile, temporaryFolder } from './server.ts';

/*
 * A power cut at any write: what Kovrel writes is recorded, and made again up to a random write, without a random part of
 * what was not synced by then. Everything is whole then, and what was acknowledged is there. More of them:
 * KOVREL_REPLAYS=200, others: KOVREL_SEED.
 */
const REPLAYS = Number(process.env.KOVREL_REPLAYS ?? 20);
const MESSAGES = 120;
const MORE = 60;
const dice = new Dice(Number(process.env.KOVREL_SEED ?? 7));
const folder = temporaryFolder();
const data = path.join(folder, 'data');
const copy = path.join(folder, 'copy');
const OFFICE = ['--mailbox', 'Office'];

interface Work {
	name: string;
	/** What is done before, and not recorded. */
	first?: string[];
	words: string[];
	/** How many messages are in each state once it has said that it is done. */
	acknowledged: Record<string, number>;
	before: Files;
	recorded: Recorded[];
}

const letters = (from: number, count: number, name: string) =>
	mboxFile(
		folder,
		Array.from({ length: count }, (_, n) =>
			letter(`Berth ${from + n}`, 'Mon, 3 Feb 2020 10:00:00 +0000', `Words of berth ${from + n}. `.repeat(30))
		),
		name
	);
const steps: Omit<Work, 'before' | 'recorded'>[] = [
	{
		name: 'importing',
		words: ['import', path.join(folder, 'more.mbox'), ...OFFICE, '--files-later'],
		acknowledged: { live: MESSAGES + MORE }
	},
	{
		name: 'archiving',
		words: ['archive', ...OFFICE, '--before', '2030-01-01'],
		acknowledged: { archived: MESSAGES + MORE }
	},
	{ name: 'taking back', words: ['docket', 'take-back', '1'], acknowledged: { live: MESSAGES + MORE } },
	{
		name: 'deleting',
		first: ['docket', 'new', 'delete', ...OFFICE, '--by', 'year', '--key', '2020'],
		words: ['docket', 'carry-out', '2'],
		acknowledged: { binned: MESSAGES + MORE }
	},
	{ name: 'destroying', words: ['bin', 'empty', ...OFFICE, '--confirm', 'Office'], acknowledged: {} }
];
const works: Work[] = [];

test.beforeAll(() => {
	if (!canRecord()) return;
	letters(MESSAGES, MORE, 'more.mbox');
	expect(kovrel(data, 'import', letters(0, MESSAGES, 'mail.mbox'), ...OFFICE, '--new').status).toBe(0);
	for (const step of steps) {
		if (step.first) expect(kovrel(data, ...step.first).status).toBe(0);
		const before = filesIn(data);
		const command = [process.execPath, path.resolve('build/programs/kovrel.mjs'), ...step.words];
		works.push({ ...step, before, recorded: record(data, command, { KOVREL_DATA: data, KOVREL_TIME_ZONE: 'UTC' }) });
	}
});
test.afterAll(() => rmSync(folder, { recursive: true, force: true }));

function states(): Record<string, number> {
	const db = new Database(path.join(copy, 'kovrel.sqlite'), { readonly: true });
	const found = db.prepare('SELECT state, count(*) AS n FROM item GROUP BY state').all() as {
		state: string;
		n: number;
	}[];
	db.close();
	return Object.fromEntries(found.map(({ state, n }) => [state, n]));
}

for (const { name } of steps)
	test(`${name}, with the power cut at ${REPLAYS / steps.length} random writes: all is whole`, () => {
		test.skip(!canRecord(), 'strace is not here, or may not watch programs: nothing was tried.');
		test.setTimeout(600_000);
		const work = works.find((one) => one.name === name) as Work;
		const { before, recorded, acknowledged } = work;
		expect(recorded.filter(({ call }) => call === 'write').length).toBeGreaterThan(10);
		// first as it was recorded, whole: else the recording would say nothing
		for (let round = 0; round < Math.ceil(REPLAYS / steps.length); round++) {
			const count = round === 0 ? recorded.length : dice.between(1, recorded.length);
			putFiles(after(before, recorded, count, dice), data, copy);
			const { status, stdout, stderr } = kovrel(copy, 'verify', '--json');
			expect(status, `after ${count} of ${recorded.length} calls:\n${stdout}${stderr}`).toBe(0);
			if (recorded.slice(0, count).some(({ call }) => call === 'said')) expect(states()).toEqual(acknowledged);
		}
	});
