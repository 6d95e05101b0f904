import { expect, it } from 'vitest';
import { KOVREL } from '../../../core/access/roles.ts';
import { Refusal } from '../refusal.ts';
import { LookNotes } from './look-notes.ts';

const AT = new Date('2026-03-02T10:00:00Z');

it('shows mail while nothing can be written, and notes who saw it once that is possible', async () => {
	const made: string[] = [];
	let isFull = false;
	const notes = new LookNotes(async ({ ids, at }) => {
		if (isFull) throw new Refusal('no-writing', 'full');
		made.push(`${ids.join()} ${at ?? 'now'}`);
	});
	const see = (id: number) => notes.record({ ids: [id], what: 'read' }, KOVREL, AT);
	await see(1);
	isFull = true;
	await see(2);
	await see(3);
	expect(made).toEqual(['1 now']);
	isFull = false;
	await see(4);
	expect(made).toEqual(['1 now', '4 now', '2 2026-03-02T10:00:00.000Z', '3 2026-03-02T10:00:00.000Z']);
	await see(5);
	expect(made.at(-1)).toBe('5 now');
});

it('shows nothing that cannot be noted for another reason', async () => {
	const notes = new LookNotes(() => Promise.reject(new Refusal('damaged', 'broken')));
	await expect(notes.record({ ids: [1], what: 'read' }, KOVREL, AT)).rejects.toThrow('broken');
	await expect(notes.record({ ids: [], what: 'found words in' }, KOVREL, AT)).resolves.toBeUndefined();
});
