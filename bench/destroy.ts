// What destroying mail costs, beside the bare DELETE of the same rows.
import { copyFileSync, mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { administratorNamed } from '../src/core/access/roles.ts';
import { showCount } from '../src/core/weigh/units.ts';
import { prepareEmptying } from '../src/lib/server/archive/index.ts';
import type { Context } from '../src/lib/server/context/index.ts';
import { change, databaseFile, type Db, inTransaction, rows, sql } from '../src/lib/server/database/index.ts';
import { carryOut, type Decided, prepareDocket } from '../src/lib/server/docket/index.ts';
import { importMailbox, readFiles } from '../src/lib/server/intake/index.ts';
import { deleteWords, type ReadMessage, readStored } from '../src/lib/server/mail/index.ts';
import { openContext } from '../src/lib/server/process/index.ts';
import { type Bench, timed } from './clear.ts';
import { percentile, ratio, table } from './measure.ts';
import { writeRealMbox } from './real-mail.ts';

const MAILBOX = 'Bench';

/* A connection of Kovrel overwrites what it deletes (PRAGMA secure_delete). */
const DELETE_ROWS = ['item', 'file_text', 'message', 'content'].map((table) => `DELETE FROM ${table}`);
const FORGET_ALL_WORDS = `INSERT INTO words (words) VALUES ('delete-all')`;

/* What each way took, in milliseconds. */
interface Taken {
	rows: number[];
	words: number[];
	docket: number[];
}

async function readAll(context: Context): Promise<ReadMessage[]> {
	const messages = await rows<{ id: number; contentId: number }>(
		context.db,
		sql`SELECT id, content_id AS contentId FROM message ORDER BY id`
	);
	const read: ReadMessage[] = [];
	for await (const some of readStored(context, messages)) read.push(...some);
	await context.db.destroy();
	rmSync(context.dataFolder, { recursive: true });
	return read;
}

async function destroying(bench: Bench): Promise<string> {
	const count = bench.full ? 100_000 : 10_000;
	const rounds = bench.full ? 1 : 3;
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
	const bare = async (removeWords: (db: Db) => Promise<unknown>) => {
		const { db, dataFolder } = await copied('bare-destroy');
		await change(db, sql`PRAGMA foreign_keys = OFF`);
		const took = await timed(() =>
			inTransaction(db, async (trx) => {
				await removeWords(trx);
				for (const statement of DELETE_ROWS) await trx.raw(statement);
			})
		);
		await db.destroy();
		rmSync(dataFolder, { recursive: true });
		return took;
	};
	const known = await readAll(await copied('read-before'));
	const taken: Taken = { rows: [], words: [], docket: [] };
	let destroyed = 0;
	for (let round = 0; round < rounds; round++) {
		taken.rows.push(await bare((db) => db.raw(FORGET_ALL_WORDS)));
		taken.words.push(await bare((db) => deleteWords(db, known)));
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
	const [rowsAlone, words, docket] = [taken.rows, taken.words, taken.docket].map((times) => percentile(times, 0.5)) as [
		number,
		number,
		number
	];
	return [
		'## Destroying',
		`${showCount(destroyed)} messages [like real ones](#import-of-mail-like-real-mail), their contents and their words; each on a copy of its own${rounds > 1 ? `, in turn, the middle of ${rounds}` : ''}. The bare statements know that nothing else needs the contents. The index keeps no text, and FTS5 overwrites a word (its option \`secure-delete\`) only if it is told which: the bare statements have all texts in memory, the docket reads each message again.`,
		table(
			['', 'milliseconds'],
			[
				['bare DELETE of rows and contents, all words forgotten by one command', rowsAlone.toFixed(0)],
				['bare DELETE of rows and contents, and of the words of each message', words.toFixed(0)],
				[
					'the docket: what is still needed elsewhere, the words of each message, certificate, ledger',
					docket.toFixed(0)
				]
			]
		),
		`**${ratio(docket, words)} times the bare statements that overwrite the words** (required: 3), ${ratio(docket, rowsAlone)} times those that forget all.`
	].join('\n\n');
}

/** The part of it. */
export const destroyParts: Record<string, (bench: Bench) => Promise<string>> = { destroy: destroying };
