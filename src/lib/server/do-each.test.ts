import { expect, it } from 'vitest';
import { Refusal } from './refusal.ts';
import { doEach } from './do-each.ts';

const refuse = (message: string) => () => Promise.reject(new Refusal('not-found', message));
const running = { signal: new AbortController().signal };

it('does all, and names what failed, also within one of them', async () => {
	const done: string[] = [];
	const note = (name: string) => ({ name, work: async () => void done.push(name) });
	const inner = [note('Office'), { name: 'Desk', work: refuse('It has no folder "X".') }, note('Pier')];
	await expect(
		doEach(running, [
			{ name: 'Digests', work: refuse('The mail is damaged.') },
			{ name: 'Rules', work: () => doEach(running, inner) },
			note('Backup')
		])
	).rejects.toThrow('Digests: The mail is damaged. Rules: Desk: It has no folder "X". The rest was done.');
	expect(done).toEqual(['Office', 'Pier', 'Backup']);
});

it('of a single one, throws its own error', async () => {
	const error = new Refusal('changed', 'It was changed since.');
	await expect(doEach(running, [{ name: 'Office', work: () => Promise.reject(error) }])).rejects.toBe(error);
});

it('begins nothing after a stop', async () => {
	const stop = new AbortController();
	const done: string[] = [];
	await doEach(stop, [
		{ name: 'first', work: async () => stop.abort() },
		{ name: 'second', work: async () => void done.push('second') }
	]);
	expect(done).toEqual([]);
});

it.each(['SQLITE_CORRUPT', 'SQLITE_FULL', 'EIO'])(
	'after %s, begins nothing and says what the machine says',
	async (code) => {
		const done: string[] = [];
		const error = Object.assign(new Error('the machine fails'), { code });
		await expect(
			doEach(running, [
				{ name: 'Office', work: () => doEach(running, [{ name: 'first', work: () => Promise.reject(error) }]) },
				{ name: 'Pier', work: async () => void done.push('Pier') }
			])
		).rejects.toBe(error);
		expect(done).toEqual([]);
	}
);
