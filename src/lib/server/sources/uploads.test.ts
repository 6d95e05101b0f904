import { existsSync, readdirSync, readFileSync, utimesSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { openOffice, temporaryFolder } from '../testing/office.ts';
import { clearUploads } from '../work/imports.ts';
import { beginJob } from '../work/jobs.ts';
import { arrivedBytes, beginUpload, finishUpload, removeUploads, takePiece } from './uploads.ts';

const body = (text: string) => new Blob([text]).stream() as ReadableStream<Uint8Array>;
const plan = (files: { path: string; bytes: number }[]) => ({ mailbox: 'Office', folder: '', source: 'mail', files });

describe('uploads', () => {
	it('come in pieces and go on where they were cut off', async () => {
		const data = temporaryFolder();
		const id = await beginUpload(data, plan([{ path: 'mail.mbox', bytes: 11 }]));
		expect(await takePiece(data, id, 0, 0, body('hello '))).toBe(6);
		await expect(takePiece(data, id, 0, 3, body('again'))).rejects.toThrow('next byte of this file is 6');
		await expect(finishUpload(data, id)).rejects.toThrow('5 bytes are missing');
		expect(await arrivedBytes(data, id, 0)).toBe(6);
		expect(await takePiece(data, id, 0, 6, body('world'))).toBe(11);
		const { path: file } = await finishUpload(data, id);
		expect(readFileSync(file, 'utf8')).toBe('hello world');
	});

	it('keep their folders, and stay in their own', async () => {
		const data = temporaryFolder();
		const files = ['Crew/a.eml', 'Crew/A.eml', '../../outside', '/etc/passwd', 'C:\\x', '..', 'con'].map((name) => ({
			path: name,
			bytes: 1
		}));
		const id = await beginUpload(data, plan(files));
		for (const index of files.keys()) await takePiece(data, id, index, 0, body('x'));
		const { path: folder } = await finishUpload(data, id);
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

	it('that nobody goes on with are removed; what is being brought in stays, and what is still written to', async () => {
		const data = temporaryFolder();
		const day = (n: number) => new Date(Date.UTC(2026, 10, n));
		expect(await removeUploads(data, day(18), new Set())).toBe(0);
		const folders: Record<string, string> = {};
		for (const [name, began, arrived] of [
			['left', 10, 17],
			['begun', 10, undefined],
			['written to', 10, 18],
			['being brought in', 10, 11]
		] as const) {
			const id = await beginUpload(data, plan([{ path: 'Crew/mail.mbox', bytes: 9 }]));
			const folder = path.join(data, 'uploads', id);
			folders[name] = folder;
			utimesSync(path.join(folder, 'manifest.json'), day(began), day(began));
			if (arrived === undefined) continue;
			await takePiece(data, id, 0, 0, body('words'));
			utimesSync(path.join(folder, 'files', 'Crew', 'mail.mbox'), day(arrived), day(arrived));
		}
		expect(await removeUploads(data, day(18), new Set([folders['being brought in'] as string]))).toBe(2);
		expect(Object.keys(folders).filter((name) => existsSync(folders[name] as string))).toEqual([
			'written to',
			'being brought in'
		]);
	});

	it('have a week; that of an import that was cut off stays', async () => {
		const context = await openOffice();
		const begin = async () =>
			path.join(context.dataFolder, 'uploads', await beginUpload(context.dataFolder, plan([{ path: 'a', bytes: 2 }])));
		const [left, cutOff] = [await begin(), await begin()];
		await beginJob(context, { useCase: 'importMailbox', input: { mailbox: 'Office', upload: cutOff }, label: 'x' });
		await beginJob(context, { useCase: 'runNight', input: undefined, label: 'y' });
		const now = Date.now();
		const after = (days: number) => ({ ...context, machineNow: () => new Date(now + days * 86_400_000) });
		expect(await clearUploads(after(6))).toBe(0);
		expect(await clearUploads(after(8))).toBe(1);
		expect([left, cutOff].map((folder) => existsSync(folder))).toEqual([false, true]);
	});
});
