// What a change of the retention schedule costs, how fast what is due opens, and what a change would do.
import { rmSync } from 'node:fs';
import { showCount } from '../src/core/weigh/units.ts';
import { change, sql } from '../src/lib/server/database/index.ts';
import { recalculateDue } from '../src/lib/server/standing/index.ts';
import type { Context } from '../src/lib/server/context/index.ts';
import { dueOverview, saveSeries, setRetention, tryRetention, trySeries } from '../src/lib/server/retention/index.ts';
import { type Bench, timed } from './clear.ts';
import { best, ratio, table } from './measure.ts';
import { fillTables } from './tables.ts';

const FIELDS = {
	code: 'FIN-01',
	title: 'Invoices',
	trigger: 'financial-year',
	disposition: 'archive-destroy',
	archive_after: 'P2Y',
	authority: 'Board'
};

/* Half of the folders under a series, the rest under a default. */
async function filled(bench: Bench, name: string, count: number): Promise<Context> {
	const context = await bench.open(name);
	await fillTables(context.db, count, { words: 0 });
	await saveSeries(context, { fields: { ...FIELDS, period: 'P7Y' } });
	await setRetention(context, {
		wish: { kind: 'folders', folderIds: Array.from({ length: 30 }, (_, n) => n + 1), retention: { series: 'FIN-01' } }
	});
	await setRetention(context, {
		wish: { kind: 'default', mailboxId: 1, retention: { terms: 'received destroy P5Y -' } }
	});
	await recalculateDue(context);
	return context;
}

async function recalculating(bench: Bench): Promise<string[]> {
	const count = bench.full ? 1_000_000 : 200_000;
	bench.say(`due dates of ${showCount(count)} items after a change of the schedule`);
	const context = await filled(bench, 'retention', count);
	const overview = await best(5, () => dueOverview(context, {}));
	// the default of half of them, and the series of the others, one day later
	const bare = await timed(() =>
		change(
			context.db,
			sql`UPDATE item SET class = class, retention_id = retention_id, due_on = date(due_on, '+1 day'), due_action = due_action,
				due_folder_id = due_folder_id WHERE mailbox_id = 1 AND due_on IS NOT NULL`
		)
	);
	await change(
		context.db,
		sql`UPDATE item SET due_on = date(due_on, '-1 day') WHERE mailbox_id = 1 AND due_on IS NOT NULL`
	);
	await saveSeries(context, { fields: { ...FIELDS, archive_after: 'P3Y', period: 'P8Y' }, because: 'measured' });
	await setRetention(context, {
		wish: { kind: 'default', mailboxId: 1, retention: { terms: 'received destroy P6Y -' } }
	});
	let changed = 0;
	const taken = await timed(async () => {
		changed = (await recalculateDue(context)).changed;
	});
	await context.db.destroy();
	rmSync(context.dataFolder, { recursive: true });
	return [
		table(
			[`${showCount(count)} items, ${showCount(changed)} of them changed`, 'milliseconds'],
			[
				['the bare UPDATE of as many due dates, with their indexes, in one transaction', bare.toFixed(0)],
				['recalculating, in batches, with the summary', taken.toFixed(0)],
				['the overview of what is due', overview.toFixed(0)]
			]
		),
		`**${ratio(taken, bare)} times the bare UPDATE** (goal: 3); the overview is to open in under 200 ms.`
	];
}

async function trying(bench: Bench): Promise<string[]> {
	const count = 200_000;
	bench.say(`what a change would do to ${showCount(count)} items`);
	const context = await filled(bench, 'what-if', count);
	const series = await best(3, () => trySeries(context, { fields: { ...FIELDS, period: 'P3Y' } }));
	const reset = await best(3, () => tryRetention(context, { kind: 'reset', mailboxId: 1 }));
	await context.db.destroy();
	rmSync(context.dataFolder, { recursive: true });
	return [
		table(
			[`what a change would do, before it is made, ${showCount(count)} items`, 'milliseconds'],
			[
				['another period for a series', series.toFixed(0)],
				['every folder back under the default', reset.toFixed(0)]
			]
		),
		'Required: under a second.'
	];
}

/** The parts of it. */
export const retaining: Record<string, (bench: Bench) => Promise<string>> = {
	retention: async (bench) => ['## Retention', ...(await recalculating(bench)), ...(await trying(bench))].join('\n\n')
};
