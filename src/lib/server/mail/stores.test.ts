import { randomBytes } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { scanStructure } from '../../../core/message/structure.ts';
import { inTransaction } from '../database/open.ts';
import { openOffice } from '../testing/office.ts';
import { verify } from '../backup/verify-archive.ts';
import {
	DamagedContentError,
	pack,
	putContents,
	readContent,
	type ReadContent,
	readContents,
	unpack
} from './contents-store.ts';
import { ensureFolder, findFolder, folderWithBelow, listFolders } from './folders-store.ts';
import { appendLedger, checkLedger } from '../ledger/ledger-store.ts';
import { addMailbox } from './mailboxes-store.ts';
import { putCorrespondents } from './messages-store.ts';
import { change, insertRows, row } from '../database/rows.ts';
import { raw, sql } from '../database/sql.ts';

const at = new Date('2026-11-25T12:00:00Z');

describe('contents', () => {
	it.each([
		['nothing', new Uint8Array()],
		['text', Buffer.from('words and words and words and words\r\n'.repeat(50))],
		[
			'noise, which compression would only make larger',
			Uint8Array.from({ length: 300 }, (_, n) => (n * 7919 * (n + 3)) & 255)
		]
	])('come out as they went in: %s', async (_name, bytes) => {
		const { db } = await openOffice();
		const [id, again] = await putContents(db, [pack(bytes), pack(bytes)]);
		expect(again).toBe(id);
		expect(new Uint8Array((await readContent(db, id as number)) ?? [])).toEqual(new Uint8Array(bytes));
		expect(await row(db, sql`SELECT count(*) AS n FROM content`)).toEqual({ n: 1 });
	});

	it.each([
		['a byte', (data: Buffer) => Buffer.from(data.map((byte, n) => (n === 12 ? byte ^ 0x55 : byte)))],
		['the end', (data: Buffer) => data.subarray(0, data.length - 2)],
		['another codec', (data: Buffer) => Buffer.concat([data, Buffer.from('x')])]
	])('are known to be damaged: %s', async (name, damage) => {
		const { db } = await openOffice();
		const { sha256, rawBytes, data } = pack(Buffer.from('words and words and words'.repeat(20)));
		const stored = {
			id: 1,
			sha256: Buffer.from(sha256),
			raw_bytes: rawBytes,
			codec: name === 'another codec' ? ('identity' as const) : ('brotli' as const),
			data: damage(Buffer.from(data))
		};
		await expect(unpack(db, stored)).rejects.toThrow(DamagedContentError);
	});

	it('share a large attachment over all messages, however each wraps it, and come out exactly', async () => {
		const { db } = await openOffice();
		const file = randomBytes(40_000);
		const message = (subject: string, encoded: string, ending = '') =>
			Buffer.from(
				`Subject: ${subject}\nContent-Type: multipart/mixed; boundary=b\n\n--b\n\ntext\n--b\nContent-Type: image/png\nContent-Transfer-Encoding: base64\n\n${encoded}\n--b--\n${ending}`
			);
		const lines = (length: number, lineBreak: string) =>
			file.toString('base64').replace(new RegExp(`.{${length}}(?=.)`, 'g'), `$&${lineBreak}`);
		const messages = [
			message('one', lines(76, '\n')),
			message('two', lines(72, '\n'), 'and an epilogue'),
			message('three', lines(76, '\r\n')),
			message('one line', file.toString('base64')),
			message('lines of two lengths', lines(76, '\n').replace('\n', '')),
			message('something between', `${lines(76, '\n').slice(0, 300)}!${lines(76, '\n').slice(301)}`)
		];
		const ids = await putContents(
			db,
			messages.map((bytes) => pack(bytes, scanStructure(bytes)))
		);
		for (const [at, id] of ids.entries()) expect(await readContent(db, id)).toEqual(messages[at]);
		// four share the file; two cannot be put back exactly and are stored whole
		expect(await row(db, sql`SELECT count(*) AS n, count(DISTINCT part_id) AS parts FROM content_part`)).toEqual({
			n: 4,
			parts: 1
		});
		const stored = await row<{ bytes: number }>(db, sql`SELECT sum(stored_bytes) AS bytes FROM content`);
		expect(stored?.bytes).toBeLessThan(3.5 * file.length);
	});

	it('are read many at a time in the order given, each verified, and damage stays with the one that has it', async () => {
		const { db } = await openOffice();
		const texts = [
			...Array.from({ length: 120 }, (_, n) => Buffer.from(`text ${n} `.repeat(40))),
			randomBytes(9_000_000)
		];
		const ids = await putContents(
			db,
			texts.map((bytes) => pack(bytes))
		);
		const [damaged, absent] = [ids[7] as number, 100_000];
		await change(db, sql`UPDATE content SET data = x'0b0280' WHERE id = ${damaged}`);
		const asked = [...ids].reverse().concat(absent);
		const found: ReadContent[] = [];
		const together: number[] = [];
		for await (const some of readContents(db, asked)) {
			found.push(...some);
			together.push(some.length);
		}
		expect(found.map(({ id }) => id)).toEqual(asked);
		expect(together).toEqual([1, 50, 50, 21]);
		for (const { id, bytes, damage } of found) {
			const whole = id === damaged || id === absent ? undefined : texts[ids.indexOf(id)];
			expect(bytes?.equals(whole ?? Buffer.alloc(0)) ?? false, `content ${id}`).toBe(whole !== undefined);
			expect(damage instanceof DamagedContentError).toBe(id === damaged);
		}
	});

	it('that were changed on the disk are found by verify', async () => {
		const context = await openOffice();
		const [id] = await putContents(context.db, [
			pack(Buffer.from('words'.repeat(100))),
			pack(Buffer.from('other'.repeat(100)))
		]);
		await change(context.db, sql`UPDATE content SET data = x'0b0280' WHERE id = ${id ?? 0}`);
		expect(await verify(context)).toMatchObject({
			ok: false,
			messages: 2,
			damaged: [{ what: 'content', id }],
			ledger: { ok: true }
		});
	});
});

