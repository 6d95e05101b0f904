// How fast every page opens, through the built server, and how that grows with the messages.
import { rmSync } from 'node:fs';
import { GROUPINGS } from '../src/core/lots/lots.ts';
import { MAIL_KINDS } from '../src/core/message/mail-kind.ts';
import { showCount } from '../src/core/weigh/units.ts';
import { prepareArchiving } from '../src/lib/server/archive/index.ts';
import type { Context } from '../src/lib/server/context/index.ts';
import { change, inTransaction, openDatabase, raw, sql } from '../src/lib/server/database/index.ts';
import { recountWeights } from '../src/lib/server/mail/index.ts';
import { carryOut, type Decided, prepareDocket } from '../src/lib/server/docket/index.ts';
import { saveSeries, setRetention } from '../src/lib/server/retention/index.ts';
import { recalculateDue } from '../src/lib/server/standing/index.ts';
import { type Bench, timed } from './clear.ts';
import { percentile, table } from './measure.ts';
import { administratorIn, serve } from './serve.ts';
import { fillTables } from './tables.ts';

/* Ten messages a thread, an eighth of the mailbox in its inbox. */
const THREAD = 10;
const INBOX_SHARE = 8;
/* A twelfth was answered, a tenth has a tag. */
const ANSWERED_SHARE = 12;
const TAGGED_SHARE = 10;
const AGAIN = 20;
const AFTER_A_CHANGE = 5;
const FIRST_WANTED = 500;
const WANTED = 150;

const PAGES = [
	'/m/1/weigh',
	'/m/1/weigh?by=month',
	'/weigh',
	'/m/1/lists',
	'/m/1/lists?all=1',
	'/lists?all=1',
	'/m/1/lists/1',
	'/m/1/lists/senders',
	'/m/1/lists/digest',
	'/m/1/lists/since',
	'/m/1/clear',
	'/clear',
	'/m/1/clear/proposals',
	'/m/1/clear/keep-list',
	'/m/1/clear/folders',
	'/m/1/clear/folders?tree=archive',
	'/m/1/clear/tags',
	'/m/1/clear/bin',
	...Object.keys(GROUPINGS).map((by) => `/m/1/clear/lots?by=${by}`),
	'/lots?by=organisation',
	'/m/1/folders/1',
	'/m/1/folders/1?sort=largest',
	'/m/1/folders/1?threads=1',
	'/m/1/folders/2',
	'/m/1/desk',
	'/desk',
	'/m/1/desk/piles',
	'/m/1/desk/awaited',
	'/m/1/desk/outgoing',
	'/m/1/desk/rules',
	'/m/1/desk/rules/new?where=from:person12',
	'/retain',
	'/retain/folders',
	'/retain/schedule',
	'/retain/run',
	'/retain/holds',
	'/retain/reviews',
	'/retain/policy',
	'/retain/certificates',
	'/m/1/archive',
	'/m/1/archive?where=archived',
	'/m/1/archive?q=person12',
	'/m/1/archive?q=folder:%22Folder+7%22&sort=largest',
	'/find',
	'/find?q=person12',
	'/dockets/1',
	'/ledger',
	'/mailboxes',
	'/mailboxes/live',
	'/people',
	'/people/requests',
	'/account'
];

/* Mail that is archived, deleted, in threads, under a schedule: what has been worked on. */
async function fill(context: Context, count: number): Promise<void> {
	const { db } = context;
	await fillTables(db, count, { words: 12 });
	await change(db, sql`UPDATE folder SET role = 'inbox' WHERE id = 1`);
	await change(
		db,
		sql`INSERT INTO folder (id, mailbox_id, tree, name, name_key, path, role) VALUES (2000, 1, 'mailbox', 'Trash', 'trash', 'Trash', 'trash')`
	);
	await change(
		db,
		sql`WITH RECURSIVE n (i) AS (VALUES (1) UNION ALL SELECT i + 1 FROM n WHERE i < ${count / THREAD})
			INSERT INTO thread (id, mailbox_id, subject) SELECT i, 1, 'SUBJECT ' || i FROM n`
	);
	const marks = sql`UPDATE item SET thread_id = id % ${raw(String(count / THREAD))} + 1,
		folder_id = CASE WHEN id % ${INBOX_SHARE} = 0 THEN 1 ELSE folder_id END,
		answered_on = CASE WHEN id % ${ANSWERED_SHARE} = 0 THEN received_on END,
		mail_kind = CASE WHEN list_id IS NOT NULL THEN 1 + id % ${MAIL_KINDS.length - 1} ELSE 0 END,
		addressed = CASE WHEN list_id IS NOT NULL THEN 4 ELSE id % 4 END`;
	await change(db, marks);
	await recountWeights(db);
	await change(
		db,
		sql`INSERT INTO tag (id, name, name_key, colour) VALUES (1, 'Ramp', 'ramp', 'slate'), (2, 'Quay', 'quay', 'rope')`
	);
	await change(db, sql`INSERT INTO item_tag SELECT id, 1 + id % 2 FROM item WHERE id % ${TAGGED_SHARE} = 0`);
	await saveSeries(context, {
		fields: {
			code: 'FIN-01',
			title: 'Invoices',
			trigger: 'financial-year',
			disposition: 'archive',
			period: 'P7Y',
			authority: 'Board'
		}
	});
	await setRetention(context, { wish: { kind: 'folders', folderIds: [2, 3, 4, 5], retention: { series: 'FIN-01' } } });
	await setRetention(context, {
		wish: { kind: 'default', mailboxId: 1, retention: { terms: 'received archive P5Y -' } }
	});
	await recalculateDue(context);
	const archiving = await prepareArchiving(context, { mailbox: 'Office', before: '2019-06-01' });
	await carryOut(context, { id: archiving.id, expected: archiving });
	const line: Decided = {
		decision: 'delete',
		options: {},
		scope: { kind: 'query', query: 'before:2019-09-01', label: '' }
	};
	const deleting = await prepareDocket(context, { mailboxId: 1, lines: [line] });
	await carryOut(context, { id: deleting.id, expected: deleting });
	await change(db, sql`ANALYZE`);
}

