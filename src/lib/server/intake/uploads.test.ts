import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, utimesSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { statesOf } from '../testing/large-office.ts';
import { letter, openOffice, temporaryFolder } from '../testing/office.ts';
import { importMailbox } from './import-mailbox.ts';
import { clearUploads } from './imports.ts';
import { beginJob } from '../process/jobs.ts';
import { arrivedBytes, beginUpload, finishUpload, removeUploads, requireAsSent, takePiece } from './uploads.ts';
import { useCase } from '../process/use-cases.ts';

/* The hash that a browser sends for a small file: of one block. */
const hashOf = (text: string) => {
	const block = createHash('sha256').update(text, 'latin1').digest();
	return createHash('sha256')
		.update(text === '' ? '' : block)
		.digest('hex');
};
const body = (text: string) => new Blob([text]).stream() as ReadableStream<Uint8Array>;
const plan = (files: { path: string; bytes: number }[]) => ({ mailbox: 'Office', folder: '', source: 'mail', files });

describe('uploads', () => {
	it('come in pieces and go on where they were cut off', async () => {
		const data = temporaryFolder();
		const id = await beginUpload(data, plan([{ path: 'mail.mbox', bytes: 11 }]));
		expect(await takePiece(data, id, 0, 0, body('hello '))).toBe(6);
		await expect(takePiece(data, id, 0, 3, body('again'))).rejects.toThrow('next byte of this file is 6');
		await expect(finishUpload(data, id, [hashOf('hello world')])).rejects.toThrow('5 bytes are missing');
		expect(await arrivedBytes(data, id, 0)).toBe(6);
		expect(await takePiece(data, id, 0, 6, body('world'))).toBe(11);
		const { path: file, folder } = await finishUpload(data, id, [hashOf('hello world')]);
		await requireAsSent(folder);
		expect(readFileSync(file, 'utf8')).toBe('hello world');
	});

	it('of a Maildir keep its folders, its flags, and when its mail came', async () => {
		const context = await openOffice();
		const text = letter('Ramp', 'Mon, 3 Feb 2020 10:00:00 +0000').replace(/^Received:.*\n( .*\n)*/gm, '');
		const came = Date.UTC(2020, 1, 4, 8);
		const maildir = ['cur/1.M1P1.host:2,FS', '.Projects.Slipway/new/2.M1P1.host', 'dovecot-uidlist', 'beside.eml'];
		const paths = maildir.map((name) => `Mail/${name}`);
		const files = paths.map((name, n) => ({
			text: n === 2 ? '3 V1' : text.replace('Ramp', `Ramp ${n}`),
			...{ path: name, modified: came }
		}));
		const id = await beginUpload(context.dataFolder, plan(files.map((one) => ({ ...one, bytes: one.text.length }))));
		for (const [n, one] of files.entries()) await takePiece(context.dataFolder, id, n, 0, body(one.text));
		const finished = await finishUpload(
			context.dataFolder,
			id,
			files.map((one) => hashOf(one.text))
		);
		await requireAsSent(finished.folder);
		await importMailbox(context, { path: finished.path, mailbox: 'Office' });
		expect(
			await rows(
				context.db,
				sql`SELECT path, subject, seen, flagged, item.received_at AS at FROM item JOIN folder ON folder.id = folder_id
				 JOIN message ON message.id = item.message_id WHERE subject LIKE 'Ramp%' ORDER BY subject`
			)
		).toEqual([
			{ path: 'Inbox', subject: 'Ramp 0', seen: 1, flagged: 1, at: came / 1000 },
			{ path: 'Projects/Slipway', subject: 'Ramp 1', seen: 0, flagged: 0, at: came / 1000 },
			{ path: 'Inbox', subject: 'Ramp 3', seen: null, flagged: 0, at: Date.UTC(2020, 1, 3, 10) / 1000 }
		]);
	});

	/* A body that arrives slowly, in parts, and reports its start. */
	function slowBody(parts: readonly string[]): { stream: ReadableStream<Uint8Array>; begun: Promise<void> } {
		let begin = () => {};
		const begun = new Promise<void>((resolve) => (begin = resolve));
		let at = 0;
		const stream = new ReadableStream<Uint8Array>({
			async pull(controller) {
				const part = parts[at++];
				if (part === undefined) controller.close();
				else controller.enqueue(Buffer.from(part));
				begin();
				await new Promise((resolve) => setTimeout(resolve, 1));
			}
		});
		return { stream, begun };
	}

	it('have one writer: of two pieces at one offset, one is taken whole and the other not at all', async () => {
		const data = temporaryFolder();
		// 590 messages in ten parts, as two tabs would send the same file
		const message = (n: number) => `From a@b.example Thu Jan  1 00:00:00 1970\nSubject: No ${n}\n\nWords\n\n`;
		const parts = Array.from({ length: 10 }, (_, part) =>
			Array.from({ length: 59 }, (_unused, n) => message(part * 59 + n)).join('')
		);
		const whole = parts.join('');
		const id = await beginUpload(data, plan([{ path: 'mail.mbox', bytes: whole.length }]));
		const [first, second] = [slowBody(parts), slowBody(parts)];
		const taken = takePiece(data, id, 0, 0, first.stream);
		await first.begun;
		const done = await Promise.allSettled([taken, takePiece(data, id, 0, 0, second.stream)]);
		// the second takes over, unless the first was complete by then
		expect(done.map(({ status }) => status).toSorted()).toEqual(['fulfilled', 'rejected']);
		const { path: file, folder } = await finishUpload(data, id, [hashOf(whole)]);
		expect(readFileSync(file, 'utf8')).toBe(whole);
		await requireAsSent(folder);
	});

	it('whose connection breaks keep what had arrived before the piece', async () => {
		const data = temporaryFolder();
		const id = await beginUpload(data, plan([{ path: 'mail.mbox', bytes: 12 }]));
		await takePiece(data, id, 0, 0, body('hello '));
		const broken = new ReadableStream<Uint8Array>({
			start: (controller) => controller.enqueue(Buffer.from('wo')),
			pull: (controller) => controller.error(new Error('the connection broke'))
		});
		await expect(takePiece(data, id, 0, 6, broken)).rejects.toThrow('connection broke');
		expect(await arrivedBytes(data, id, 0)).toBe(6);
	});

	it('that are not what was sent are not imported', async () => {
		const context = await openOffice();
		const mail = letter('Sent', 'Mon, 02 Mar 2020 10:00:00 +0000');
		const { dataFolder } = context;
		const id = await beginUpload(dataFolder, plan([{ path: 'a.eml', bytes: mail.length }]));
		await takePiece(dataFolder, id, 0, 0, body(mail.replace('Words', 'Wards')));
		await expect(finishUpload(dataFolder, id, [])).rejects.toThrow('hashes of the files did not come along');
		const { path: file, folder } = await finishUpload(dataFolder, id, [hashOf(mail)]);
		await expect(importMailbox(context, { path: file, mailbox: 'Office', upload: folder })).rejects.toThrow(
			'a.eml did not arrive as it was sent. Nothing of it was imported'
		);
		expect(await statesOf(context)).toEqual({});
	});

	it('keep their folders, and stay in their own', async () => {
		const data = temporaryFolder();
		const files = ['Crew/a.eml', 'Crew/A.eml', '../../outside', '/etc/passwd', 'C:\\x', '..', 'con'].map((name) => ({
			path: name,
			bytes: 1
		}));
		const id = await beginUpload(data, plan(files));
		for (const index of files.keys()) await takePiece(data, id, index, 0, body('x'));
		const { path: folder } = await finishUpload(
			data,
			id,
			files.map(() => hashOf('x'))
		);
		const found = readdirSync(folder, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile());
		expect(found.length).toBe(files.length);
		expect(existsSync(path.join(data, 'outside'))).toBe(false);
		expect(existsSync(path.join(folder, 'Crew', 'a.eml'))).toBe(true);
	});

	it.each(['../../etc', 'x', '00000000-0000-0000-0000-000000000000', ''])('know no upload %j', async (id) => {
		await expect(takePiece(temporaryFolder(), id, 0, 0, body('x'))).rejects.toThrow('no such upload');
	});

	it('take no more than was said', async () => {
		const data = temporaryFolder();
		const id = await beginUpload(data, plan([{ path: 'a', bytes: 2 }]));
		await expect(takePiece(data, id, 0, 0, body('xxx'))).rejects.toThrow('More bytes came');
		await expect(takePiece(data, id, 5, 0, body('x'))).rejects.toThrow('no such file');
	});

	it('that nobody goes on with are removed; what is being imported stays, and what is still written to', async () => {
		const data = temporaryFolder();
		const day = (n: number) => new Date(Date.UTC(2026, 10, n));
		expect(await removeUploads(data, day(18), new Set())).toBe(0);
		const folders: Record<string, string> = {};
		for (const [name, began, arrived] of [
			['left', 10, 17],
			['begun', 10, undefined],
			['written to', 10, 18],
			['being imported', 10, 11]
		] as const) {
			const id = await beginUpload(data, plan([{ path: 'Crew/mail.mbox', bytes: 9 }]));
			const folder = path.join(data, 'uploads', id);
			folders[name] = folder;
			utimesSync(path.join(folder, 'manifest.json'), day(began), day(began));
			if (arrived === undefined) continue;
			await takePiece(data, id, 0, 0, body('words'));
			utimesSync(path.join(folder, 'files', 'Crew', 'mail.mbox'), day(arrived), day(arrived));
		}
		expect(await removeUploads(data, day(18), new Set([folders['being imported'] as string]))).toBe(2);
		expect(Object.keys(folders).filter((name) => existsSync(folders[name] as string))).toEqual([
			'written to',
			'being imported'
		]);
	});

	it('have a week; that of an import that was cut off stays', async () => {
		const context = await openOffice();
		const begin = async () =>
			path.join(context.dataFolder, 'uploads', await beginUpload(context.dataFolder, plan([{ path: 'a', bytes: 2 }])));
		const [left, cutOff] = [await begin(), await begin()];
		const upload = { path: cutOff, mailbox: 'Office', upload: cutOff };
		await beginJob(context, useCase('importMailbox'), upload);
		await beginJob(context, useCase('runNight'), undefined);
		const now = Date.now();
		const after = (days: number) => ({ ...context, machineNow: () => new Date(now + days * 86_400_000) });
		expect(await clearUploads(after(6))).toBe(0);
		expect(await clearUploads(after(8))).toBe(1);
		expect([left, cutOff].map((folder) => existsSync(folder))).toEqual([false, true]);
	});
});
