import { execFileSync } from 'node:child_process';
import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { BEGINNING } from '../../../core/ledger/line.ts';
import { administratorNamed } from '../../../core/access/roles.ts';
import { inTransaction } from '../database/open.ts';
import { change, rows } from '../database/rows.ts';
import { type Sql, sql } from '../database/sql.ts';
import type { Context } from '../context/context.ts';
import { openOffice } from '../testing/office.ts';
import { appendLedger, certificateHashes, checkLedger, listLedger } from './ledger-store.ts';

const by = administratorNamed('Ylva Ström');
const at = new Date('2026-11-25T12:00:00Z');

async function ledgerOf(lines: number): Promise<Context> {
	const context = await openOffice();
	for (let n = 1; n <= lines; n++)
		await appendLedger(context.db, { at, by, action: 'quota-set', details: { mailbox: `Mailbox ${n}`, bytes: n } });
	return context;
}

/* Whoever has the file can remove its triggers: the chain is what tells. */
async function tamper({ db }: Context, statement: Sql): Promise<void> {
	const triggers = await rows<{ name: string }>(
		db,
		sql`SELECT name FROM sqlite_schema WHERE type = 'trigger' AND tbl_name = 'ledger'`
	);
	for (const { name } of triggers) await db.raw(`DROP TRIGGER "${name}"`);
	await change(db, statement);
}

describe('the chain of the ledger', () => {
	it('is whole, and its head is the hash of the last line', async () => {
		const { db } = await ledgerOf(2_100);
		const before = await listLedger(db, { limit: 1 });
		expect(await checkLedger(db)).toEqual({
			lines: before[0]?.number,
			ok: true,
			brokenAt: undefined,
			head: before[0]?.hash
		});
	});

	it.each<[string, Sql, number | undefined]>([
		['a name is changed', sql`UPDATE ledger SET who = 'Somebody' WHERE number = 7`, 7],
		['a time is changed', sql`UPDATE ledger SET at = '2026-11-25T12:00:01.000Z' WHERE number = 7`, 7],
		['a person is changed', sql`UPDATE ledger SET person = 12 WHERE number = 7`, 7],
		['an action is changed', sql`UPDATE ledger SET action = 'imported' WHERE number = 7`, 7],
		[
			'a detail is changed',
			sql`UPDATE ledger SET details = replace(details, 'Mailbox', 'Mailb0x') WHERE number = 7`,
			7
		],
		['details are no JSON any more', sql`UPDATE ledger SET details = '{' WHERE number = 7`, 7],
		['a line is removed', sql`DELETE FROM ledger WHERE number = 7`, 8],
		['the first line is removed', sql`DELETE FROM ledger WHERE number = 1`, 2],
		['a hash is replaced', sql`UPDATE ledger SET hash = ${'1'.repeat(64)} WHERE number = 7`, 7],
		[
			'two lines change places',
			sql`UPDATE ledger SET number = CASE number WHEN 7 THEN -8 ELSE -7 END WHERE number IN (7, 8)`,
			-8
		]
	])('breaks where %s', async (_what, statement, brokenAt) => {
		const context = await ledgerOf(12);
		await tamper(context, statement);
		const check = await checkLedger(context.db);
		expect(check.ok && check.lines === 13).toBe(false);
		if (brokenAt !== undefined && brokenAt > 0) expect(check.brokenAt).toBe(brokenAt);
	});

	it('tells of a cut off end only by its head, as the guide says', async () => {
		const context = await ledgerOf(12);
		const { head } = await checkLedger(context.db);
		await tamper(context, sql`DELETE FROM ledger WHERE number = 13`);
		const check = await checkLedger(context.db);
		expect(check).toMatchObject({ ok: true, lines: 12 });
		expect(check.head).not.toBe(head);
	});

	it('cannot be changed by a statement of the program itself', async () => {
		const { db } = await ledgerOf(1);
		await expect(change(db, sql`UPDATE ledger SET who = 'x'`)).rejects.toThrow();
		await expect(change(db, sql`DELETE FROM ledger`)).rejects.toThrow();
	});

	it('has no line of a transaction that was rolled back, and goes on without a gap', async () => {
		const { db } = await ledgerOf(3);
		const gone = inTransaction(db, async (trx) => {
			await appendLedger(trx, { at, by, action: 'imported', details: { read: 1 } });
			throw new Error('the disk is full');
		});
		await expect(gone).rejects.toThrow('the disk is full');
		await appendLedger(db, { at, by, action: 'exported', details: {} });
		expect((await listLedger(db)).map(({ number, action }) => [number, action]).slice(0, 2)).toEqual([
			[5, 'exported'],
			[4, 'quota-set']
		]);
		expect((await checkLedger(db)).ok).toBe(true);
	});

	// Python's json and hashlib, as an outside reader: keys in order, no blanks, text as UTF-8
	it('is computed alike by Python from the stored fields alone', async () => {
		const { db } = await openOffice();
		const values = fc.oneof(fc.string({ unit: 'grapheme' }), fc.integer(), fc.boolean(), fc.constant(null));
		const details = fc.dictionary(
			fc.string({ unit: 'grapheme', minLength: 1 }).filter((key) => key !== '__proto__'),
			fc.oneof(values, fc.array(values, { maxLength: 3 }))
		);
		for (const given of fc.sample(details, 60)) await appendLedger(db, { at, by, action: 'imported', details: given });
		const stored = await rows<Record<string, unknown>>(db, sql`SELECT * FROM ledger ORDER BY number`);
		const script = `
import hashlib, json, sys
previous = '${BEGINNING}'
for line in json.load(sys.stdin):
    facts = {key: line[key] for key in ('number', 'at', 'who', 'action')}
    facts['details'] = json.loads(line['details'])
    facts['previous'] = previous
    if line['person'] is not None: facts['person'] = line['person']
    order = lambda value: {key: order(value[key]) for key in sorted(value, key=lambda key: key.encode('utf-16-be'))} if isinstance(value, dict) else [order(inner) for inner in value] if isinstance(value, list) else value
    text = json.dumps(order(facts), ensure_ascii=False, separators=(',', ':'))
    previous = hashlib.sha256(text.encode('utf-8', 'surrogatepass')).hexdigest()
    if previous != line['hash']: sys.exit('line %d differs: %s' % (line['number'], text))
print(previous)`;
		const computed = execFileSync('python3', ['-c', script], { input: JSON.stringify(stored), encoding: 'utf8' });
		expect(computed.trim()).toBe((await checkLedger(db)).head);
	});

	it('knows the certificate of each docket that destroyed something', async () => {
		const { db } = await openOffice();
		const carriedOut = (docket: number, certificateHash?: string) =>
			appendLedger(db, { at, by, action: 'docket-carried-out', details: { docket, certificateHash } });
		await carriedOut(1);
		await carriedOut(2, 'aa');
		await carriedOut(3, 'bb');
		expect([...(await certificateHashes(db))]).toEqual([
			[2, 'aa'],
			[3, 'bb']
		]);
		expect([...(await certificateHashes(db, 3))]).toEqual([[3, 'bb']]);
	});
});