describe('the ledger', () => {
	const by = { personId: null, name: 'tester' };
	const fill = async () => {
		const { db } = await openOffice();
		for (let n = 1; n <= 5; n++)
			await appendLedger(db, {
				at,
				by,
				action: 'quota-set',
				details: { n, umlaut: 'ü', nested: { b: 1, a: [2, null] } }
			});
		return db;
	};

	it('is a chain that holds', async () => {
		expect(await checkLedger(await fill())).toMatchObject({ lines: 6, ok: true, brokenAt: undefined });
	});

	it('cannot be changed or shortened by a slip', async () => {
		const db = await fill();
		await expect(change(db, sql`UPDATE ledger SET who = 'x' WHERE number = 3`)).rejects.toThrow('not changed');
		await expect(change(db, sql`DELETE FROM ledger WHERE number = 5`)).rejects.toThrow('not shortened');
	});

	it.each([
		['who acted', `UPDATE ledger SET who = 'somebody else' WHERE number = 3`, 3],
		['a particular', `UPDATE ledger SET details = replace(details, '"n":2', '"n":4') WHERE number = 3`, 3],
		['broken particulars', `UPDATE ledger SET details = '{' WHERE number = 3`, 3],
		['a seal', `UPDATE ledger SET hash = '${'0'.repeat(64)}' WHERE number = 3`, 3],
		['a line taken out', `DELETE FROM ledger WHERE number = 3`, 4],
		['two lines exchanged', `UPDATE ledger SET number = CASE number WHEN 3 THEN -4 WHEN 4 THEN -3 ELSE number END`, -4]
	])('shows that it was tampered with: %s', async (_name, tampering, brokenAt) => {
		const db = await fill();
		await change(db, sql`DROP TRIGGER ledger_is_not_changed`);
		await change(db, sql`DROP TRIGGER ledger_is_not_shortened`);
		await change(db, raw(tampering));
		const check = await checkLedger(db);
		expect(check.ok).toBe(false);
		if (brokenAt > 0) expect(check.brokenAt).toBe(brokenAt);
	});

	it('has no line where the transaction failed', async () => {
		const db = await fill();
		await expect(
			inTransaction(db, async (trx) => {
				await appendLedger(trx, { at, by, action: 'imported', details: {} });
				throw new Error('power cut');
			})
		).rejects.toThrow('power cut');
		expect(await checkLedger(db)).toMatchObject({ lines: 6, ok: true });
	});
});

