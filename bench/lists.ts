// What finding lists costs, and how fast their page opens.
import { readFileSync, rmSync, statSync } from 'node:fs';
import path from 'node:path';
import { listIdentity } from '../src/core/lists/identity.ts';
import { findOffer } from '../src/core/lists/offers.ts';
import { readWays } from '../src/core/lists/ways.ts';
import { MboxSplitter } from '../src/core/formats/mbox.ts';
import { readBody } from '../src/core/message/body.ts';
import { divideText } from '../src/core/message/quoted.ts';
import { scanStructure } from '../src/core/message/structure.ts';
import { showBytes, showCount } from '../src/core/weigh/units.ts';
import { change, sql } from '../src/lib/server/database/index.ts';
import { importMailbox } from '../src/lib/server/intake/index.ts';
import { listLists } from '../src/lib/server/lists/index.ts';
import { type Bench, timed } from './clear.ts';
import { writeMbox } from './mail.ts';
import { best, percentile, ratio, table } from './measure.ts';
import { administratorIn, serve } from './serve.ts';
import { fillTables } from './tables.ts';

/* Every message is looked at for a footer, as if none had a header that says what it is: the dearest case. */
async function finding(bench: Bench): Promise<string> {
	const count = bench.full ? 50_000 : 10_000;
	const mbox = path.join(bench.root, 'lists.mbox');
	await writeMbox(mbox, count);
	bench.say(`finding lists in ${showBytes(statSync(mbox).size)}`);
	const context = await bench.open('finding');
	const importing = await timed(() => importMailbox(context, { path: mbox, mailbox: 'Bench', alone: true }));
	await context.db.destroy();
	const splitter = new MboxSplitter();
	const some = splitter.push(readFileSync(mbox).subarray(0, 40_000_000)).slice(0, 2_000);
	const read = some.map(({ bytes }) => {
		const root = scanStructure(bytes);
		const { text, html } = readBody(bytes, root);
		return { header: root.header, own: divideText(text).own, html };
	});
	const looking = await best(3, () => {
		for (const { header, own, html } of read) {
			// who wrote it is read anyway
			const from = { name: 'News', address: 'news@place1.example' };
			readWays(header, findOffer(own, html));
			listIdentity(header, from, 'list');
		}
	});
	const each = (1000 * looking) / read.length;
	const whole = (1000 * importing) / count;
	rmSync(context.dataFolder, { recursive: true });
	rmSync(mbox);
	return [
		table(
			['a message', 'time'],
			[
				['its import, end to end', `${whole.toFixed(0)} µs`],
				['looking for a list in it, one thread, in the dearest case', `${each.toFixed(0)} µs`]
			]
		),
		`**${(100 * (each / whole)).toFixed(1)} % of the import** (required: under 5 %).`
	].join('\n\n');
}

async function opening(bench: Bench): Promise<string> {
	const count = 200_000;
	const lists = 3_000;
	bench.say(`the page of ${showCount(lists)} lists`);
	const context = await bench.open('lists');
	await fillTables(context.db, count, { words: 0, lists, listed: 1 });
	await change(
		context.db,
		sql`INSERT INTO written_to SELECT address, 'place' || organisation_id || '.example' FROM correspondent WHERE id % 20 = 0`
	);
	const scan = await best(3, () =>
		change(
			context.db,
			sql`SELECT list_id, count(*), sum(bytes) FROM item NOT INDEXED WHERE mailbox_id = 1 GROUP BY list_id`
		)
	);
	const part = await best(3, async () => {
		// whatever changes makes it be counted again
		await change(context.db, sql`UPDATE mailbox SET inbox_aim = inbox_aim + 1`);
		await listLists(context, { mailboxId: 1, limit: 100 });
	});
	const headers = await administratorIn(context);
	await context.db.destroy();
	const server = await serve(context.dataFolder, 4898);
	const page = (address: string) =>
		timed(() => fetch(`${server.address}${address}`, { headers }).then((answer) => answer.text()));
	// a person has opened Kovrel before
	await page('/m/1/weigh');
	const cold = await page('/m/1/lists?all=1');
	const warm: number[] = [];
	for (let time = 0; time < 20; time++) warm.push(await page(time % 2 ? '/m/1/lists' : '/m/1/lists?all=1'));
	await server.end();
	rmSync(context.dataFolder, { recursive: true });
	return [
		table(
			[`${showCount(count)} messages of ${showCount(lists)} lists`, 'milliseconds'],
			[
				['grouping them by list in one pass over the items, and no more', scan.toFixed(0)],
				['all that the page shows, counted anew', `${part.toFixed(0)} (${ratio(part, scan)} times that)`],
				['the page opened for the first time, through the server', cold.toFixed(0)],
				[
					'opened again: median / 95th percentile',
					`${percentile(warm, 0.5).toFixed(0)} / ${percentile(warm, 0.95).toFixed(0)}`
				]
			]
		),
		'Required: under 300 ms.'
	].join('\n\n');
}

/** The parts of it. */
export const listing: Record<string, (bench: Bench) => Promise<string>> = {
	lists: async (bench) =>
		['## Finding lists', await finding(bench), '## The page of lists', await opening(bench)].join('\n\n')
};
