// What Kovrel is measured against. Ratios of figures taken in the same run; the machine's own figures stand beside them.
import { administratorNamed } from '../src/core/access/roles.ts';
import { spawnSync } from 'node:child_process';
import {
	copyFileSync,
	createReadStream,
	existsSync,
	mkdirSync,
	mkdtempSync,
	readFileSync,
	rmSync,
	statSync,
	writeFileSync
} from 'node:fs';
import { availableParallelism, cpus, tmpdir } from 'node:os';
import path from 'node:path';
import { MboxSplitter } from '../src/core/formats/mbox.ts';
import { listSource, readSource } from '../src/lib/server/intake/index.ts';
import { scanStructure } from '../src/core/message/structure.ts';
import { summarise } from '../src/core/message/summary.ts';
import { matchExpression, readQuery } from '../src/core/search/query.ts';
import { showBytes, showCount } from '../src/core/weigh/units.ts';
import { change, databaseFile, row, rows, sql } from '../src/lib/server/database/index.ts';
import { pack } from '../src/lib/server/mail/index.ts';
import { find, findItems } from '../src/lib/server/find/index.ts';
import { carryOut } from '../src/lib/server/docket/index.ts';
import type { Context } from '../src/lib/server/context/index.ts';
import { openContext, prepareDataFolder } from '../src/lib/server/process/index.ts';
import { prepareArchiving } from '../src/lib/server/archive/index.ts';
import { listWeights, weighMailbox } from '../src/lib/server/weigh/index.ts';
import { findingParts } from './find.ts';
import { folderParts } from './folder.ts';
import { deskParts } from './desk.ts';
import { rulesParts } from './rules.ts';
import { ordinaryQueries } from './queries.ts';
import { pagesParts } from './pages.ts';
import { destroyParts } from './destroy.ts';
import { savingCopies } from './backup.ts';
import { clearing } from './clear.ts';
import { listing } from './lists.ts';
import { liveParts } from './live.ts';
import { retaining } from './retention.ts';
import { importByTerminal, type ImportRun } from './import-run.ts';
import { MESSAGE_BYTES, writeMbox } from './mail.ts';
import { realImportParts } from './real-import.ts';
import { wordsOfFilesParts } from './words-of-files.ts';
import { best, each, percentile, ratio, table } from './measure.ts';
import { fillTables } from './tables.ts';

process.env.KOVREL_TIME_ZONE ??= 'UTC';
const full = process.argv.includes('--full');
const only = process.argv.find((word) => word.startsWith('--only='))?.slice(7);
const root = mkdtempSync(path.join(process.env.KOVREL_BENCH ?? tmpdir(), 'kovrel-bench-'));
const say = (text: string) => process.stderr.write(`${text}\n`);
const folder = (name: string) => {
	const made = path.join(root, name);
	mkdirSync(made);
	return made;
};

async function open(name: string): Promise<Context> {
	const data = folder(name);
	await prepareDataFolder(data, { isFirst: true });
	return openContext(data, { actor: administratorNamed('bench') });
}

async function readMessages(mbox: string, atMost: number): Promise<Uint8Array[]> {
	const messages: Uint8Array[] = [];
	const splitter = new MboxSplitter();
	for await (const chunk of createReadStream(mbox, { highWaterMark: 1 << 20 })) {
		messages.push(...splitter.push(chunk as Uint8Array).map(({ bytes }) => Uint8Array.from(bytes)));
		if (messages.length >= atMost) break;
	}
	return messages.slice(0, atMost);
}

async function stages(mbox: string, count: number): Promise<string> {
	const messages = await readMessages(mbox, count);
	const splitting = await best(2, async () => {
		let seen = 0;
		for await (const pieces of readSource(await listSource(mbox))) seen += pieces.length;
		return seen;
	});
	const perMessage = (milliseconds: number, of = messages.length) => `${((1000 * milliseconds) / of).toFixed(0)} µs`;
	const structure = await best(2, () => messages.forEach((bytes) => scanStructure(bytes)));
	const reading = await best(2, () => {
		for (const bytes of messages) summarise(bytes);
	});
	const packing = await best(2, () => messages.forEach((bytes) => pack(bytes, scanStructure(bytes))));
	const lines = [
		[
			'reading and splitting the file (the thread that stores)',
			perMessage(splitting, statSync(mbox).size / MESSAGE_BYTES)
		],
		['structure alone, over bytes', perMessage(structure)],
		['structure, addresses, dates, text, what is quoted (parse threads)', perMessage(reading)],
		['hash, cutting out large attachments, compression (parse threads)', perMessage(packing)]
	];
	return table(['a message of the same file, one thread', 'time'], lines);
}

