// What the tests do once or twice, in numbers, for at most 20 minutes, and writes docs/torture.md: npm run torture
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { ensureReady, root, run, say } from './setup.js';

const LONGEST_MS = 20 * 60_000;

/** @typedef {{ what: string, rounds: string, command: string[], environment: Record<string, string> }} Part */

const vitest = (/** @type {string} */ file) => ['npx', '--no-install', 'vitest', 'run', file];
const playwright = (/** @type {string} */ file) => ['npx', '--no-install', 'playwright', 'test', file];

/* Seeds differ from run to run: what was found once can be repeated with the one that is named. */
const seed = String(Math.floor(Date.now() / 1000) % 100_000);

/** @type {Part[]} */
const parts = [
	{
		what: 'killed at random moments (SIGKILL): importing, archiving, taking back, destroying, saving, restoring; verified after each, and brought to its end',
		rounds: '5 each, 30 in all',
		command: playwright('tests/killed.e2e.ts'),
		environment: { KOVREL_KILLS_EACH: '5', KOVREL_SEED: seed }
	},
	{
		what: 'killed while decisions are carried to a mail server (dovecot-imapd): server and Kovrel hold each message exactly once',
		rounds: '25',
		command: playwright('tests/live-killed.e2e.ts'),
		environment: { KOVREL_KILLS: '25' }
	},
	{
		what: 'lines to a mail server cut at random while others work there, with MOVE, UIDPLUS and CONDSTORE and without',
		rounds: '40 each',
		command: vitest('src/lib/server/sources/carry-over.test.ts'),
		environment: { KOVREL_ROUNDS: '40', KOVREL_SEED: seed }
	},
	{
		what: 'power cuts: recorded writes of importing, archiving, taking back, deleting and destroying made again up to a random one, without a random part of what was not synced; verified after each',
		rounds: '200',
		command: playwright('tests/replayed.e2e.ts'),
		environment: { KOVREL_REPLAYS: '200', KOVREL_SEED: seed }
	},
	{
		what: 'a disk that is read-only, and one that is filled to its last byte, with a server and without',
		rounds: 'each',
		command: playwright('tests/disk.e2e.ts'),
		environment: {}
	},
	{
		what: 'hostile documents in the browser: nobody else is asked, nothing runs, nothing leaves its frame',
		rounds: '120',
		command: playwright('tests/hostile.e2e.ts'),
		environment: { KOVREL_HOSTILE: '120' }
	},
	{
		what: 'bombs: a file of some kilobytes that unpacks to gigabytes, mail that takes too long; ended at 700 MB and after 20 seconds',
		rounds: 'each',
		command: vitest('src/lib/server/mail/reading/reading-pool.test.ts'),
		environment: {}
	},
	{
		what: 'clocks that stand in the past or the future: nothing is destroyed',
		rounds: 'each',
		command: vitest('src/lib/server/ledger/clock.test.ts'),
		environment: {}
	},
	{
		what: 'flipped values and broken pages of each kind: found and named; what is around is used; what has a whole copy is repaired',
		rounds: 'each kind',
		command: vitest('src/lib/server/backup'),
		environment: {}
	},
	{
		what: 'hostile messages: nesting, lengths, encodings, HTML; with limits on time',
		rounds: 'all',
		command: vitest('src/core/message'),
		environment: {}
	},
	{
		what: 'two servers, a port that is taken, a power cut of the server, damage said on the pages',
		rounds: 'once',
		command: playwright('tests/line.e2e.ts'),
		environment: {}
	}
];

await ensureReady();
const began = Date.now();
/** @type {string[]} */
const rows = [];
let failed = 0;
for (const { what, rounds, command, environment } of parts) {
	const left = LONGEST_MS - (Date.now() - began);
	const [program = '', ...words] = command;
	const at = Date.now();
	const { status, signal, stdout } = spawnSync(program, words, {
		cwd: root,
		encoding: 'utf8',
		timeout: Math.max(1, left),
		maxBuffer: 2 ** 28,
		env: { ...process.env, NO_COLOR: '1', ...environment }
	});
	const result = signal ? 'not finished in time' : status === 0 ? 'passed' : 'FAILED';
	if (status !== 0) failed++;
	if (status !== 0 && !signal) say(stdout.slice(-4_000));
	const seconds = Math.round((Date.now() - at) / 1000);
	say(`${result}: ${what} (${seconds} s)`);
	rows.push(`| ${what} | ${rounds} | ${seconds} s | ${result} |`);
}
writeFileSync(
	path.join(root, 'docs', 'torture.md'),
	`# Torture

Written by \`npm run torture\` on ${new Date().toISOString().slice(0, 10)}, with seed ${seed}, in ${Math.round((Date.now() - began) / 60_000)} minutes of at most 20. What is done here in numbers is done a few times in \`npm test\`.

| what | rounds | time | result |
| --- | --- | --- | --- |
${rows.join('\n')}
`
);
run('npx', ['--no-install', 'prettier', '--write', 'docs/torture.md'], { quiet: true });
process.exit(failed === 0 ? 0 : 1);
