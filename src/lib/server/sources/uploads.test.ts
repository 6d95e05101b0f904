import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { temporaryFolder } from '../testing/office.ts';
import { arrivedBytes, beginUpload, finishUpload, takePiece } from './uploads.ts';

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
});