interface Parsed {
	messages: number;
	seconds: number;
}
const ROUNDS = 3;

async function importing(): Promise<string> {
	const count = 100_000;
	const mbox = path.join(root, 'mail.mbox');
	await writeMbox(mbox, count);
	const bytes = statSync(mbox).size;
	say(`importing ${showCount(count)} messages, ${showBytes(bytes)}`);
	const python = (...words: string[]) =>
		JSON.parse(
			spawnSync('python3', [path.join('bench', 'python', 'parse.py'), mbox, ...words], { encoding: 'utf8' }).stdout
		) as Parsed;
	// in turn, as the machine is not equally quick at all times
	const theirs: Parsed[] = [];
	const runs: ImportRun[] = [];
	for (let round = 0; round < ROUNDS; round++) {
		theirs.push(python());
		for (const { data } of runs) rmSync(data, { recursive: true, force: true });
		runs.push(await importByTerminal(mbox, path.join(root, `import-${round}`)));
	}
	const decoded = python('decode');
	const ours = runs.at(-1) as ImportRun;
	const context = await openContext(ours.data, { actor: administratorNamed('bench'), readonly: true });
	const stored = await row<{ raw: number; stored: number }>(
		context.db,
		sql`SELECT (SELECT sum(bytes) FROM item) AS raw, (SELECT sum(stored_bytes) FROM content) AS stored`
	);
	await context.db.destroy();
	const whereTimeGoes = await stages(mbox, 3_000);
	const file = statSync(databaseFile(ours.data)).size;
	rmSync(ours.data, { recursive: true });
	rmSync(mbox);
	const seconds = (of: { seconds: number }[]) => of.reduce((sum, one) => sum + one.seconds, 0) / of.length;
	const rate = (messages: number, seconds: number) => `${showCount(Math.round(messages / seconds))} a second`;
	return [
		'## Import, end to end',
		`${showCount(count)} messages, ${showBytes(bytes)}, from the terminal: parse, hash, compress, index, commit; against Python's \`mailbox\` and \`email\` that parse the same file and do nothing with it.`,
		table(
			['', 'messages', 'seconds'],
			[
				["Python's parse alone", rate(count, seconds(theirs)), theirs.map((one) => one.seconds.toFixed(1)).join(', ')],
				["Python's parse, bodies decoded", rate(decoded.messages, decoded.seconds), decoded.seconds.toFixed(1)],
				['Kovrel, all of it', rate(ours.added, seconds(runs)), runs.map((one) => one.seconds.toFixed(1)).join(', ')]
			]
		),
		`**Kovrel does ${ratio(seconds(theirs), seconds(runs))} times the messages a second of Python's parse alone** (required: 1; goal: 2), and ${ratio(decoded.seconds, seconds(runs))} times those of a parse that decodes, as Kovrel has to. Stored: ${ratio(stored?.stored ?? 0, stored?.raw ?? 1)} of the raw bytes (goal: under 0.5 on mail that is mostly text); the data file with its index ${ratio(file, stored?.raw ?? 1)}.`,
		'Where the time goes:',
		whereTimeGoes
	].join('\n\n');
}

