import { describe, expect, it } from 'vitest';
import type { Lot } from '../core/lots/lots.ts';
import { LotsSelection } from './lots-selection.svelte.ts';

const lot = (key: string, messages: number, bytes: number) =>
	({ key, label: `lot ${key}`, messages, bytes }) as unknown as Lot;
const A = lot('a', 10, 1_000);
const B = lot('b', 5, 500);
const C = lot('c', 1, 50);
const TOTAL = { lots: 40, messages: 400, bytes: 90_000 };

const selectionAfter = (...acts: ((selection: LotsSelection) => void)[]) => {
	const selection = new LotsSelection(() => TOTAL);
	for (const act of acts) act(selection);
	return selection;
};
const toggle = (one: Lot) => (selection: LotsSelection) => selection.toggle(one);
const all = (selection: LotsSelection) => selection.toggleAll();

describe('what is selected on a sheet of lots', () => {
	it.each([
		['nothing', [], { lots: 0, messages: 0, bytes: 0 }, { keys: [] }],
		['lots', [toggle(A), toggle(B)], { lots: 2, messages: 15, bytes: 1_500 }, { keys: ['a', 'b'] }],
		['a lot, twice', [toggle(A), toggle(A)], { lots: 0, messages: 0, bytes: 0 }, { keys: [] }],
		['all', [toggle(A), all], TOTAL, { withoutKeys: [], labels: [] }],
		['all but one', [all, toggle(A)], { lots: 39, messages: 390, bytes: 89_000 }, { withoutKeys: ['a'] }],
		['all, twice', [all, all], { lots: 0, messages: 0, bytes: 0 }, { keys: [], withoutKeys: [] }]
	])('%s', (_name, acts, sums, wish) => {
		const selection = selectionAfter(...acts);
		expect(selection.sums).toEqual(sums);
		expect(selection.wish).toMatchObject(wish);
		selection.clear();
		expect(selection.sums).toEqual({ lots: 0, messages: 0, bytes: 0 });
	});

	it('asks for all without naming a single lot, and names few lots in words', () => {
		expect(selectionAfter(all).wish).not.toHaveProperty('keys');
		expect(selectionAfter(toggle(A), toggle(B)).wish.labels).toEqual(['lot a', 'lot b']);
		expect(selectionAfter(...[1, 2, 3, 4].map((n) => toggle(lot(`${n}`, 1, 1)))).wish.labels).toEqual([]);
	});

	it.each([
		['lots', [toggle(A), toggle(B)]],
		['all but a lot', [all, toggle(A)]]
	])('gives what was selected away with the decision, and takes it back where that is refused: %s', (_name, acts) => {
		const selection = selectionAfter(...acts);
		const { wish } = selection;
		const selectAgain = selection.take();
		expect(selection.sums).toEqual({ lots: 0, messages: 0, bytes: 0 });
		selectAgain();
		expect(selection.wish).toEqual(wish);
		// a later selection is not mixed with the refused one
		const late = selection.take();
		selection.toggle(B);
		late();
		expect(selection.wish.keys).toEqual(['b']);
	});

	it('knows of each lot whether it is in', () => {
		const selection = selectionAfter(all, toggle(B));
		expect([A, B, C].map((one) => selection.has(one))).toEqual([true, false, true]);
	});
});
