// What standing decisions cost: a thousand of them over new mail, one rehearsed with a year's mail, and the desk.
import { rmSync } from 'node:fs';
import { showCount } from '../src/core/weigh/units.ts';
import { change, rows, sql } from '../src/lib/server/database/index.ts';
import { decideAtDesk, showDesk } from '../src/lib/server/desk/index.ts';
import { find } from '../src/lib/server/find/index.ts';
import { addRule, rehearseRule, type RuleGiven, runRules } from '../src/lib/server/rules/index.ts';
import type { Bench } from './clear.ts';
import { best, percentile, ratio, table } from './measure.ts';
import { fillTables } from './tables.ts';

const RULES = 1_000;
const PRESSES = 30;
const INBOX = 1;

/* Half of them by sender, a quarter each by organisation and list: some with an age, some with a number that stays. */
function ruleAt(n: number): RuleGiven {
	const query =
		n % 4 < 2
			? `address:"person${n + 1}@place${((n + 1) % 1_200) + 1}.example"`
			: n % 4 === 2
				? `organisation:place${n + 1}.example`
				: `list:"=list${(n % 300) + 1}.example"`;
	const stay = n % 3 === 0 ? { olderThan: 'P30D' } : n % 3 === 1 ? { newest: 3 } : {};
	return { query, stay, then: n % 2 === 0 ? 'archive' : 'delete', options: {} };
}

async function standingDecisions(bench: Bench): Promise<string> {
	const [mail, year] = bench.full ? [100_000, 200_000] : [20_000, 50_000];
	bench.say(`filling the tables with ${showCount(mail)} messages, for ${showCount(RULES)} standing decisions`);
	const context = await bench.open('rules');
	await fillTables(context.db, mail, { words: 0 });
	await change(context.db, sql`ANALYZE`);
	for (let n = 0; n < RULES; n++) await addRule(context, { mailbox: 'Office', rule: ruleAt(n) });
	// what any program would have to read of each message to compare it with its rules
	const once = await best(3, () =>
		rows(
			context.db,
			sql`SELECT item.id, item.received_on, item.bytes, correspondent.address, organisation.domain, list.identifier, message.subject
			 FROM item JOIN message ON message.id = item.message_id JOIN correspondent ON correspondent.id = item.correspondent_id
				JOIN organisation ON organisation.id = item.organisation_id LEFT JOIN list ON list.id = item.list_id
			 WHERE item.mailbox_id = 1 AND item.state = 'live' ORDER BY item.id`
		)
	);
	const began = performance.now();
	const { runs } = await runRules(context, {});
	const run = performance.now() - began;
	const taken = runs[0]?.messages ?? 0;
	await context.db.destroy();
	rmSync(context.dataFolder, { recursive: true });

	bench.say(`filling the tables with ${showCount(year)} messages, for a rehearsal and the desk`);
	const other = await bench.open('rehearsal');
	await fillTables(other.db, year, { words: 0 });
	await change(other.db, sql`UPDATE item SET folder_id = ${INBOX} WHERE id % 8 = 0`);
	await change(other.db, sql`UPDATE folder SET role = 'inbox' WHERE id = ${INBOX}`);
	// the newest of them is of today
	await change(
		other.db,
		sql`UPDATE item SET received_on = date(received_on, '+' || CAST(julianday(${other.dateOf(other.now().getTime() / 1000)}) - julianday((SELECT max(received_on) FROM item)) AS INTEGER) || ' days')`
	);
	await change(other.db, sql`ANALYZE`);
	const rehearsals: [string, RuleGiven][] = [
		[
			'of a sender, the newest 3 stay',
			{ query: 'address:person7@place8.example', stay: { newest: 3 }, then: 'archive', options: {} }
		],
		[
			'of all mail of people, none older than 30 days',
			{ query: 'kind:person', stay: { olderThan: 'P30D' }, then: 'delete', options: {} }
		],
		[
			'of everything, the newest 5 of each sender',
			{ query: 'larger:1', stay: { newest: 5, per: 'sender' }, then: 'archive', options: {} }
		]
	];
	const rehearsed: string[][] = [];
	for (const [name, rule] of rehearsals) {
		let messages = 0;
		const took = await best(3, async () => ({ messages } = await rehearseRule(other, { mailbox: 'Office', rule })));
		rehearsed.push([name, showCount(messages), `${took.toFixed(0)} ms`]);
	}
	const presses: number[] = [];
	for (let n = 0; n < PRESSES; n++) {
		const search = { query: '', mailbox: 1, states: ['live' as const], narrowing: { mailbox: 1, folder: INBOX } };
		const { hits } = await find(other, { ...search, sort: 'newest', limit: 25, isBrief: true });
		const start = performance.now();
		await decideAtDesk(other, { ids: [hits[0]?.id ?? 0], decision: 'archive', options: {} });
		await find(other, { ...search, sort: 'newest', limit: 25, isBrief: true });
		await showDesk(other, { mailboxIds: [1] });
		presses.push(performance.now() - start);
	}
	await other.db.destroy();
	rmSync(other.dataFolder, { recursive: true });
	return [
		'## Standing decisions and the desk',
		`${showCount(RULES)} standing decisions over ${showCount(mail)} new messages of which they take ${showCount(taken)}, gathered, drafted and counted as one docket; beside it the same messages read once, with what they are compared by (wanted: within 2 times).`,
		table(['read once', 'a run', 'ratio'], [[`${once.toFixed(0)} ms`, `${run.toFixed(0)} ms`, ratio(run, once)]]),
		`A rehearsal with the mail of a year, of ${showCount(year)} messages in all (wanted: under 1 s).`,
		table(['standing decision', 'would have taken', 'time'], rehearsed),
		`A key at the desk on the server, with its docket carried out and the next page read (the next message is shown before that, from what the page has): ${percentile(presses, 0.5).toFixed(0)} ms, 95th percentile ${percentile(presses, 0.95).toFixed(0)} ms.`
	].join('\n\n');
}

/** The parts of the benchmark about standing decisions and the desk. */
export const rulesParts = { rules: standingDecisions };