async function memory(): Promise<string> {
	const sizes = full ? [1e9, 4e9] : [100e6, 400e6];
	const lines: string[][] = [];
	for (const size of sizes) {
		const mbox = path.join(root, 'large.mbox');
		await writeMbox(mbox, Math.round(size / MESSAGE_BYTES));
		const bytes = statSync(mbox).size;
		say(`importing ${showBytes(bytes)}`);
		const run = await importByTerminal(mbox, path.join(root, 'large'));
		lines.push([
			showBytes(bytes),
			showBytes(run.peakBytes),
			`${showCount(Math.round(run.added / run.seconds))} a second`
		]);
		rmSync(run.data, { recursive: true });
		rmSync(mbox);
	}
	return [
		'## Memory of an import',
		table(['mbox file', 'peak memory', 'messages'], lines),
		'Required: the same for both, under 400 MB.'
	].join('\n\n');
}

async function archiving(): Promise<string> {
	const count = 200_000;
	say(`archiving ${showCount(count)} items`);
	const filled = await open('archiving');
	await fillTables(filled.db, count, { words: 0 });
	await change(filled.db, sql`PRAGMA wal_checkpoint(TRUNCATE)`);
	await filled.db.destroy();
	const copied = async (name: string) => {
		const to = folder(name);
		copyFileSync(databaseFile(filled.dataFolder), databaseFile(to));
		return openContext(to, { actor: administratorNamed('bench') });
	};
	const taken: { bare: number[]; docket: number[] } = { bare: [], docket: [] };
	// in turn, each on a copy of its own
	for (let round = 0; round < 3; round++) {
		const bare = await copied(`bare-${round}`);
		await change(
			bare.db,
			sql`INSERT INTO folder (id, mailbox_id, tree, name, name_key, path) SELECT id + 1000, 1, 'archive', name, name_key, path FROM folder WHERE id <= 60`
		);
		const update = sql`UPDATE item SET state = 'archived', origin_folder_id = folder_id, folder_id = folder_id + 1000, docket_id = 1 WHERE mailbox_id = 1 AND state = 'live'`;
		taken.bare.push(await best(1, () => change(bare.db, update)));
		await bare.db.destroy();
		const whole = await copied(`docket-${round}`);
		const draft = await prepareArchiving(whole, { mailbox: 'Office', before: '2030-01-01' });
		taken.docket.push(await best(1, () => carryOut(whole, { id: draft.id, expected: draft })));
		await whole.db.destroy();
	}
	const [bare, docket] = [percentile(taken.bare, 0.5), percentile(taken.docket, 0.5)];
	return [
		'## Archiving 200,000 items',
		table(
			['', 'milliseconds, the middle of three'],
			[
				['the bare UPDATE of as many rows, with its indexes, in one transaction', bare.toFixed(0)],
				['carrying out a docket: counted again, frozen, in batches with summaries and ledger', docket.toFixed(0)]
			]
		),
		`**${ratio(docket, bare)} times the bare UPDATE** (required: 2).`
	].join('\n\n');
}

async function searching(context: Context, words: readonly string[]): Promise<string[]> {
	const queries = await ordinaryQueries(context, words, 150);
	const bare = (text: string) =>
		rows(
			context.db,
			sql`SELECT rowid, rank FROM words WHERE words MATCH ${matchExpression(readQuery(text)) ?? null} ORDER BY rank LIMIT 25`
		);
	const ours = (text: string) =>
		findItems(context.db, { query: readQuery(text), mailboxId: 1, states: ['live', 'archived'] }, 'relevance', 25, 0);
	const whole = (text: string) => find(context, { query: text, mailbox: 'Office', limit: 25 });
	const sum = (values: number[]) => values.reduce((a, b) => a + b, 0);
	for (const text of queries) await bare(text);
	const taken: Record<'bare' | 'ours' | 'whole', number[]> = { bare: [], ours: [], whole: [] };
	// in turn, so that what else goes on here meets all of them
	for (const text of queries) {
		taken.bare.push(...(await each([() => bare(text)])));
		taken.ours.push(...(await each([() => ours(text)])));
		taken.whole.push(...(await each([() => whole(text)])));
	}
	const shown = (values: number[]) =>
		`${percentile(values, 0.5).toFixed(1)} / ${percentile(values, 0.95).toFixed(1)} ms`;
	return [shown(taken.bare), shown(taken.ours), `**${ratio(sum(taken.ours), sum(taken.bare))}**`, shown(taken.whole)];
}

