import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { change, row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { Context } from '../context/context.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { carryOut } from '../docket/carry-out.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { threadMail } from '../mail/thread-mail.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { damageRows } from '../testing/damage.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { backUp } from './back-up.ts';
import { useCase } from '../process/use-cases.ts';
import { checkStanding } from './check-standing.ts';
import { repairArchive } from './repair-archive.ts';
import { putIfRight, valuesOf } from './repair-store.ts';
import { verify } from './verify-archive.ts';

afterAll(closeParsePool);

const MESSAGES = 40;
const LETTERS = Array.from({ length: MESSAGES }, (_, n) =>
	letter(`Berth ${n}`, `Mon, 3 Feb 2020 10:00:${String(n).padStart(2, '0')} +0000`, `Words of berth ${n}, quayside.`)
);

/* Everything about mail that a person could lose. */
async function facts({ db }: Context): Promise<object> {
	const items = await rows(db, sql`SELECT * FROM item ORDER BY id`);
	const messages = await rows(db, sql`SELECT * FROM message ORDER BY id`);
	const contents = await rows(db, sql`SELECT id, hex(sha256) AS sha256, raw_bytes FROM content ORDER BY id`);
	return { items, messages, contents };
}

/* As an office that has been read and threaded, as the first reading anew does it. */
async function office(): Promise<{ context: Context; backup: string; mail: string }> {
	const context = await openOffice();
	const mail = mboxFile(LETTERS);
	await importMailbox(context, { path: mail, mailbox: 'Office', folder: 'Berths' });
	await threadMail(context);
	const { file } = await backUp(context, { out: temporaryFolder() });
	// decided on since the backup was made
	const ids = (await rows<{ id: number }>(context.db, sql`SELECT id FROM item WHERE id <= 10`)).map(({ id }) => id);
	const docket = await prepareDocket(context, {
		mailboxId: 1,
		lines: [{ decision: 'archive', options: {}, scope: { kind: 'items', ids } }]
	});
	await carryOut(context, { id: docket.id });
	return { context, backup: file, mail };
}

describe('repair', () => {
	it.each<[string, string, 'backup' | 'mail' | undefined]>([
		['bytes from a backup', `UPDATE content SET data = zeroblob(length(data)) WHERE id IN (7, 30)`, 'backup'],
		['bytes from mail', `UPDATE content SET data = zeroblob(length(data)) WHERE id IN (7, 30)`, 'mail'],
		['bytes that are gone, from a backup', `DELETE FROM content WHERE id IN (7, 30)`, 'backup'],
		['subjects from the bytes', `UPDATE message SET subject = 'Bertg 7', from_name = '' WHERE id = 7`, undefined],
		['a hash that is computed, from the bytes', `UPDATE message SET body_hash = x'00' WHERE id = 7`, undefined],
		[
			'a day of receipt from a backup, of an item that has been archived since',
			`UPDATE item SET received_on = '1999-12-31' WHERE id = 7`,
			'backup'
		],
		['a mark from a backup', `UPDATE item SET kept = 1 WHERE id = 30`, 'backup'],
		['the index of words', `DELETE FROM words_docsize WHERE id = 7`, undefined],
		['words of mail that is not there', `INSERT INTO words (rowid, subject) VALUES (9000, 'harbour')`, undefined],
		['sums', `UPDATE weight_by_month SET messages = messages + 3, bytes = bytes + 7`, undefined]
	])('brings back %s', async (_what, statement, source) => {
		const { context, ...from } = await office();
		const before = await facts(context);
		damageRows(context.dataFolder, statement);
		expect((await verify(context)).ok).toBe(false);
		const done = await repairArchive(context, { from: source && from[source] });
		expect(done).toMatchObject({ left: [], finished: true, because: undefined });
		expect(done.repaired).toBeGreaterThan(0);
		await threadMail(context);
		expect(await facts(context)).toEqual(before);
		expect(await verify(context)).toMatchObject({ ok: true, damaged: [] });
		expect((await find(context, { query: 'quayside subject:"Berth 7"', limit: 5 })).hits).toHaveLength(1);
		expect(await row(context.db, sql`SELECT action FROM ledger ORDER BY number DESC LIMIT 1`)).toEqual({
			action: 'repaired'
		});
	});

	it('leaves what nothing at hand has whole, names it, and invents nothing', async () => {
		const { context, mail } = await office();
		damageRows(
			context.dataFolder,
			`UPDATE content SET data = zeroblob(length(data)) WHERE id = 7; UPDATE item SET kept = 1 WHERE id = 8`
		);
		const before = await facts(context);
		const other = path.join(temporaryFolder(), 'other.mbox');
		writeFileSync(other, readFileSync(mail, 'utf8').replaceAll('quayside', 'lighthouse'));
		const done = await repairArchive(context, { from: other });
		expect(done.left).toMatchObject([
			{ what: 'content', id: 7, subject: 'Berth 6', mailbox: 'Office' },
			{ what: 'item', id: 8, subject: 'Berth 7' }
		]);
		expect(await facts(context)).toEqual(before);
		await expect(repairArchive(context, { from: '/nowhere/at/all' })).rejects.toThrow('Nothing was done');
	});

	it('brings nothing back that is gone by then, and tells the pages what it found', async () => {
		const { context, backup } = await office();
		const { db } = context;
		damageRows(context.dataFolder, `UPDATE message SET subject = 'x', from_name = 'y', body_hash = x'00' WHERE id = 9`);
		await (useCase('verifyArchive').run as (within: Context) => Promise<unknown>)(context);
		expect((await checkStanding(context))?.damage).toBe('1 message is damaged');
		// two values of a row and one that is computed: the bytes alone do not prove which
		expect((await repairArchive(context, {})).left).toMatchObject([{ what: 'message', id: 9 }]);
		expect(await repairArchive(context, { from: backup })).toMatchObject({ left: [] });
		expect((await checkStanding(context))?.damage).toBe('');
		// as if another process had destroyed it between the check and the repair
		const row7 = await valuesOf(db, 'item', 7);
		await change(db, sql`DELETE FROM item WHERE id = 7`);
		expect(await putIfRight(db, 'item', 7, row7 ?? {})).toBe(false);
		expect(await valuesOf(db, 'item', 7)).toBeUndefined();
	});

	it('takes rows from no other archive', async () => {
		const { context } = await office();
		const other = await openOffice();
		await importMailbox(other, { path: mboxFile(LETTERS.slice().reverse()), mailbox: 'Office', folder: 'Berths' });
		await change(other.db, sql`UPDATE item SET kept = 0`);
		const { file } = await backUp(other, { out: temporaryFolder() });
		damageRows(context.dataFolder, `UPDATE item SET kept = 1 WHERE id = 30`);
		expect((await repairArchive(context, { from: file })).left).toMatchObject([{ what: 'item', id: 30 }]);
	});
});
