import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { closeReadingPool } from '../mail/reading/reading-pool.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { pack, putContents, readContent } from '../mail/contents-store.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { change, row, rows } from '../database/rows.ts';
import { raw, sql } from '../database/sql.ts';
import { compareWeights, freedByDay, weightByState } from '../mail/weights-store.ts';
import { itemsIn, largeOffice, statesOf } from '../testing/large-office.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { emptyDueBins, listBin, NIGHTLY, prepareEmptying, setClearing } from './bin.ts';
import { type CertificateLine, certificateLineText } from '../../../core/retention/certificates.ts';
import { exportCertificate, readCertificate } from '../docket/certificates.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { actingAs, type Context } from '../context/context.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { setPolicy } from '../retention/policy.ts';
import { decide, prepareDocket } from '../docket/prepare-docket.ts';
import { showDocket } from '../docket/show-docket.ts';
import { readFiles } from '../intake/read-files.ts';
import { restore } from '../find/restore.ts';
import { verify } from '../backup/verify-archive.ts';
import { KOVREL } from '../../../core/access/roles.ts';

afterAll(async () => {
	await closeParsePool();
	await closeReadingPool();
});

const DATE = 'Mon, 02 Mar 2020 10:00:00 +0000';
const PDF = Buffer.from('scan '.repeat(9_000)).toString('base64').replace(/.{76}/g, '$&\n');
const withFile = (subject: string, text: string, name: string) =>
	letter(subject, DATE).replace(
		/\n\n[\s\S]*$/,
		`\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\n${text}\n--b\nContent-Type: application/pdf; name="${name}"\nContent-Disposition: attachment; filename="${name}"\nContent-Transfer-Encoding: base64\n\n${PDF}\n--b\nContent-Type: text/csv; name="list.csv"\nContent-Disposition: attachment; filename="list.csv"\n\n${text.includes(MARKS.text) ? MARKS.inside : 'Words'};1\n--b--\n`
	);

/* Words that occur nowhere else, so that they can be searched for in the bytes of the files. */
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

/* All bytes in the data folder: the database file, its log and any other file. */
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
		await change(context.db, sql`INSERT INTO tag (id, name, name_key, colour) VALUES (1, 'Ramp', 'ramp', 'slate')`);
		await change(context.db, sql`INSERT INTO item_tag VALUES (1, 1)`);
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
			} else await change(context.db, sql`UPDATE item SET ${raw(protection)} = 1 WHERE id = 1`);
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
			await change(
				context.db,
				sql`CREATE VIRTUAL TABLE IF NOT EXISTS temp.vocabulary USING fts5vocab(main, words, row)`
			);
			return rows(context.db, sql`SELECT term FROM temp.vocabulary WHERE term LIKE 'qxzv%'`);
		};
		const marked = (await readContent(context.db, 1)) as Buffer;
		expect(marked.includes(MARKS.text)).toBe(true);
		expect((await words()).total).toBe(1);
		const inside = () => find(context, { query: MARKS.inside, limit: 5, states: ['live', 'archived', 'binned'] });
		expect((await inside()).hits[0]?.context).toContainEqual({ text: MARKS.inside, hit: true });
		expect((await vocabulary()).length).toBeGreaterThanOrEqual(3);
		expect(bytesOf(context).includes('xzvsubjectmarker')).toBe(true);

		const packed = await row<{ data: Buffer }>(context.db, sql`SELECT data FROM content WHERE id = 1`);
		expect(bytesOf(context).includes(packed?.data as Buffer)).toBe(true);

		await inBin(context, [1]);
		const docket = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		expect(docket).toMatchObject({ messages: 1, destroys: true });
		expect(docket.lines[0]?.consequence).toContain('cannot be undone');
		await carryOut(context, { id: docket.id, confirm: 'destroy' });

		expect(await readContent(context.db, 1)).toBeUndefined();
		expect((await words()).total).toBe(0);
		expect((await inside()).total).toBe(0);
		expect(await rows(context.db, sql`SELECT message_id FROM file_text WHERE message_id = 1`)).toEqual([]);
		expect(await vocabulary()).toEqual([]);
		expect(await rows(context.db, sql`SELECT rowid FROM file_names WHERE file_names MATCH '"qxzvfile"'`)).toEqual([]);
		await context.db.destroy();
		const bytes = bytesOf(context);
		for (const mark of Object.values(MARKS))
			for (const part of [mark, mark.slice(3)]) expect(bytes.includes(part), part).toBe(false);
		// the stored, compressed message is overwritten too
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
			sql`SELECT content_id AS contentId FROM message WHERE subject = 'Stays'`
		);
		expect((await readContent(context.db, stays?.contentId as number))?.includes(PDF.slice(0, 200))).toBe(true);
		expect(await verify(context)).toMatchObject({ ok: true });
		expect(await compareWeights(context.db)).toBe(0);
		expect(await rows(context.db, sql`PRAGMA foreign_key_check`)).toEqual([]);
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
			{ ...context, signal: crash.signal, report: ({ done }) => done > 0 && crash.abort() },
			{ id, confirm: 'Office' }
		);
		expect(cut.finished).toBe(false);
		expect(await carryOut(context, { id })).toMatchObject({ finished: true, messages: 1_203 });
		expect((await readCertificate(context, { docketId: id, limit: 2_000 })).items.length).toBe(1_203);
		expect(
			await row(
				context.db,
				sql`SELECT (SELECT count(*) FROM item) AS items, (SELECT count(*) FROM content) AS contents, (SELECT count(*) FROM thread) AS threads`
			)
		).toEqual({ items: 0, contents: 0, threads: 0 });
		await change(context.db, sql`INSERT INTO words (words) VALUES ('integrity-check')`);
	});
});

