// What destroying mail costs, beside the bare DELETE of the same rows.
import { copyFileSync, mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { administratorNamed } from '../src/core/access/roles.ts';
import { showCount } from '../src/core/weigh/units.ts';
import { prepareEmptying } from '../src/lib/server/archive/index.ts';
import { change, databaseFile, sql } from '../src/lib/server/database/index.ts';
import { carryOut, type Decided, prepareDocket } from '../src/lib/server/docket/index.ts';
import { importMailbox, readFiles } from '../src/lib/server/intake/index.ts';
import { openContext } from '../src/lib/server/process/index.ts';
import { type Bench, timed } from './clear.ts';
import { percentile, ratio, table } from './measure.ts';
import { writeRealMbox } from './real-mail.ts';

const ROUNDS = 3;
const MAILBOX = 'Bench';

/* Rows, contents and words; a connection of Kovrel overwrites what it deletes (PRAGMA secure_delete). */
const BARE = [
	`BEGIN`,
	`DELETE FROM item`,
	`DELETE FROM file_text`,
	`DELETE FROM message`,
	`DELETE FROM content`,
	`INSERT INTO words (words) VALUES ('delete-all')`,
	`COMMIT`
];

async function destroying(bench: Bench): Promise<string> {
	const count = bench.full ? 100_000 : 10_000;
	bench.say(`destroying ${showCount(count)} messages like real ones`);
	const mbox = path.join(bench.root, 'destroyed.mbox');
	await writeRealMbox(mbox, count, { files: 0 });
	const filled = await bench.open('destroying');
	await importMailbox(filled, { path: mbox, mailbox: MAILBOX, alone: true });
	rmSync(mbox);
	await readFiles(filled);
	const all: Decided = { decision: 'delete', options: {}, scope: { kind: 'query', query: '', label: '' } };
	const deleting = await prepareDocket(filled, { mailboxId: 1, lines: [all] });
	await carryOut(filled, { id: deleting.id, expected: deleting });
	await change(filled.db, sql`PRAGMA wal_checkpoint(TRUNCATE)`);
	await filled.db.destroy();
	const copied = async (name: string) => {
		const to = path.join(bench.root, name);
		mkdirSync(to);
		copyFileSync(databaseFile(filled.dataFolder), databaseFile(to));
		return openContext(to, { actor: administratorNamed('bench') });
	};
	const taken: { bare: number[]; docket: number[] } = { bare: [], docket: [] };
	let destroyed = 0;
	for (let round = 0; round < ROUNDS; round++) {
		const bare = await copied(`bare-destroy-${round}`);
		await change(bare.db, sql`PRAGMA foreign_keys = OFF`);
		taken.bare.push(
			await timed(async () => {
				for (const statement of BARE) await bare.db.raw(statement);
			})
		);
		await bare.db.destroy();
		rmSync(bare.dataFolder, { recursive: true });
		const whole = await copied(`docket-destroy-${round}`);
		const draft = await prepareEmptying(whole, { mailboxId: 1, onlyDue: false });
		taken.docket.push(
			await timed(async () => {
				destroyed = (await carryOut(whole, { id: draft.id, confirm: MAILBOX })).messages;
			})
		);
		await whole.db.destroy();
		rmSync(whole.dataFolder, { recursive: true });
	}
	rmSync(filled.dataFolder, { recursive: true });
	const [bare, docket] = [percentile(taken.bare, 0.5), percentile(taken.docket, 0.5)];
	return [
		'## Destroying',
		`${showCount(destroyed)} messages [like real ones](#import-of-mail-like-real-mail), their contents and their words; in turn, each on a copy of its own, the middle of ${ROUNDS}. The bare statements know that nothing else needs the contents, and forget all words by one command.`,
		table(
			['', 'milliseconds'],
			[
				['bare DELETE of rows and contents with secure_delete, and of all words', bare.toFixed(0)],
				[
					'the docket: what is still needed elsewhere, the words of each message, certificate, ledger',
					docket.toFixed(0)
				]
			]
		),
		`**${ratio(docket, bare)} times the bare statements** (required: 3).`
	].join('\n\n');
}

/** The part of it. */
export const destroyParts: Record<string, (bench: Bench) => Promise<string>> = { destroy: destroying };
