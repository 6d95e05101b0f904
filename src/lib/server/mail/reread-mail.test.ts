import { afterAll, expect, it } from 'vitest';
import { prepareEmptying } from '../archive/bin.ts';
import type { Context } from '../context/context.ts';
import { change, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { carryOut } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { closeParsePool } from './reading/parse-pool.ts';
import { rebuildWords, rereadMail } from './reread-mail.ts';
import { compareWeights, recountWeights } from './weights-store.ts';

afterAll(closeParsePool);

const MESSAGES = 180;
const MARK = 'qxzvmarker';

/* So few that the index is not merged before: each of its segments is looked into. */
const DESTROYED = 5;

async function markedWords({ db }: Context): Promise<string[]> {
	await change(db, sql`CREATE VIRTUAL TABLE IF NOT EXISTS temp.terms USING fts5vocab(main, words, row)`);
	const found = await rows<{ term: string }>(db, sql`SELECT term FROM temp.terms WHERE term LIKE ${`${MARK}%`}`);
	return found.map(({ term }) => term);
}

it.each([
	['reread', (context: Context) => rereadMail(context)],
	['with an index made anew', rebuildWords]
])('mail that is %s around a damaged message is in the index, and its words go with it', async (_how, again) => {
	const context = await openOffice();
	const mail = Array.from({ length: MESSAGES }, (_, n) =>
		letter(`Number ${n}`, 'Mon, 2 Mar 2020 10:00:00 +0000', `${MARK}${n}x`)
	);
	await importMailbox(context, { path: mboxFile(mail), mailbox: 'Office' });
	// in the last of four bundles
	const damaged = 170;
	const [{ data } = { data: Buffer.alloc(0) }] = await rows<{ data: Buffer }>(
		context.db,
		sql`SELECT data FROM content WHERE id = ${damaged}`
	);
	await change(context.db, sql`UPDATE content SET data = x'0b0280' WHERE id = ${damaged}`);
	await change(context.db, sql`UPDATE message SET reading = 1`);
	// an earlier version took it for a notice
	await change(context.db, sql`UPDATE item SET mail_kind = 3 WHERE id <= 50`);
	await recountWeights(context.db);
	// merging on the way would hide words that were put twice
	await change(context.db, sql`INSERT INTO words (words, rank) VALUES ('automerge', 0)`);
	await change(context.db, sql`INSERT INTO words (words, rank) VALUES ('crisismerge', 1000)`);
	await again(context);
	expect(await rows(context.db, sql`SELECT id FROM message WHERE reading < 2`)).toEqual([]);
	expect(await compareWeights(context.db)).toBe(0);
	expect(await rows(context.db, sql`SELECT id FROM words_docsize`)).toHaveLength(MESSAGES - 1);
	await change(context.db, sql`UPDATE content SET data = ${data} WHERE id = ${damaged}`);
	expect(await markedWords(context)).toHaveLength(MESSAGES - 1);

	const ids = Array.from({ length: DESTROYED }, (_, n) => n + 1);
	const some = { decision: 'delete' as const, options: {}, scope: { kind: 'items' as const, ids } };
	await carryOut(context, { id: (await prepareDocket(context, { mailboxId: 1, lines: [some] })).id });
	const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
	expect(await carryOut(context, { id, confirm: 'Office' })).toMatchObject({ messages: DESTROYED });
	expect(await markedWords(context)).toHaveLength(MESSAGES - 1 - DESTROYED);
	await change(context.db, sql`INSERT INTO words (words) VALUES ('integrity-check')`);
});
