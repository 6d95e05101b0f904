// What clearing is measured against: grouping, carrying out, detectors, and a sheet that is scrolled.
import { administratorNamed } from '../src/core/access/roles.ts';
import { spawnSync } from 'node:child_process';
import { copyFileSync, rmSync, statSync } from 'node:fs';
import path from 'node:path';
import { showBytes, showCount } from '../src/core/weigh/units.ts';
import { change, databaseFile, raw, sql } from '../src/lib/server/database/index.ts';
import { carryOut, type Decided, prepareDocket } from '../src/lib/server/docket/index.ts';
import type { Context } from '../src/lib/server/context/index.ts';
import { importMailbox } from '../src/lib/server/intake/index.ts';
import { openContext } from '../src/lib/server/process/index.ts';
import { findProposals, listProposals } from '../src/lib/server/lots/index.ts';
import { chromiumOptions } from '../tools/chromium.js';
import { writeMbox } from './mail.ts';
import { best, percentile, ratio, table } from './measure.ts';
import { administratorIn, serve } from './serve.ts';
import { fillTables } from './tables.ts';

/** What the parts need of the run. */
export interface Bench {
	root: string;
	full: boolean;
	say(text: string): void;
	folder(name: string): string;
	open(name: string): Promise<Context>;
}

/** Milliseconds that a piece of work takes. */
export const timed = async (work: () => Promise<unknown>) => {
	const began = performance.now();
	await work();
	return performance.now() - began;
};

/* Through the server, as a person asks: the sheet by one thread, a page by another meanwhile. */
async function grouping(bench: Bench): Promise<string> {
	const count = bench.full ? 1_000_000 : 200_000;
	bench.say(`grouping ${showCount(count)} messages`);
	const context = await bench.open('grouping');
	await fillTables(context.db, count, { words: 0 });
	await change(context.db, sql`UPDATE item SET thread_id = id % 100000 + 1`);
	await change(
		context.db,
		sql`WITH RECURSIVE n (i) AS (VALUES (1) UNION ALL SELECT i + 1 FROM n WHERE i < 100000) INSERT INTO thread (id, mailbox_id, subject) SELECT i, 1, 'SUBJECT ' || i FROM n`
	);
	await change(context.db, sql`ANALYZE`);
	const headers = await administratorIn(context);
	await context.db.destroy();
	const server = await serve(context.dataFolder, 4899);
	const page = () => timed(() => fetch(`${server.address}/m/1/weigh`, { headers }).then((answer) => answer.text()));
	await page();
	const lines: string[][] = [];
	const meanwhile: number[] = [];
	for (const by of ['organisation', 'correspondent', 'list', 'year', 'thread']) {
		const taken: number[] = [];
		for (let round = 0; round < 3; round++) {
			// another order each time, so that it is counted anew
			const sort = ['bytes', 'messages', 'newest'][round];
			const plain = timed(() =>
				fetch(`${server.address}/m/1/clear/lots/part?by=${by}&sort=${sort}`, { headers }).then((answer) =>
					answer.text()
				)
			);
			const asked = (async () => {
				for (let n = 0; n < 8; n++) meanwhile.push(await page());
			})();
			taken.push(await plain);
			await asked;
		}
		lines.push([by, `${percentile(taken, 0.5).toFixed(0)} ms`]);
	}
	const scroll = await scrolling(server.address, headers);
	await server.end();
	rmSync(context.dataFolder, { recursive: true });
	return [
		`## Grouping ${showCount(count)} messages`,
		'A part of a sheet that nobody has looked at, asked of the server with all that goes with it; a page asked all the while.',
		table(['by', 'the answer'], lines),
		`Required by organisation: 300 ms. The page meanwhile: ${percentile(meanwhile, 0.5).toFixed(0)} ms in the middle, ${percentile(meanwhile, 0.95).toFixed(0)} ms at the 95th percentile (required: 100).`,
		'## Scrolling 100,000 lots',
		scroll
	].join('\n\n');
}

/* The browser tells of tasks longer than 50 ms, and how often it could draw. */
async function scrolling(address: string, extraHTTPHeaders: { cookie: string }): Promise<string> {
	// not bundled: it finds its own files
	const name = '@playwright/test';
	const { chromium } = (await import(/* @vite-ignore */ name)) as typeof import('@playwright/test');
	const browser = await chromium.launch(chromiumOptions);
	const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, extraHTTPHeaders });
	await page.goto(`${address}/m/1/clear/lots?by=thread&sort=label`);
	await page.locator('html[data-ready]').waitFor();
	const found = await page.evaluate(async () => {
		const sheet = document.querySelector<HTMLElement>('[role=grid]') as HTMLElement;
		const long: number[] = [];
		new PerformanceObserver((list) => long.push(...list.getEntries().map(({ duration }) => duration))).observe({
			type: 'longtask'
		});
		const frames: number[] = [];
		const began = performance.now();
		await new Promise<void>((done) => {
			let last = began;
			function frame(now: number) {
				frames.push(now - last);
				last = now;
				sheet.scrollTop += 400;
				if (now - began < 6_000) requestAnimationFrame(frame);
				else done();
			}
			requestAnimationFrame(frame);
		});
		return { long, frames: frames.slice(1), at: sheet.scrollTop };
	});
	await browser.close();
	const rate = 1000 / (found.frames.reduce((sum, frame) => sum + frame, 0) / found.frames.length);
	return `Six seconds of steady scrolling, 400 pixels a frame, headless and without a graphics card: ${rate.toFixed(0)} frames a second (required: 60), ${found.long.length} tasks longer than 50 ms${found.long.length > 0 ? ` (the longest ${Math.max(...found.long).toFixed(0)} ms)` : ''}, ${showCount(Math.round(found.at / 29))} rows passed.`;
}

