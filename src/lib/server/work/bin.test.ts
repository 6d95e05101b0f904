import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { closeFilesPool } from '../jobs/files-pool.ts';
import { closeParsePool } from '../jobs/parse-pool.ts';
import { readContent } from '../stores/contents.ts';
import { listLedger } from '../stores/ledger.ts';
import { change, row, rows } from '../stores/rows.ts';
import { compareWeights, freedByDay, weightByState } from '../stores/weights.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { emptyDueBins, listBin, NIGHTLY, prepareEmptying, setClearing } from './bin.ts';
import { readCertificate } from './certificates.ts';
import { carryOut, takeBack } from './carry-out.ts';
import type { Context } from './context.ts';
import { find } from './find.ts';
import { importMailbox } from './import-mailbox.ts';
import { decide, prepareDocket } from './prepare-docket.ts';
import { showDocket } from './show-docket.ts';
import { readFiles } from './read-files.ts';
import { restore } from './restore.ts';
import { verifyArchive } from './verify-archive.ts';

afterAll(async () => {
	await closeParsePool();
	await closeFilesPool();
});

const DATE = 'Mon, 02 Mar 2020 10:00:00 +0000';
const PDF = Buffer.from('scan '.repeat(9_000)).toString('base64').replace(/.{76}/g, '$&\n');
const withFile = (subject: string, text: string, name: string) =>
	letter(subject, DATE).replace(
		/\n\n[\s\S]*$/,
		`\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\n${text}\n--b\nContent-Type: application/pdf; name="${name}"\nContent-Disposition: attachment; filename="${name}"\nContent-Transfer-Encoding: base64\n\n${PDF}\n--b\nContent-Type: text/csv; name="list.csv"\nContent-Disposition: attachment; filename="list.csv"\n\n${text.includes(MARKS.text) ? MARKS.inside : 'Words'};1\n--b--\n`
	);

/* Words that nothing else has, so that they can be looked for in the bytes of the files. */
const MARKS = {
	text: 'qxzvbodymarker',
	subject: 'qxzvsubjectmarker',
	name: 'qxzvfilemarker',
	file: 'qxzvfilename.pdf',
	inside: 'qxzvinside',
	person: 'qxzvperson',
	list: 'qxzvlist'
};

async function office(): Promise<Context> {
	const context = await openOffice();
	const mail = [
		withFile(`Gone ${MARKS.subject}`, `Here is ${MARKS.text}.`, MARKS.file)
			.replace(/^From: .*$/m, `From: ${MARKS.person} <${MARKS.person}@x.example>`)
			.replace(/^MIME-Version/m, `List-Id: ${MARKS.list} <${MARKS.list}.example>\nMIME-Version`),
		withFile('Stays', 'Here is what stays.', 'stays.pdf'),
		letter('Other', DATE)
	];
	await importMailbox(context, { path: mboxFile(mail), mailbox: 'Office' });
	await readFiles(context);
	return context;
}

const inBin = (context: Context, ids: number[]) =>
	prepareDocket(context, {
		mailboxId: 1,
		lines: [{ decision: 'delete', options: {}, scope: { kind: 'items', ids } }]
	}).then(({ id }) => carryOut(context, { id }));

/* Every byte that is kept in the data folder: the file of the database, its log, and what else there is. */
function bytesOf(context: Context): Buffer {
	return Buffer.concat(
		readdirSync(context.dataFolder, { recursive: true, withFileTypes: true })
			.filter((entry) => entry.isFile())
			.map((entry) => readFileSync(path.join(entry.parentPath, entry.name)))
	);
}

