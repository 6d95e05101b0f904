import { readFileSync, writeFileSync } from 'node:fs';
import { brotliDecompressSync } from 'node:zlib';
import { afterAll, describe, expect, it } from 'vitest';
import type { Actor } from '../../../core/access/roles.ts';
import { requirePerson } from '../people/people.ts';
import { actingAs, type Context } from '../context/context.ts';
import { databaseFile } from '../database/open.ts';
import { row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { approveDocket } from '../docket/approve-docket.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { readCertificate } from '../docket/certificates.ts';
import { listedDockets, showSlip } from '../docket/show-docket.ts';
import { checkLedger } from '../ledger/ledger-store.ts';
import { isReadingAgain, rereadMail } from '../mail/reread-mail.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { compareDue } from '../standing/due-store.ts';
import { openOffice, temporaryFolder } from '../testing/office.ts';
import { verify } from '../backup/verify-archive.ts';
import { jobsToResume, listJobs } from './jobs.ts';
import { useCase } from './use-cases.ts';

afterAll(closeParsePool);

/*
 * A data folder of version 0.1 from before people had numbers (22 migrations): 180 messages; dockets carried out,
 * destroyed, drafted and approved by two administrators; a hold, a pause, a period, a grant; an interrupted job.
 */
async function formerOffice(): Promise<Context> {
	const folder = temporaryFolder();
	const packed = readFileSync(new URL('../testing/fixtures/version-22.sqlite.br', import.meta.url));
	writeFileSync(databaseFile(folder), brotliDecompressSync(packed));
	return openOffice(folder);
}

async function as(context: Context, name: string): Promise<Context> {
	const { id, role } = await requirePerson(context.db, name);
	return actingAs(context, { personId: id, name, role } satisfies Actor);
}

describe('a data folder of a former version', () => {
	it('opens with everything that is in it, and is whole', async () => {
		const context = await formerOffice();
		expect(await verify(context)).toMatchObject({ ok: true });
		expect((await checkLedger(context.db)).ok).toBe(true);
		expect(await compareWeights(context.db)).toBe(0);
		expect(await compareDue(context.db)).toBe(0);
		expect(await rows(context.db, sql`SELECT state, count(*) AS n FROM item GROUP BY state`)).toEqual([
			{ state: 'archived', n: 30 },
			{ state: 'live', n: 125 }
		]);
		expect(await rows(context.db, sql`PRAGMA foreign_key_check`)).toEqual([]);
		expect(await readCertificate(context, { docketId: 3, limit: 100 })).toMatchObject({ messages: 25 });
	});

	it('is read again once, and says so while that lasts', async () => {
		const context = await formerOffice();
		const asks = async () => (useCase('hasToReadAgain').run as (within: Context) => Promise<boolean>)(context);
		expect(await asks()).toBe(true);
		const stopped = { ...context, signal: AbortSignal.abort() };
		expect(await rereadMail(stopped)).toMatchObject({ finished: false });
		expect([await isReadingAgain(context), await asks()]).toEqual([true, true]);
		expect(await rereadMail(context)).toMatchObject({ finished: true });
		expect([await isReadingAgain(context), await asks()]).toEqual([false, false]);
		expect(await verify(context)).toMatchObject({ ok: true });
		// a new folder has nothing to be read again
		const fresh = await openOffice();
		expect(await (useCase('hasToReadAgain').run as (within: Context) => Promise<boolean>)(fresh)).toBe(false);
	});

	it('knows by number who did what, and goes on with what was begun', async () => {
		const context = await formerOffice();
		const astrid = await as(context, 'Astrid Lund');
		const maren = await as(context, 'Maren Holt');
		const dockets = await listedDockets(context, { limit: 10, drafts: true });
		expect(dockets.map(({ id, draftedById, approvedById }) => [id, draftedById, approvedById])).toEqual([
			[6, astrid.actor.personId, maren.actor.personId],
			[5, maren.actor.personId, null],
			[4, astrid.actor.personId, null],
			[3, maren.actor.personId, null],
			[2, maren.actor.personId, null],
			[1, astrid.actor.personId, null]
		]);
		expect((await showSlip(astrid, { mailboxId: 1, others: 5 })).docket?.id).toBe(4);
		expect(await takeBack(astrid, { id: 1 })).toMatchObject({ messages: 50 });
		expect(await carryOut(astrid, { id: 4 })).toMatchObject({ finished: true, messages: 30 });
		await expect(approveDocket(astrid, { id: 6, expected: { messages: 0, bytes: 0 } })).rejects.toThrow('prepared');
		expect(await jobsToResume(context)).toMatchObject([
			{ useCase: 'backUp', who: 'Maren Holt', personId: maren.actor.personId, role: 'administrator', about: null }
		]);
		const [, done] = await listJobs(context, { limit: 5 });
		expect(done).toMatchObject({ label: 'Docket 1', state: 'done', personId: astrid.actor.personId });
		const line = await row<{ person: number }>(context.db, sql`SELECT person FROM ledger ORDER BY number DESC LIMIT 1`);
		expect(line?.person).toBe(astrid.actor.personId);
		expect((await checkLedger(context.db)).ok).toBe(true);
	});
});
