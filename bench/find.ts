// What finding is measured against: many colleagues at once, an import meanwhile, and what the check of rights costs.
import { spawn } from 'node:child_process';
import { rmSync } from 'node:fs';
import path from 'node:path';
import type { Role } from '../src/core/access/roles.ts';
import { matchExpression, readQuery } from '../src/core/search/query.ts';
import { READING } from '../src/core/message/summary.ts';
import { showCount } from '../src/core/weigh/units.ts';
import { findItems } from '../src/lib/server/find/index.ts';
import { rows, sql } from '../src/lib/server/database/index.ts';
import { actingAs, type Context } from '../src/lib/server/context/index.ts';
import { addPerson, grant, requirePerson } from '../src/lib/server/people/index.ts';
import { signInByLink, reachOf } from '../src/lib/server/access/index.ts';
import type { Bench } from './clear.ts';
import { writeMbox } from './mail.ts';
import { each, percentile, ratio, table } from './measure.ts';
import { ordinaryQueries } from './queries.ts';
import { serve } from './serve.ts';
import { fillTables } from './tables.ts';

const COLLEAGUES = 20;
const EACH = 15;
const QUERIES = 150;

/** Adds somebody who comes in. @returns the session */
async function personIn(context: Context, name: string, role: Role): Promise<string> {
	const { link } = await addPerson(context, { name, address: name.replace(/\s/g, '.'), role });
	const password = 'four ferries to Torsay';
	return (await signInByLink(context, { token: link, password, from: { device: 'bench', address: 'bench' } })).token;
}

const shown = (taken: readonly number[]) =>
	`${percentile(taken, 0.5).toFixed(0)} / ${percentile(taken, 0.9).toFixed(0)} / ${percentile(taken, 0.95).toFixed(0)} ms`;
const sum = (values: readonly number[]) => values.reduce((a, b) => a + b, 0);

/* The same question with and without a reach, in turn. */
async function rightsCost(context: Context, names: readonly string[], queries: readonly string[]): Promise<string[][]> {
	const search = (text: string) => ({ query: readQuery(text), mailboxId: undefined, states: ['live', 'archived'] });
	const lines: string[][] = [];
	for (const name of names) {
		const { id, role } = await requirePerson(context.db, name);
		const theirs = actingAs(context, { personId: id, name, role });
		const taken = { all: [] as number[], reached: [] as number[] };
		for (const text of queries) {
			taken.all.push(...(await each([() => findItems(context.db, search(text), 'relevance', 25, 0)])));
			taken.reached.push(
				...(await each([
					async () =>
						findItems(context.db, { ...search(text), reach: await reachOf(theirs, 'find') }, 'relevance', 25, 0)
				]))
			);
		}
		lines.push([
			name,
			`${(sum(taken.all) / queries.length).toFixed(2)} ms`,
			`${(sum(taken.reached) / queries.length).toFixed(2)} ms`,
			ratio(sum(taken.reached), sum(taken.all))
		]);
	}
	return lines;
}