async function carrying(bench: Bench): Promise<string> {
	const count = 200_000;
	bench.say(`carrying out delete and tag on ${showCount(count)} items`);
	const filled = await bench.open('carrying');
	await fillTables(filled.db, count, { words: 0 });
	await change(filled.db, sql`INSERT INTO tag (id, name, name_key, colour) VALUES (1, 'Ramp', 'ramp', 'slate')`);
	await change(
		filled.db,
		sql`INSERT INTO folder (id, mailbox_id, tree, name, name_key, path, role) VALUES (2000, 1, 'mailbox', 'Trash', 'trash', 'Trash', 'trash')`
	);
	await change(filled.db, sql`PRAGMA wal_checkpoint(TRUNCATE)`);
	await filled.db.destroy();
	const scope = { kind: 'query', query: '', label: '' } as const;
	const kinds: { name: string; bare: string; line: Decided }[] = [
		{
			name: 'delete',
			bare: `UPDATE item SET state = 'binned', origin_folder_id = folder_id, folder_id = 2000, binned_on = '2026-11-25', docket_id = 1 WHERE mailbox_id = 1 AND state = 'live'`,
			line: { decision: 'delete', options: {}, scope }
		},
		{
			name: 'tag',
			bare: `INSERT INTO item_tag (item_id, tag_id) SELECT id, 1 FROM item WHERE mailbox_id = 1 AND state = 'live'`,
			line: { decision: 'tag', options: { tag: 'Ramp' }, scope }
		}
	];
	const lines: string[][] = [];
	for (const { name, bare, line } of kinds) {
		const taken: { bare: number[]; docket: number[] } = { bare: [], docket: [] };
		for (let round = 0; round < 3; round++) {
			const copied = async (to: string) => {
				const data = bench.folder(`${name}-${to}-${round}`);
				copyFileSync(databaseFile(filled.dataFolder), databaseFile(data));
				return openContext(data, { actor: administratorNamed('bench') });
			};
			const plain = await copied('bare');
			taken.bare.push(await best(1, () => change(plain.db, raw(bare))));
			await plain.db.destroy();
			const whole = await copied('docket');
			const draft = await prepareDocket(whole, { mailboxId: 1, lines: [line] });
			taken.docket.push(await best(1, () => carryOut(whole, { id: draft.id })));
			await whole.db.destroy();
			for (const { dataFolder } of [plain, whole]) rmSync(dataFolder, { recursive: true });
		}
		const [alone, docket] = [percentile(taken.bare, 0.5), percentile(taken.docket, 0.5)];
		lines.push([name, alone.toFixed(0), docket.toFixed(0), `**${ratio(docket, alone)}**`]);
	}
	rmSync(filled.dataFolder, { recursive: true });
	return [
		'## Carrying out delete and tag on 200,000 items',
		table(['', 'the bare statement, ms', 'the docket, ms', 'ratio (required: 2)'], lines),
		'The middle of three, in turn, each on a copy of its own. The docket freezes each item first, and counts what it does.'
	].join('\n\n');
}

async function detecting(bench: Bench): Promise<string> {
	const count = bench.full ? 200_000 : 20_000;
	bench.say(`looking through ${showCount(count)} messages`);
	const mbox = path.join(bench.root, 'detect.mbox');
	await writeMbox(mbox, count, undefined, true);
	const bytes = statSync(mbox).size;
	const python = JSON.parse(
		spawnSync('python3', [path.join('bench', 'python', 'parse.py'), mbox], { encoding: 'utf8' }).stdout
	) as { messages: number; seconds: number };
	const context = await bench.open('detecting');
	await importMailbox(context, { path: mbox, mailbox: 'Bench', alone: true });
	rmSync(mbox);
	const before = process.memoryUsage.rss();
	let peak = before;
	const look = setInterval(() => (peak = Math.max(peak, process.memoryUsage.rss())), 50);
	const milliseconds = await timed(() => findProposals(context, { mailboxId: 1 }));
	clearInterval(look);
	const { proposals } = await listProposals(context, { mailboxId: 1 });
	const found = proposals.reduce((sum, { messages }) => sum + messages, 0);
	await context.db.destroy();
	rmSync(context.dataFolder, { recursive: true });
	const rate = (messages: number, seconds: number) => `${showCount(Math.round(messages / seconds))} a second`;
	return [
		`## Looking through ${showCount(count)} messages for what is safe to clear`,
		table(
			['', 'messages'],
			[
				[`Python's parse alone (${showBytes(bytes)})`, rate(python.messages, python.seconds)],
				['all detectors', rate(count, milliseconds / 1000)]
			]
		),
		`**${ratio(count / (milliseconds / 1000), python.messages / python.seconds)} times the rate of a bare parse**; ${showBytes(Math.max(0, peak - before))} more memory than before; ${showCount(found)} messages proposed, of ${showCount(proposals.length)} kinds.`
	].join('\n\n');
}

/** What is measured of clearing, part by part. */
export const clearing = { lots: grouping, dockets: carrying, proposals: detecting };