interface Opened {
	first: number;
	again: number[];
	/** Right after somebody changed something. */
	changed: number[];
	status: number;
}

async function openPages(bench: Bench, count: number): Promise<Map<string, Opened>> {
	bench.say(`filling the tables with ${showCount(count)} messages, for every page`);
	const context = await bench.open(`pages-${count}`);
	await fill(context, count);
	const headers = await administratorIn(context);
	await context.db.destroy();
	const server = await serve(context.dataFolder, 4897);
	const opened = new Map<string, Opened>();
	const open = async (address: string) => {
		let status = 0;
		const taken = await timed(async () => {
			const answer = await fetch(`${server.address}${address}`, { headers });
			status = answer.status;
			await answer.text();
		});
		return { taken, status };
	};
	// a person has opened Kovrel before
	for (let n = 0; n < 5; n++) await open('/account');
	for (const address of PAGES) {
		const { taken, status } = await open(address);
		opened.set(address, { first: taken, again: [], changed: [], status });
		bench.say(`${address} ${taken.toFixed(0)} ms${status === 200 ? '' : ` (status ${status})`}`);
	}
	// in turn, as an office asks for them
	for (let round = 0; round < AGAIN; round++)
		for (const [address, { again }] of opened) again.push((await open(address)).taken);
	const somebody = openDatabase(context.dataFolder);
	for (let round = 0; round < AFTER_A_CHANGE; round++)
		for (const [address, { changed }] of opened) {
			await inTransaction(somebody, (db) => change(db, sql`UPDATE mailbox SET name = name`));
			changed.push((await open(address)).taken);
		}
	await somebody.destroy();
	await server.end();
	rmSync(context.dataFolder, { recursive: true });
	return opened;
}

async function everyPage(bench: Bench): Promise<string> {
	const [small, large] = bench.full ? [100_000, 1_000_000] : [20_000, 200_000];
	const before = await openPages(bench, small);
	const after = await openPages(bench, large);
	const late = (values: readonly number[]) => percentile(values, 0.95);
	const lines = [...after].map(([address, { first, again, changed, status }]) => {
		const less = before.get(address);
		const mark = (value: number, wanted: number) => (value > wanted ? `**${value.toFixed(0)}**` : value.toFixed(0));
		return [
			`\`${address}\`${status === 200 ? '' : ` (status ${status})`}`,
			(less?.first ?? 0).toFixed(0),
			mark(first, FIRST_WANTED),
			late(less?.again ?? []).toFixed(0),
			mark(late(again), WANTED),
			percentile(changed, 0.5).toFixed(0),
			`${(percentile(changed, 0.5) / Math.max(1, percentile(less?.changed ?? [], 0.5))).toFixed(1)}`
		];
	});
	const over = lines.filter((cells) => cells.some((cell) => cell.startsWith('**'))).length;
	return [
		`## Every page, ${showCount(small)} and ${showCount(large)} messages`,
		`Through the built server, in milliseconds, one mailbox; a fifth of its mail is archived, 3 % of it in the bin, all of it under a schedule. First: asked once after the server's start. Then ${AGAIN} times in turn, the 95th percentile: what counts a whole mailbox is answered from memory while nothing changes. After a change: the median of ${AFTER_A_CHANGE} times, each right after something in the file was changed; it grows by that. Wanted with ${showCount(large)}: under ${FIRST_WANTED} the first time, under ${WANTED} then; what is over stands in bold: ${over} of ${lines.length} pages.`,
		table(
			[
				'page',
				`first, ${showCount(small)}`,
				`first, ${showCount(large)}`,
				`then, ${showCount(small)}`,
				`then, ${showCount(large)}`,
				`after a change, ${showCount(large)}`,
				'grows by'
			],
			lines
		)
	].join('\n\n');
}

/** The part of it. */
export const pagesParts: Record<string, (bench: Bench) => Promise<string>> = { pages: everyPage };
