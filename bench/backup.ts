// How fast a backup is made, against copying the file.
import { copyFileSync, mkdirSync, rmSync, statSync } from 'node:fs';
import path from 'node:path';
import { showBytes } from '../src/core/weigh/units.ts';
import { copyDatabase, databaseFile, flush } from '../src/lib/server/database/index.ts';
import { backUp } from '../src/lib/server/backup/index.ts';
import { importMailbox } from '../src/lib/server/intake/index.ts';
import type { Bench } from './clear.ts';
import { writeMbox } from './mail.ts';
import { best, ratio, table } from './measure.ts';

async function backingUp(bench: Bench): Promise<string> {
	const mbox = path.join(bench.root, 'backup.mbox');
	await writeMbox(mbox, bench.full ? 100_000 : 20_000);
	bench.say('backing up');
	const context = await bench.open('backup');
	await importMailbox(context, { path: mbox, mailbox: 'Bench', alone: true });
	rmSync(mbox);
	await context.db.raw('PRAGMA wal_checkpoint(TRUNCATE)');
	const file = databaseFile(context.dataFolder);
	const out = path.join(bench.root, 'backups');
	mkdirSync(out);
	let round = 0;
	const bare = await best(3, () => {
		const to = path.join(out, `bare-${round++}`);
		copyFileSync(file, to);
		flush(to);
	});
	const copying = await best(3, () =>
		copyDatabase(file, path.join(out, `copy-${round++}`), {
			signal: new AbortController().signal,
			onPages: () => undefined
		})
	);
	const whole = await best(2, () => {
		const second = round++;
		return backUp({ ...context, now: () => new Date(Date.now() + second * 1_000) }, { out });
	});
	const bytes = statSync(file).size;
	await context.db.destroy();
	rmSync(context.dataFolder, { recursive: true });
	rmSync(out, { recursive: true });
	return [
		'## Backup',
		table(
			[`a data file of ${showBytes(bytes)}`, 'milliseconds'],
			[
				['copying the file, until it is on disk', bare.toFixed(0)],
				['the copy of a backup: one moment, while all goes on', copying.toFixed(0)],
				["all of it: copied, opened, SQLite's own check, the ledger's chain, its hash", whole.toFixed(0)]
			]
		),
		`**${ratio(bare, copying)} of the speed of copying the file** for the copy (required: at least half), ${ratio(bare, whole)} with the check.`
	].join('\n\n');
}

/** The parts of it. */
export const savingCopies: Record<string, (bench: Bench) => Promise<string>> = { backup: backingUp };