describe('removing words from the index', () => {
	/* Three imports, each with segments of its own in the index. */
	async function inSegments(): Promise<Context> {
		const context = await openOffice();
		for (const part of [0, 1, 2]) {
			const mail = Array.from({ length: 40 }, (_, n) =>
				letter(`Part ${part}, number ${n}`, DATE, `part${part} word${part * 40 + n} qxzvparts`)
			);
			await importMailbox(context, { path: mboxFile(mail), mailbox: 'Office' });
		}
		return context;
	}
	const segments = async ({ db }: Context) => (await rows(db, sql`SELECT DISTINCT segid FROM words_idx`)).length;
	const rowsWith = async ({ db }: Context, term: string) => {
		await change(db, sql`CREATE VIRTUAL TABLE IF NOT EXISTS temp.terms USING fts5vocab(main, words, row)`);
		return (await row<{ doc: number }>(db, sql`SELECT doc FROM temp.terms WHERE term = ${term}`))?.doc ?? 0;
	};
	async function destroyFirst(context: Context, count: number): Promise<void> {
		const ids = Array.from({ length: count }, (_, n) => n + 1);
		await inBin(context, ids);
		const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await carryOut(context, { id, confirm: 'Office' });
		await change(context.db, sql`INSERT INTO words (words) VALUES ('integrity-check')`);
	}

	it.each([
		['a few messages, from the segments that there are', 5, 3],
		['a twentieth and more, from segments merged before', 50, 1]
	])('of %s', async (_what, count, left) => {
		const context = await inSegments();
		expect(await segments(context)).toBe(3);
		await destroyFirst(context, count);
		expect(await segments(context)).toBe(left);
		expect(await rowsWith(context, 'qxzvparts')).toBe(120 - count);
		for (const [term, docs] of [
			['word0', 0],
			[`word${count - 1}`, 0],
			[`word${count}`, 1]
		] as const)
			expect(await rowsWith(context, term), term).toBe(docs);
	});

	it('destroys nothing of a batch of which a message cannot be read again', async () => {
		const context = await inSegments();
		const unreadable = Buffer.from('no header of mail\n');
		const [id] = await putContents(context.db, [pack(unreadable)]);
		await change(context.db, sql`UPDATE message SET content_id = ${id as number} WHERE id = 2`);
		await expect(destroyFirst(context, 3)).rejects.toThrow('words of 1 message could not be removed');
		expect(await row(context.db, sql`SELECT count(*) AS n FROM item`)).toEqual({ n: 120 });
		expect(await rowsWith(context, 'qxzvparts')).toBe(120);
	});
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
		// it is announced the day before
		const night = { mailboxId: 1, mailbox: 'Office', messages: 1, asks: false, tomorrow: 0 };
		expect(await emptyDueBins(tomorrow(context, 29))).toEqual([{ ...night, messages: 0, tomorrow: 1 }]);
		expect(await emptyDueBins(later)).toEqual([{ ...night, docket: expect.any(Number) as number, asks: true }]);
		expect(await emptyDueBins(later)).toEqual([]);
		const drafted = await row<{ id: number }>(
			context.db,
			sql`SELECT id FROM docket WHERE name = ${NIGHTLY} AND state = 'drafted'`
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
		const came = await row<{ bytes: number }>(context.db, sql`SELECT sum(bytes) AS bytes FROM item`);
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

describe('emptying that was killed', () => {
	async function binnedOffice(): Promise<Context> {
		const context = await largeOffice({ Inbox: 1_200 });
		const binned = await decide(context, {
			mailboxId: 1,
			line: { decision: 'delete', options: {}, scope: { kind: 'items', ids: await itemsIn(context, 'Inbox') } }
		});
		await carryOut(context, { id: binned.id });
		return context;
	}
	const onDay = (context: Context, days: number): Context => ({
		...context,
		now: () => new Date(context.now().getTime() + days * 86_400_000)
	});
	async function cutOff(context: Context, id: number) {
		const crash = new AbortController();
		await carryOut(
			{ ...context, signal: crash.signal, report: ({ done }) => done > 0 && crash.abort() },
			{ id, confirm: 'Office', byItself: true }
		);
	}
	const destroying = (context: Context) =>
		rows(
			context.db,
			sql`SELECT docket.id, state, certificate.messages, certificate.sha256 IS NOT NULL AS closed
			FROM docket JOIN certificate ON docket_id = docket.id`
		);

	it('goes on under its number when it is asked for again, with one certificate that has its end', async () => {
		const context = await binnedOffice();
		const first = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await cutOff(context, first.id);
		await expect(prepareEmptying(context, { mailboxId: 1, onlyDue: true })).rejects.toThrow('emptied the whole bin');
		const again = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		expect(again).toMatchObject({ id: first.id, state: 'carrying-out' });
		expect(await carryOut(context, { id: again.id })).toMatchObject({ messages: 1_200, finished: true });
		expect(await destroying(context)).toEqual([{ id: first.id, state: 'carried-out', messages: 1_200, closed: 1 }]);
	});

	it('goes on the next night, before anything else is drafted', async () => {
		const context = await binnedOffice();
		await setClearing(context, { mailbox: 'Office', emptiesBin: true });
		const night = (days: number): Context => actingAs(onDay(context, days), KOVREL);
		await emptyDueBins(night(31));
		const drafted = await row<{ id: number }>(context.db, sql`SELECT id FROM docket WHERE by_itself = ${NIGHTLY}`);
		// a person carries it out once; the next one is interrupted at night
		await carryOut(onDay(context, 31), { id: drafted?.id as number, confirm: 'Office' });
		expect((await destroying(context)).length).toBe(1);
		await importMailbox(context, {
			path: mboxFile(Array.from({ length: 600 }, (_, n) => letter(`More ${n}`, DATE))),
			mailbox: 'Office',
			folder: 'Trash'
		});
		const nightly = await prepareDocket(night(62), {
			mailboxId: 1,
			name: NIGHTLY,
			byItself: true,
			lines: [{ decision: 'destroy', options: {}, scope: { kind: 'bin', binnedBy: undefined } }]
		});
		await cutOff(night(62), nightly.id);
		await emptyDueBins(night(63));
		expect((await destroying(context)).map((one) => (one as { state: string }).state)).toEqual([
			'carried-out',
			'carried-out'
		]);
		expect(await statesOf(context)).toEqual({});
	});
});

describe('a certificate of what was in the bin', () => {
	const lines = async (context: Context, docketId: number) => {
		const parts: Uint8Array[] = [];
		for await (const part of exportCertificate(context, { docketId, format: 'csv' })) parts.push(part);
		return Buffer.concat(parts).toString();
	};
	async function emptied(context: Context, ids: number[]) {
		const binned = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'delete', options: {}, scope: { kind: 'items', ids } }]
		});
		await carryOut(context, { id: binned.id });
		const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await carryOut(context, { id, confirm: 'Office' });
		return id;
	}

	it('says when it was deleted and when it was destroyed, and stays genuine', async () => {
		const context = await largeOffice({ Inbox: 300 });
		const id = await emptied(context, await itemsIn(context, 'Inbox'));
		const certificate = await readCertificate(context, { docketId: id, limit: 5 });
		expect(certificate).toMatchObject({ messages: 300, isGenuine: true });
		expect(certificate.items[0]).toMatchObject({
			binnedOn: '2026-11-25',
			because: 'deleted on 25 Nov 2026, destroyed from the bin on 25 Nov 2026'
		});
		expect(certificate.grounds).toEqual([
			{ messages: 300, words: 'No series; deleted on 25 Nov 2026, destroyed from the bin on 25 Nov 2026' }
		]);
		expect(await lines(context, id)).not.toContain('had its days');
		// an earlier certificate, without the day of deletion, stays valid and says no more than it knows
		const sealed = certificateLineText({ ...(certificate.items[0] as CertificateLine), binnedOn: null });
		expect(sealed).toContain('"deleted, and had its days in the bin"');
	});

	it('is read as so many rows by Python, whatever line breaks a subject has', async () => {
		const context = await openOffice();
		await setPolicy(context, { certificateKeeps: 'subject' });
		const names = ['a\nb', 'a\rb', 'a\r\nb', '"quoted"', 'a,b', ' a '];
		const subjects = Array.from({ length: 300 }, (_, n) => `${names[n % names.length]} ${n}`);
		await importMailbox(context, {
			path: mboxFile(
				subjects.map((subject, n) =>
					letter(`S${n}`, DATE).replace(
						`Subject: S${n}`,
						`Subject: =?utf-8?B?${Buffer.from(subject).toString('base64')}?=`
					)
				)
			),
			mailbox: 'Office'
		});
		await change(
			context.db,
			sql`UPDATE message SET subject = value FROM json_each(${JSON.stringify(subjects)}) WHERE message.id = key + 1`
		);
		const id = await emptied(context, await itemsIn(context, 'Inbox'));
		// Python's csv module, as an outside reader of RFC 4180
		const read = execFileSync(
			'python3',
			[
				'-c',
				'import csv, io, json, sys; print(json.dumps(list(csv.reader(io.StringIO(sys.stdin.buffer.read().decode(), newline="")))))'
			],
			{
				input: await lines(context, id)
			}
		).toString();
		const [header, ...table] = JSON.parse(read) as string[][];
		const at = (header as string[]).indexOf('subject');
		expect(table.map((row) => row[at])).toEqual(subjects);
	});
});