describe('deleting', () => {
	it('puts into the one bin, where it counts, with days left, and takes out of every view', async () => {
		const context = await office();
		await change(context.db, `INSERT INTO tag (id, name, name_key, colour) VALUES (1, 'Ramp', 'ramp', 'slate')`);
		await change(context.db, `INSERT INTO item_tag VALUES (1, 1)`);
		expect((await find(context, { query: 'tag:Ramp', limit: 5 })).total).toBe(1);
		await inBin(context, [1, 3]);
		expect((await find(context, { query: 'tag:Ramp', limit: 5 })).total).toBe(0);
		const bin = await listBin(context, { mailboxId: 1, limit: 10 });
		expect(bin.items.map(({ id, daysLeft, origin, folder }) => [id, daysLeft, origin, folder])).toEqual([
			[1, 30, 'Inbox', 'Trash'],
			[3, 30, 'Inbox', 'Trash']
		]);
		expect(await weightByState(context.db)).toMatchObject([
			{ state: 'binned', messages: 2 },
			{ state: 'live', messages: 1 }
		]);
		expect(await freedByDay(context.db, 1)).toEqual([]);
		await restore(context, { ids: [1] });
		expect((await find(context, { query: 'tag:Ramp', limit: 5 })).total).toBe(1);
	});

	it.each(['flagged', 'kept', 'paused'] as const)(
		'leaves what is %s, unless a line of its own names that',
		async (protection) => {
			const context = await office();
			if (protection === 'paused') {
				const pause = { until: '2027-01-01', because: 'the claim runs' };
				const { id } = await decide(context, {
					mailboxId: 1,
					line: { decision: 'pause', options: pause, scope: { kind: 'items', ids: [1] } }
				});
				await carryOut(context, { id });
			} else await change(context.db, `UPDATE item SET ${protection} = 1 WHERE id = 1`);
			const scope = { kind: 'items' as const, ids: [1, 2, 3] };
			const docket = await prepareDocket(context, {
				mailboxId: 1,
				lines: [{ decision: 'delete', options: {}, scope }]
			});
			expect(docket).toMatchObject({ messages: 2, lines: [{ left: [{ reason: protection, messages: 1 }] }] });
			const both = await prepareDocket(context, {
				mailboxId: 1,
				lines: [
					{ decision: 'delete', options: {}, scope },
					{ decision: 'delete', options: { only: protection }, scope }
				]
			});
			expect(both.lines.map(({ messages, sentence }) => [messages, sentence.includes(protection)])).toEqual([
				[2, false],
				[1, true]
			]);
		}
	);
});

