import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { MessageSelection } from './message-selection.svelte.ts';

const message = (id: number) => ({
	id,
	bytes: id * 100,
	state: id % 2 === 0 ? ('live' as const) : ('archived' as const)
});
const PAGE = [1, 2, 3].map(message);
type Selection = MessageSelection<'live' | 'archived'>;
type Act = (selection: Selection) => void;

const after = (...acts: Act[]) => {
	const selection: Selection = new MessageSelection();
	for (const act of acts) act(selection);
	return { ids: selection.ids, isEverything: selection.isEverything, isEmpty: selection.isEmpty };
};
const toggle = (id: number) => (selection: Selection) => selection.toggle(message(id));
const page: Act = (selection) => selection.togglePage(PAGE);
const everything: Act = (selection) => selection.toggleEverything();
const clear: Act = (selection) => selection.clear();
const refused: Act = (selection) => selection.take()();
const taken: Act = (selection) => void selection.take();

describe('the selection on a sheet of messages', () => {
	it.each<[string, Act[], number[], boolean]>([
		['nothing', [], [], false],
		['a message', [toggle(2)], [2], false],
		['a message, twice', [toggle(2), toggle(2)], [], false],
		['messages of several pages', [toggle(2), toggle(9)], [2, 9], false],
		['a page', [page], [1, 2, 3], false],
		['a page, twice', [page, page], [], false],
		['the rest of a page', [toggle(2), page], [2, 1, 3], false],
		['a page, and one of another that stays', [toggle(9), page, page], [9], false],
		['all that match', [toggle(2), everything], [], true],
		['all that match, twice', [everything, everything], [], false],
		['a message after all that match', [everything, toggle(2)], [2], false],
		['nothing after Escape', [page, clear], [], false],
		['nothing once it is sent', [page, taken], [], false],
		['the same again when it is refused', [page, refused], [1, 2, 3], false],
		['all again when that is refused', [everything, refused], [], true],
		['one less that has left the sheet', [page, (selection) => selection.remove(2)], [1, 3], false]
	])('%s', (_what, acts, ids, isEverything) => {
		expect(after(...acts)).toEqual({ ids, isEverything, isEmpty: ids.length === 0 && !isEverything });
	});

	it('weighs and tells the states of what is selected', () => {
		const selection: Selection = new MessageSelection();
		selection.togglePage(PAGE);
		expect(selection.messages.map(({ bytes, state }) => [bytes, state])).toEqual([
			[100, 'archived'],
			[200, 'live'],
			[300, 'archived']
		]);
	});

	it('is what a plain set would be, for any acts', () => {
		const act = fc.oneof(
			fc.nat(5).map((id) => ({ id, is: 'toggle' as const })),
			fc.constantFrom({ is: 'page' as const }, { is: 'everything' as const }, { is: 'clear' as const })
		);
		fc.assert(
			fc.property(fc.array(act, { maxLength: 12 }), (acts) => {
				const selection: Selection = new MessageSelection();
				let [set, all] = [new Set<number>(), false];
				for (const one of acts) {
					if (one.is === 'toggle') {
						selection.toggle(message(one.id));
						all = false;
						if (!set.delete(one.id)) set.add(one.id);
					} else if (one.is === 'page') {
						selection.togglePage(PAGE);
						const whole = PAGE.every(({ id }) => set.has(id));
						for (const { id } of PAGE)
							if (whole) set.delete(id);
							else set.add(id);
					} else if (one.is === 'everything') {
						selection.toggleEverything();
						[set, all] = [new Set(), !all];
					} else {
						selection.clear();
						[set, all] = [new Set(), false];
					}
				}
				expect([new Set(selection.ids), selection.isEverything]).toEqual([set, all]);
				for (let id = 0; id < 6; id++) expect(selection.has(id)).toBe(all || set.has(id));
			})
		);
	});
});