describe('folders', () => {
	it('are found whatever the case or accents, and never made a second time', async () => {
		const { db } = await openOffice();
		const mailbox = await addMailbox(db, 'Office', at.toISOString());
		const made = await ensureFolder(db, mailbox, 'mailbox', 'Réclamations / 2024');
		expect(await ensureFolder(db, mailbox, 'mailbox', 'RECLAMATIONS/2024')).toMatchObject({
			id: made.id,
			path: 'Réclamations/2024'
		});
		expect((await findFolder(db, mailbox, 'mailbox', '/reclamations//2024/'))?.id).toBe(made.id);
		expect(await findFolder(db, mailbox, 'archive', 'Réclamations')).toBeUndefined();
		expect((await ensureFolder(db, mailbox, 'archive', 'Réclamations/2024')).id).not.toBe(made.id);
		expect(await folderWithBelow(db, made.parentId as number)).toEqual([made.parentId, made.id]);
		expect((await listFolders(db, mailbox, 'mailbox')).length).toBe(2);
		await expect(ensureFolder(db, mailbox, 'mailbox', ' / ')).rejects.toThrow('needs a name');
	});
});

describe('correspondents', () => {
	it('stand under the registrable domain (Public Suffix List)', async () => {
		const { db } = await openOffice();
		const people = ['a@x.co.uk', 'b@mail.x.co.uk', 'c@x.github.io', 'd@intranet', 'e@[192.0.2.1]', 'nobody', ''].map(
			(address) => ({ name: '', address })
		);
		await putCorrespondents(db, people);
		await putCorrespondents(db, [{ name: 'Ada', address: 'a@x.co.uk' }]);
		await putCorrespondents(db, [{ name: 'Other', address: 'a@x.co.uk' }]);
		const domain = (address: string) =>
			row(
				db,
				sql`SELECT domain, name FROM correspondent JOIN organisation ON organisation.id = organisation_id WHERE address = ${address}`
			);
		expect(await domain('a@x.co.uk')).toEqual({ domain: 'x.co.uk', name: 'Ada' });
		expect(await domain('b@mail.x.co.uk')).toEqual({ domain: 'x.co.uk', name: '' });
		expect(await domain('d@intranet')).toEqual({ domain: 'intranet', name: '' });
		expect(await domain('nobody')).toEqual({ domain: '', name: '' });
	});
});

describe('rows', () => {
	it('are inserted whatever their number, and tell which were there already', async () => {
		const { db } = await openOffice();
		const insertDomains = (domains: readonly string[]) =>
			insertRows(
				db,
				`INSERT INTO organisation (domain)`,
				domains.map((domain) => [domain]),
				`ON CONFLICT DO NOTHING`
			);
		const domains = Array.from({ length: 20_000 }, (_, n) => `place${n}.example`);
		const ids = await insertDomains(domains);
		expect(await row(db, sql`SELECT domain FROM organisation WHERE id = ${ids[17_000] ?? 0}`)).toEqual({
			domain: 'place17000.example'
		});
		expect(new Set(ids).size).toBe(20_000);
		const again = await insertDomains(['place7.example', 'new.example', 'place8.example', 'new.example']);
		expect(again).toEqual([undefined, expect.any(Number), undefined, undefined]);
		expect(await insertDomains([])).toEqual([]);
	});

	it('that cannot be stored are not told in the error: it is logged, and they are mail', async () => {
		const { db } = await openOffice();
		const failing = insertRows(db, `INSERT INTO setting (key, value)`, [
			['Dear Tove', 'secret'],
			['Dear Tove', 'secret']
		]);
		await expect(failing).rejects.toThrow('UNIQUE constraint failed');
		await expect(failing).rejects.not.toThrow(/Tove|secret/);
	});
});
