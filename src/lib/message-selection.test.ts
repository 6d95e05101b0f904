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
	return {
		ids: selection.ids,
		except: selection.except.map(({ id }) => id),
		isEverything: selection.isEverything,
		isEmpty: selection.isEmpty
	};
};
const toggle = (id: number) => (selection: Selection) => selection.toggle(message(id));
const page: Act = (selection) => selection.toggle(...PAGE);
const everything: Act = (selection) => selection.toggleEverything();
const clear: Act = (selection) => selection.clear();
const refused: Act = (selection) => selection.take()();
const taken: Act = (selection) => void selection.take();

describe('the selection on a sheet of messages', () => {
	it.each<[string, Act[], number[], boolean, number[]?]>([
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
		['all that match but a message', [everything, toggle(2)], [], true, [2]],
		['all that match but a page', [everything, page], [], true, [1, 2, 3]],
		['all that match, the page taken in again', [everything, page, page], [], true],
		['all that match, where only one of a page was out', [everything, toggle(2), page], [], true],
		['nothing after Escape', [page, clear], [], false],
		['nothing once it is sent', [page, taken], [], false],
		['the same again when it is refused', [page, refused], [1, 2, 3], false],
		['all but one again when that is refused', [everything, toggle(3), refused], [], true, [3]],
		['one less that has left the sheet', [page, (selection) => selection.remove(2)], [1, 3], false]
	])('%s', (_what, acts, ids, isEverything, except = []) => {
		expect(after(...acts)).toEqual({ ids, except, isEverything, isEmpty: ids.length === 0 && !isEverything });
	});

	it('weighs and tells the states of what is selected', () => {
		const selection: Selection = new MessageSelection();
		selection.toggle(...PAGE);
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
				// which messages are in: those of the set, or with `all` those outside of it
				let [set, all] = [new Set<number>(), false];
				const isIn = (id: number) => set.has(id) !== all;
				const flip = (id: number) => set.delete(id) || set.add(id);
				for (const one of acts) {
					if (one.is === 'toggle') {
						selection.toggle(message(one.id));
						flip(one.id);
					} else if (one.is === 'page') {
						selection.toggle(...PAGE);
						const whole = PAGE.every(({ id }) => isIn(id));
						for (const { id } of PAGE) if (isIn(id) === whole) flip(id);
					} else if (one.is === 'everything') {
						selection.toggleEverything();
						[set, all] = [new Set(), !all];
					} else {
						selection.clear();
						[set, all] = [new Set(), false];
					}
				}
				expect(selection.isEverything).toBe(all);
				for (let id = 0; id < 6; id++) expect(selection.has(id)).toBe(isIn(id));
			})
		);
	});
});
