import { spawnSync } from 'node:child_process';
import { rmSync, statSync } from 'node:fs';
import path from 'node:path';
import { administratorNamed } from '../src/core/access/roles.ts';
import { showBytes, showCount } from '../src/core/weigh/units.ts';
import { databaseFile, row, sql } from '../src/lib/server/database/index.ts';
import { openContext } from '../src/lib/server/process/index.ts';
import { importByTerminal } from './import-run.ts';
import { ratio, table } from './measure.ts';
import { writeRealMbox } from './real-mail.ts';

interface Part {
	root: string;
	full: boolean;
	say: (text: string) => void;
}

interface Parsed {
	messages: number;
	seconds: number;
}

const ROUNDS = 2;

/* What an import of mail like real mail costs, against Python's parse of the same file in turn. */
async function ofMail({ root, full, say }: Part, name: string, files: number): Promise<string[][]> {
	const count = full ? 20_000 : 5_000;
	const mbox = path.join(root, `real-${name}.mbox`);
	const { withFiles, fileBytes } = await writeRealMbox(mbox, count, { files });
	const bytes = statSync(mbox).size;
	say(`importing ${showCount(count)} messages like real ones (${name}), ${showBytes(bytes)}`);
	const python = (...words: string[]) =>
		JSON.parse(
			spawnSync('python3', [path.join('bench', 'python', 'parse.py'), mbox, ...words], { encoding: 'utf8' }).stdout
		) as Parsed;
	const theirs: number[] = [];
	const later: number[] = [];
	const now: number[] = [];
	let kept = '';
	for (let round = 0; round < ROUNDS; round++) {
		theirs.push(python().seconds);
		for (const [into, options] of [
			[later, []],
			[now, ['--files-now']]
		] as const) {
			const data = path.join(root, `real-${name}-${round}-${options.length}`);
			into.push((await importByTerminal(mbox, data, ...options)).seconds);
			if (kept) rmSync(kept, { recursive: true });
			kept = data;
		}
	}
	const context = await openContext(kept, { actor: administratorNamed('bench'), readonly: true });
	const stored = await row<{ raw: number; stored: number }>(
		context.db,
		sql`SELECT (SELECT sum(bytes) FROM item) AS raw, (SELECT sum(stored_bytes) FROM content) AS stored`
	);
	await context.db.destroy();
	const file = statSync(databaseFile(kept)).size;
	rmSync(kept, { recursive: true });
	rmSync(mbox);
	const rate = (of: number[]) => `${showCount(Math.round(count / middle(of)))} a second`;
	return [
		[
			name,
			`${showCount(count)}, ${showBytes(bytes)}`,
			withFiles > 0 ? `${showCount(withFiles)}, ${showBytes(fileBytes)}` : 'as in the corpora',
			rate(theirs),
			rate(later),
			`**${ratio(middle(theirs), middle(later))}**`,
			`**${ratio(middle(theirs), middle(now))}**`,
			ratio(stored?.stored ?? 0, stored?.raw ?? 1),
			ratio(file, stored?.raw ?? 1)
		]
	];
}

const TRIED = 50;

/* The job recommends to try a little first: an archive whose statistics are of a few messages takes the rest no slower. */
async function afterLittle({ root, full, say }: Part): Promise<string[]> {
	const count = full ? 20_000 : 5_000;
	const [little, much] = [path.join(root, 'little.mbox'), path.join(root, 'much.mbox')];
	await writeRealMbox(little, TRIED, { files: 0 });
	await writeRealMbox(much, count, { files: 0 });
	say(`importing ${showCount(count)} messages after ${TRIED}, and into a new archive`);
	const fresh: number[] = [];
	const after: number[] = [];
	for (let round = 0; round < ROUNDS; round++) {
		const [one, other] = [path.join(root, `fresh-${round}`), path.join(root, `after-${round}`)];
		fresh.push((await importByTerminal(much, one)).seconds);
		await importByTerminal(little, other);
		after.push((await importByTerminal(much, other)).seconds);
		for (const data of [one, other]) rmSync(data, { recursive: true });
	}
	for (const file of [little, much]) rmSync(file);
	return [
		table(
			[`${showCount(count)} messages like real ones, from the terminal`, 'seconds'],
			[
				['into a new archive', seconds(fresh)],
				[`into one that holds ${TRIED} messages since another import`, seconds(after)]
			]
		),
		`**${ratio(middle(after), middle(fresh))} times as long.**`
	];
}

const middle = (of: number[]) => of.reduce((sum, one) => sum + one, 0) / of.length;
const seconds = (of: number[]) => of.map((one) => one.toFixed(1)).join(', ');

/** Parts of the benchmarks, by name. */
export const realImportParts = {
	'real-import': async (part: Part): Promise<string> =>
		[
			'## Import of mail like real mail',
			'Headers, structures and lines of the corpora (Debian’s golang-github-gatherstars-com-jwz-dev, libpython3.11-testsuite, golang-github-jhillyerd-enmime-dev), recombined line by line: no message and no file is like another. “Office” gives every eighth message a file of its own (PDF, Office Open XML, PNG; sizes from memory). Python’s `mailbox` and `email` parse the same file in turn; both imports are the terminal’s.',
			table(
				[
					'mail',
					'messages',
					'with files',
					"Python's parse",
					'Kovrel, words of files later',
					'ratio (goal: 2)',
					'with words of files',
					'stored of the raw bytes',
					'data file'
				],
				[...(await ofMail(part, 'corpora', 0)), ...(await ofMail(part, 'office', 0.125))]
			)
		].join('\n\n'),
	'import-after-little': async (part: Part): Promise<string> =>
		['## Import after a little one', ...(await afterLittle(part))].join('\n\n')
};