describe('destroying', () => {
	it('leaves nothing behind: not in the contents, not in the index, not in any file (invariant 12)', async () => {
		const context = await office();
		const words = () => find(context, { query: MARKS.text, limit: 5, states: ['live', 'archived', 'binned'] });
		const vocabulary = async () => {
			await change(context.db, `CREATE VIRTUAL TABLE IF NOT EXISTS temp.vocabulary USING fts5vocab(main, words, row)`);
			return rows(context.db, `SELECT term FROM temp.vocabulary WHERE term LIKE 'qxzv%'`);
		};
		const marked = (await readContent(context.db, 1)) as Buffer;
		expect(marked.includes(MARKS.text)).toBe(true);
		expect((await words()).total).toBe(1);
		const inside = () => find(context, { query: MARKS.inside, limit: 5, states: ['live', 'archived', 'binned'] });
		expect((await inside()).hits[0]?.context).toContainEqual({ text: MARKS.inside, hit: true });
		expect((await vocabulary()).length).toBeGreaterThanOrEqual(3);
		expect(bytesOf(context).includes('xzvsubjectmarker')).toBe(true);

		const packed = await row<{ data: Buffer }>(context.db, `SELECT data FROM content WHERE id = 1`);
		expect(bytesOf(context).includes(packed?.data as Buffer)).toBe(true);

		await inBin(context, [1]);
		const docket = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		expect(docket).toMatchObject({ messages: 1, destroys: true });
		expect(docket.lines[0]?.consequence).toContain('cannot be undone');
		await carryOut(context, { id: docket.id, confirm: 'destroy' });

		expect(await readContent(context.db, 1)).toBeUndefined();
		expect((await words()).total).toBe(0);
		expect((await inside()).total).toBe(0);
		expect(await rows(context.db, `SELECT message_id FROM file_text WHERE message_id = 1`)).toEqual([]);
		expect(await vocabulary()).toEqual([]);
		expect(await rows(context.db, `SELECT rowid FROM file_names WHERE file_names MATCH '"qxzvfile"'`)).toEqual([]);
		await context.db.destroy();
		const bytes = bytesOf(context);
		for (const mark of Object.values(MARKS))
			for (const part of [mark, mark.slice(3)]) expect(bytes.includes(part), part).toBe(false);
		// the message as it was stored, packed, is overwritten too
		expect(bytes.includes(packed?.data as Buffer)).toBe(false);
		const { createHash } = await import('node:crypto');
		expect(bytes.includes(createHash('sha256').update(marked).digest())).toBe(true); // the certificate keeps its hash
	});

	it('keeps what another message needs: the same bytes elsewhere, and a file that both carry', async () => {
		const context = await office();
		await importMailbox(context, { path: mboxFile([letter('Other', DATE)]), mailbox: 'Crew' });
		await inBin(context, [1, 3]);
		const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await carryOut(context, { id, confirm: 'destroy' });
		const { items } = await readCertificate(context, { docketId: id, limit: 10 });
		expect(items.map(({ itemId, isElsewhere }) => [itemId, isElsewhere])).toEqual([
			[1, false],
			[3, true]
		]);
		const stays = await row<{ contentId: number }>(
			context.db,
			`SELECT content_id AS contentId FROM message WHERE subject = 'Stays'`
		);
		expect((await readContent(context.db, stays?.contentId as number))?.includes(PDF.slice(0, 200))).toBe(true);
		expect(await verifyArchive(context)).toMatchObject({ ok: true });
		expect(await compareWeights(context.db)).toBe(0);
		expect(await rows(context.db, `PRAGMA foreign_key_check`)).toEqual([]);
		expect((await listLedger(context.db))[0]).toMatchObject({
			action: 'docket-carried-out',
			details: { certificate: id }
		});
		await expect(takeBack(context, { id })).rejects.toThrow('cannot be taken back');
	});

	it('wants the name of the mailbox where much goes, and does nothing without it', async () => {
		const context = await office();
		await setClearing(context, { mailbox: 'Office', confirmAbove: 1 });
		await inBin(context, [1, 2, 3]);
		const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		for (const confirm of [undefined, '', 'Crew'])
			await expect(carryOut(context, { id, confirm })).rejects.toThrow('confirm it with the name');
		expect((await listBin(context, { mailboxId: 1, limit: 1 })).messages).toBe(3);
		expect(await carryOut(context, { id, confirm: ' office ' })).toMatchObject({ messages: 3, finished: true });
	});

	it('of what changed since it was drafted destroys nothing', async () => {
		const context = await office();
		await inBin(context, [1]);
		const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await inBin(context, [2]);
		await expect(carryOut(context, { id })).rejects.toThrow('changed since this docket was drafted');
		expect(await showDocket(context, { id })).toMatchObject({ state: 'drafted', messages: 2 });
	});

	it('goes on after a crash, each message exactly once', async () => {
		const context = await openOffice();
		const mail = Array.from({ length: 1_203 }, (_, n) => letter(`Number ${n}`, DATE, `word${n}`));
		await importMailbox(context, { path: mboxFile(mail), mailbox: 'Office', alone: true });
		await inBin(
			context,
			mail.map((_, n) => n + 1)
		);
		const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		const crash = new AbortController();
		const cut = await carryOut(
			{ ...context, signal: crash.signal, report: () => crash.abort() },
			{ id, confirm: 'Office' }
		);
		expect(cut.finished).toBe(false);
		expect(await carryOut(context, { id })).toMatchObject({ finished: true, messages: 1_203 });
		expect((await readCertificate(context, { docketId: id, limit: 2_000 })).items.length).toBe(1_203);
		expect(
			await row(
				context.db,
				`SELECT (SELECT count(*) FROM item) AS items, (SELECT count(*) FROM content) AS contents, (SELECT count(*) FROM thread) AS threads`
			)
		).toEqual({ items: 0, contents: 0, threads: 0 });
		await change(context.db, `INSERT INTO words (words) VALUES ('integrity-check')`);
	}, 60_000);
});

