// What a folder's page costs in a large mailbox, by each of its headings.
import { rmSync } from 'node:fs';
import { type MessageOrder, MESSAGE_HEADINGS } from '../src/core/search/orders.ts';
import { showCount } from '../src/core/weigh/units.ts';
import { change, raw, rows, sql } from '../src/lib/server/database/index.ts';
import { find } from '../src/lib/server/find/index.ts';
import type { Bench } from './clear.ts';
import { each, percentile, ratio, table } from './measure.ts';
import { fillTables } from './tables.ts';

const PAGE = 50;
/* The share of the mailbox that lies in its inbox: a neglected one (brief: 4,000 of 33,000). */
const INBOX_SHARE = 8;
const INBOX = 1;

/* The first order of each heading, as somebody would write it who knew only the tables. */
const BARE: Partial<Record<MessageOrder, string>> = {
	newest: 'received_on DESC, received_at DESC',
	sender: 'from_address, received_on DESC',
	subject: 'subject COLLATE NOCASE, received_on DESC',
	largest: 'item.bytes DESC',
	importance: 'item.importance DESC, flagged DESC, received_on DESC',
	attachments: 'item.attachments DESC, item.bytes DESC'
};

async function folderPage(bench: Bench): Promise<string> {
	const count = bench.full ? 1_000_000 : 200_000;
	bench.say(`filling the tables with ${showCount(count)} messages, for a folder's page`);
	const context = await bench.open('folder-page');
	await fillTables(context.db, count, { words: 0 });
	await change(context.db, sql`UPDATE item SET folder_id = ${INBOX} WHERE id % ${INBOX_SHARE} = 0`);
	await change(context.db, sql`ANALYZE`);
	const lines: string[][] = [];
	for (const [heading, [order]] of Object.entries(MESSAGE_HEADINGS)) {
		const bareOrder = BARE[order];
		if (!bareOrder) continue;
		const taken = { bare: [] as number[], page: [] as number[] };
		for (let n = 0; n < 24; n++) {
			// the inbox every third time, at its first pages, else one of the small folders
			const folder = n % 3 === 0 ? INBOX : n + 2;
			const offset = n % 3 === 0 ? (n / 3) * PAGE : 0;
			const [bare, page] = await each([
				async () => {
					await rows(
						context.db,
						sql`SELECT item.id, message.subject, from_name, from_address, received_at, received_on, item.bytes, item.attachments,
								item.seen, item.flagged, item.kept, item.class, due_on, folder.path, mailbox.name
							FROM item JOIN message ON message.id = item.message_id JOIN folder ON folder.id = item.folder_id
								JOIN mailbox ON mailbox.id = item.mailbox_id
							WHERE item.folder_id = ${folder} AND item.state = 'live' ORDER BY ${raw(bareOrder)} LIMIT ${PAGE} OFFSET ${offset}`
					);
					await rows(
						context.db,
						sql`SELECT count(*), sum(bytes) FROM item WHERE folder_id = ${folder} AND state = 'live'`
					);
				},
				() =>
					find(context, {
						query: '',
						mailbox: 1,
						states: ['live'],
						narrowing: { folder },
						sort: order,
						limit: PAGE,
						offset,
						isBrief: true
					})
			]);
			if (n < 3) continue;
			taken.bare.push(bare as number);
			taken.page.push(page as number);
		}
		const sum = (values: number[]) => values.reduce((a, b) => a + b, 0);
		const shown = (values: number[]) =>
			`${percentile(values, 0.5).toFixed(1)} / ${percentile(values, 0.95).toFixed(1)} ms`;
		lines.push([heading, shown(taken.bare), shown(taken.page), ratio(sum(taken.page), sum(taken.bare))]);
	}
	await context.db.destroy();
	rmSync(context.dataFolder, { recursive: true });
	return [
		"## A folder's page",
		`${showCount(count)} messages in one mailbox, an eighth of them in its inbox; ${PAGE} rows, the inbox and small folders. The bare query asks for what stands in a row, and for the count and sum of the folder, as somebody would who knew only the tables; the page also for holds, tags and marks. First words follow when it is shown. Median / 95th percentile (wanted: 1.3 times, under 150 ms).`,
		table(['by heading', 'bare query', 'the whole page', 'ratio'], lines)
	].join('\n\n');
}

/** The parts of the benchmark about a folder's page. */
export const folderParts = { folder: folderPage };