async function atSize(count: number): Promise<{ search: string[]; weigh: string[] }> {
	say(`filling the tables with ${showCount(count)} messages`);
	const context = await open(`at-${count}`);
	const vocabulary = await fillTables(context.db, count, { words: 60 });
	say('searching');
	const search = await searching(context, vocabulary.words);
	say('weighing');
	const scan = await best(3, () =>
		row(
			context.db,
			sql`SELECT count(*), sum(bytes), sum(seen = 0) FROM item NOT INDEXED WHERE mailbox_id = 1 AND state IN ('live', 'binned')`
		)
	);
	const first = await best(5, async () => {
		await listWeights(context);
		await weighMailbox(context, { mailboxId: 1 });
	});
	await context.db.destroy();
	rmSync(context.dataFolder, { recursive: true });
	const name = showCount(count);
	return {
		search: [name, ...search],
		weigh: [name, `${first.toFixed(1)} ms`, `${scan.toFixed(0)} ms`, ratio(first, scan)]
	};
}

async function searchAndWeigh(): Promise<string> {
	const sizes = full ? [200_000, 1_000_000] : [200_000];
	const found = [];
	for (const size of sizes) found.push(await atSize(size));
	return [
		'## Search',
		'150 queries of one to three words with at most 10,000 hits, best first, 25 shown. The bare query is FTS5 alone: the same MATCH, order and limit. Median / 95th percentile.',
		table(
			[
				'messages',
				'bare FTS5',
				'the same with mailbox, state and what is shown',
				'ratio (required: 1.3)',
				'the whole answer, with count and text around the hits'
			],
			found.map(({ search }) => search)
		),
		"## Weigh's first page",
		'All that the page asks, from the summaries, against one pass over the items.',
		table(
			['messages', 'first page', 'one pass over the items', 'ratio'],
			found.map(({ weigh }) => weigh)
		)
	].join('\n\n');
}

/* Measured anew, or as it was measured last: a part can be repeated alone. */
function together(measured: string[]): string {
	const file = path.join('docs', 'benchmarks.md');
	const before = existsSync(file)
		? readFileSync(file, 'utf8')
				.split(/^(?=## )/m)
				.slice(1)
		: [];
	const sections = measured.flatMap((text) => text.split(/^(?=## )/m));
	const heading = (section: string) => section.split('\n')[0];
	const kept = before.map((old) => sections.find((section) => heading(section) === heading(old)) ?? old);
	const added = sections.filter((section) => !before.some((old) => heading(old) === heading(section)));
	return [...kept, ...added].map((section) => section.trim()).join('\n\n');
}

const parts: Record<string, () => Promise<string>> = {
	import: importing,
	memory,
	archive: archiving,
	search: searchAndWeigh,
	...Object.fromEntries(
		Object.entries({
			...clearing,
			...listing,
			...retaining,
			...savingCopies,
			...findingParts,
			...folderParts,
			...rulesParts,
			...deskParts,
			...liveParts,
			...destroyParts,
			...pagesParts,
			...wordsOfFilesParts,
			...realImportParts
		}).map(([name, part]) => [name, () => part({ root, full, say, folder, open })])
	)
};
try {
	const measured: string[] = [];
	for (const [name, part] of Object.entries(parts))
		if (!only || only.split(',').includes(name)) measured.push(await part());
	const head = [
		'# Benchmarks',
		`Made by \`npm run bench -- --full\` on ${availableParallelism()} cores (${cpus()[0]?.model.trim() ?? 'unknown'}), Node ${process.version}. Ratios are of figures taken in the same run; on another machine the times differ, the ratios hold. Nothing here is asserted in the tests. Without \`--full\` the sizes are smaller; \`--only=import,memory,archive,search,lots,dockets,proposals,lists,retention,backup,find,folder,rules,desk,live,destroy,pages,real-import,import-after-little,words-of-files\` repeats parts.`
	].join('\n\n');
	writeFileSync(path.join('docs', 'benchmarks.md'), `${head}\n\n${together(measured)}\n`);
} finally {
	rmSync(root, { recursive: true, force: true });
}