describe('every night', () => {
	const tomorrow = (context: Context, days: number): Context => ({
		...context,
		now: () => new Date(Date.parse('2026-11-25T12:00:00Z') + days * 86_400_000)
	});

	it('destroys what has had its days, once a person has let it do so the first time (invariant 9)', async () => {
		const context = await office();
		await inBin(context, [1]);
		await inBin(tomorrow(context, 5), [2]);
		const later = tomorrow(context, 30);
		expect(await emptyDueBins(later)).toEqual([]);
		await setClearing(context, { mailbox: 'Office', emptiesBin: true });
		expect(await listBin(tomorrow(context, 29), { mailboxId: 1, limit: 5 })).toMatchObject({
			due: { messages: 0 },
			dueTomorrow: { messages: 1 }
		});
		// the day before, it is said
		const night = { mailboxId: 1, mailbox: 'Office', messages: 1, asks: false, tomorrow: 0 };
		expect(await emptyDueBins(tomorrow(context, 29))).toEqual([{ ...night, messages: 0, tomorrow: 1 }]);
		expect(await emptyDueBins(later)).toEqual([{ ...night, docket: expect.any(Number) as number, asks: true }]);
		expect(await emptyDueBins(later)).toEqual([]);
		const drafted = await row<{ id: number }>(
			context.db,
			`SELECT id FROM docket WHERE name = ? AND state = 'drafted'`,
			[NIGHTLY]
		);
		expect((await listBin(later, { mailboxId: 1, limit: 5 })).messages).toBe(2);
		await carryOut(later, { id: drafted?.id as number, confirm: 'destroy' });
		expect(await emptyDueBins(tomorrow(context, 35))).toEqual([{ ...night, docket: expect.any(Number) as number }]);
		expect((await listBin(later, { mailboxId: 1, limit: 5 })).messages).toBe(0);
	});

	it.each([
		[{ binDays: 0 }, '1 to 3,650 days'],
		[{ confirmAbove: -1 }, 'whole number'],
		[{ inboxAim: 1.5 }, 'whole number'],
		[{ addresses: ['office@x.example', 'no address'] }, 'is written like']
	])('refuses %j', async (settings, message) => {
		const context = await office();
		await expect(setClearing(context, { mailbox: 'Office', ...settings })).rejects.toThrow(message);
	});
});

describe('freed so far', () => {
	it('is true to the byte: what came in, less what was freed, is what counts now', async () => {
		const context = await office();
		const came = await row<{ bytes: number }>(context.db, `SELECT sum(bytes) AS bytes FROM item`);
		const docket = (decision: 'archive' | 'restore', ids: number[]) =>
			prepareDocket(context, { mailboxId: 1, lines: [{ decision, options: {}, scope: { kind: 'items', ids } }] });
		const first = await docket('archive', [1, 2]);
		await carryOut(context, { id: first.id });
		await carryOut(context, { id: (await docket('restore', [2])).id });
		await inBin(context, [3]);
		const emptying = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await carryOut(context, { id: emptying.id, confirm: 'destroy' });
		const check = async () => {
			const counts = (await weightByState(context.db))
				.filter(({ state }) => state !== 'archived')
				.reduce((sum, { bytes }) => sum + bytes, 0);
			const freed = (await freedByDay(context.db, 1)).reduce((sum, { bytes }) => sum + bytes, 0);
			expect((came?.bytes ?? 0) - freed).toBe(counts);
		};
		await check();
		await takeBack(context, { id: first.id });
		await check();
	});
});
