// What a key at the desk of a large mailbox costs, as a person sees it in a browser.
import { rmSync } from 'node:fs';
import path from 'node:path';
import type { Request } from '@playwright/test';
import { showCount } from '../src/core/weigh/units.ts';
import { change, sql } from '../src/lib/server/database/index.ts';
import { importMailbox } from '../src/lib/server/intake/index.ts';
import { chromiumOptions } from '../tools/chromium.js';
import type { Bench } from './clear.ts';
import { writeMbox } from './mail.ts';
import { percentile, table } from './measure.ts';
import { administratorIn, serve } from './serve.ts';
import { fillTables } from './tables.ts';

const READABLE = 80;
const PRESSES = 40;
const INBOX_SHARE = 8;

interface Press {
	/** Milliseconds to the subject of the next message, and to all of it. */
	subject: number;
	message: number;
}

async function keysAtDesk(bench: Bench): Promise<string> {
	const count = bench.full ? 1_000_000 : 200_000;
	bench.say(`filling the tables with ${showCount(count)} messages, for keys at the desk`);
	const context = await bench.open('desk');
	await fillTables(context.db, count, { words: 0 });
	await change(context.db, sql`UPDATE folder SET role = 'inbox' WHERE id = 1`);
	await change(context.db, sql`UPDATE item SET folder_id = 1 WHERE id % ${INBOX_SHARE} = 0`);
	// messages that can be read, as the newest
	const file = path.join(context.dataFolder, 'readable.mbox');
	await writeMbox(file, READABLE);
	await importMailbox(context, { path: file, mailbox: 'Office', folder: 'Folder 1' });
	await change(
		context.db,
		sql`UPDATE item SET seen = 0, received_at = 1790000000 + id, received_on = date(1790000000 + id, 'unixepoch') WHERE id > ${count}`
	);
	await change(context.db, sql`ANALYZE`);
	const extraHTTPHeaders = await administratorIn(context);
	await context.db.destroy();
	const server = await serve(context.dataFolder, 4898);
	// not bundled: it finds its own files
	const name = '@playwright/test';
	const { chromium } = (await import(/* @vite-ignore */ name)) as typeof import('@playwright/test');
	const browser = await chromium.launch(chromiumOptions);
	const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, extraHTTPHeaders });
	const asked = new Set<Request>();
	page.on('request', (request) => asked.add(request));
	page.on('requestfinished', (request) => asked.delete(request));
	page.on('requestfailed', (request) => asked.delete(request));
	const isStill = () => [...asked].every((request) => request.resourceType() === 'eventsource');
	await page.goto(`${server.address}/m/1/desk`);
	await page.locator('html[data-ready]').waitFor();
	const presses: Press[] = [];
	for (let n = 0; n < PRESSES; n++) {
		// the last decision is through, and its result in sight
		do await page.waitForTimeout(100);
		while (!isStill());
		presses.push(
			await page.evaluate(
				() =>
					new Promise<Press>((done) => {
						const desk = document.querySelector('[aria-label="Message on the desk"]') as HTMLElement;
						const subject = () => desk.querySelector('h2')?.textContent ?? '';
						const isOpen = () => desk.querySelector('.reading dl') !== null;
						const former = subject();
						const began = performance.now();
						let shown = 0;
						const look = () => {
							if (subject() === former) return requestAnimationFrame(look);
							shown ||= performance.now() - began;
							if (!isOpen()) return requestAnimationFrame(look);
							return done({ subject: shown, message: performance.now() - began });
						};
						document.body.dispatchEvent(new KeyboardEvent('keydown', { key: '1', bubbles: true }));
						look();
					})
			)
		);
	}
	await browser.close();
	await server.end();
	rmSync(context.dataFolder, { recursive: true });
	const shown = (of: keyof Press) => {
		const taken = presses.map((press) => press[of]);
		return `${percentile(taken, 0.5).toFixed(0)} / ${percentile(taken, 0.95).toFixed(0)} ms`;
	};
	return [
		'## A key at the desk',
		`In a browser, at ${showCount(count)} messages, an eighth of them in the inbox; ${PRESSES} times *archive*, from the key to what is drawn next. Median / 95th percentile (wanted: under 50 ms).`,
		table(['until its subject stands there', 'until all of it does'], [[shown('subject'), shown('message')]])
	].join('\n\n');
}

/** The parts of the benchmark about the desk, as it is seen. */
export const deskParts = { desk: keysAtDesk };
