import { describe, expect, it } from 'vitest';
import { KOVREL } from '../../../core/access/roles.ts';
import type { InputOf } from './use-cases.ts';
import { OfficeThread } from './thread.ts';

/* A thread that answers everything, dies when asked for the policy, and returns streams of three pieces. */
const SCRIPT = new URL(
	`data:text/javascript,${encodeURIComponent(`
			import { parentPort } from 'node:worker_threads';
			let left = 3;
			const give = (id) => parentPort.postMessage(left-- > 0 ? { id, bytes: new Uint8Array([left]) } : { id, result: undefined });
			parentPort.on('message', (question) => {
				if ('close' in question || question.useCase === 'readPolicy') process.exit(1);
				if ('next' in question) give(question.next);
				else if (question.useCase === 'exportZip') give(question.id);
				else if ('id' in question) parentPort.postMessage({ id: question.id, result: question.useCase });
			});
		`)}`
);

const ENDED = 'The worker thread has ended';
const by = { actor: KOVREL };
const ask = (thread: OfficeThread, name: 'officeToday' | 'readPolicy') =>
	thread.call(name, undefined as InputOf<typeof name>, by) as Promise<unknown>;
const stream = (thread: OfficeThread) => thread.stream('exportZip', {} as InputOf<'exportZip'>, by);

describe('a worker thread', () => {
	it('that ends by itself tells those who wait, and is started again by the next question', async () => {
		const thread = new OfficeThread({ dataFolder: '', readonly: true }, SCRIPT);
		expect(await ask(thread, 'officeToday')).toBe('officeToday');
		for (let time = 0; time < 3; time++) {
			await expect(ask(thread, 'readPolicy')).rejects.toThrow(ENDED);
			expect(await ask(thread, 'officeToday')).toBe('officeToday');
		}
		await thread.close();
	});

	it('fails a stream that was being read when it ended, and gives the next one whole', async () => {
		const thread = new OfficeThread({ dataFolder: '', readonly: true }, SCRIPT);
		const reader = (await stream(thread)).getReader();
		expect((await reader.read()).done).toBe(false);
		await expect(ask(thread, 'readPolicy')).rejects.toThrow(ENDED);
		expect(await ask(thread, 'officeToday')).toBe('officeToday');
		await expect(reader.read()).rejects.toThrow(ENDED);
		const pieces: number[] = [];
		for await (const piece of (await stream(thread)) as unknown as AsyncIterable<Uint8Array>) pieces.push(...piece);
		expect(pieces).toEqual([2, 1, 0]);
		await thread.close();
	});

	it('that was closed answers nothing any more, and lets nobody wait', async () => {
		const thread = new OfficeThread({ dataFolder: '', readonly: true }, SCRIPT);
		await thread.close();
		await expect(ask(thread, 'officeToday')).rejects.toThrow(ENDED);
		await expect(stream(thread)).rejects.toThrow(ENDED);
		await thread.close();
	});
});