async function finding(bench: Bench): Promise<string> {
	const count = bench.full ? 1_000_000 : 200_000;
	bench.say(`filling the tables with ${showCount(count)} messages, to be found by ${COLLEAGUES} colleagues`);
	const context = await bench.open('finding');
	const { words } = await fillTables(context.db, count, { words: 60 });
	// as an import of this version leaves them
	await context.db.raw(`UPDATE message SET reading = ${READING}`);
	const sessions: string[] = [];
	for (let n = 0; n < COLLEAGUES; n++) {
		sessions.push(await personIn(context, `Colleague ${n}`, 'colleague'));
		if (n === 1)
			for (let f = 1; f <= 30; f++)
				await grant(context, {
					to: `Colleague ${n}`,
					mailbox: 'Office',
					folder: `Folder ${f}`,
					find: true,
					restore: false
				});
		else await grant(context, { to: `Colleague ${n}`, mailbox: 'Office', find: true, restore: true });
	}
	const queries = await ordinaryQueries(context, words, QUERIES);
	bench.say('the check of rights');
	const rights = await rightsCost(context, ['Colleague 0', 'Colleague 1'], queries);
	const bare = (text: string) =>
		rows(
			context.db,
			sql`SELECT rowid, rank FROM words WHERE words MATCH ${matchExpression(readQuery(text)) ?? null} ORDER BY rank LIMIT 25`
		);

	const server = await serve(context.dataFolder, 4898);
	let errors = 0;
	const ask = async (text: string, session: string) => {
		const began = performance.now();
		const answer = await fetch(`${server.address}/find/__data.json?q=${encodeURIComponent(text)}`, {
			headers: { cookie: `kovrel-session=${session}` }
		});
		const body = await answer.text();
		if (!answer.ok || body.includes('"redirect"')) errors++;
		return performance.now() - began;
	};
	await ask(queries[0] ?? '', sessions[0] ?? '');
	bench.say('one colleague');
	const alone: number[] = [];
	for (const text of queries) alone.push(await ask(text, sessions[2] ?? ''));
	bench.say('twenty at once');
	const together: number[] = [];
	await Promise.all(
		sessions.map(async (session, n) => {
			// one question after the other, without a pause: as much as they can ask
			for (let round = 0; round < EACH; round++)
				together.push(await ask(queries[(n * EACH + round) % queries.length] ?? '', session));
		})
	);
	bench.say('while an import runs');
	const mbox = path.join(bench.root, 'finding.mbox');
	await writeMbox(mbox, bench.full ? 60_000 : 20_000);
	const importing = spawn(
		process.execPath,
		[path.join('build', 'programs', 'kovrel.mjs'), 'import', mbox, '--mailbox', 'Other', '--files-later'],
		{ env: { ...process.env, KOVREL_DATA: context.dataFolder }, stdio: 'ignore' }
	);
	const ended = new Promise((resolve) => importing.once('exit', resolve));
	await new Promise((resolve) => setTimeout(resolve, 3_000));
	const meanwhile = { bare: [] as number[], ours: [] as number[], page: [] as number[] };
	const theirs = actingAs(context, { personId: 1, name: 'Colleague 0', role: 'colleague' });
	for (const text of queries) {
		if (importing.exitCode !== null) break;
		const search = { query: readQuery(text), mailboxId: undefined, states: ['live', 'archived'] };
		meanwhile.bare.push(...(await each([() => bare(text)])));
		meanwhile.ours.push(
			...(await each([
				async () => findItems(context.db, { ...search, reach: await reachOf(theirs, 'find') }, 'relevance', 25, 0)
			]))
		);
		meanwhile.page.push(await ask(text, sessions[3] ?? ''));
	}
	await ended;
	await server.end();
	await context.db.destroy();
	rmSync(context.dataFolder, { recursive: true });
	rmSync(mbox);
	return [
		`## Finding among ${showCount(count)} messages`,
		`${QUERIES} ordinary queries; the page is all that Find asks of the server for one: the messages, their count, the text around the hits, what it can be narrowed by. Median / 90th / 95th percentile.`,
		table(
			['', 'the answer'],
			[
				['the page, one colleague', shown(alone)],
				[`the page, ${COLLEAGUES} colleagues at once, each ${EACH} times without a pause`, shown(together)],
				['the page, while an import runs', shown(meanwhile.page)],
				['the search in it, with rights, while an import runs', shown(meanwhile.ours)],
				['bare FTS5, while an import runs', shown(meanwhile.bare)]
			]
		),
		`Errors: ${errors} (required: none). The slowest tenth of twenty at once begins at **${ratio(percentile(together, 0.9), percentile(together, 0.5))} times the median** (required: 3). While an import runs, the search is **${ratio(percentile(meanwhile.ours, 0.95), percentile(meanwhile.bare, 0.95))} times the bare FTS5 query** at the 95th percentile (required: 1.3), and the page ${percentile(meanwhile.page, 0.95).toFixed(0)} ms (required: 100); ${meanwhile.page.length} queries were asked until it was done.`,
		table(['the check of rights', 'a search without it', 'with it', 'ratio (required: 1.1)'], rights)
	].join('\n\n');
}

/** The parts of it. */
export const findingParts: Record<string, (bench: Bench) => Promise<string>> = { find: finding };
