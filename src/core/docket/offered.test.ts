import { describe, expect, it } from 'vitest';
import type { Decider, ItemState } from './decision.ts';
import { type Decision, DECISIONS, decisionsFor, decisionsOn, isOffered, ruleOf } from './decisions.ts';

/*
 * Written by hand: which decision is offered to whom, by the item's state. L live, A archived, B binned; a dash:
 * none.
 */
const OFFERED: Record<Decision, [administrator: string, owner: string, colleague: string]> = {
	archive: ['L', 'L', '-'],
	restore: ['AB', 'AB', 'AB'],
	arrange: ['A', '-', '-'],
	move: ['L', 'L', '-'],
	delete: ['L', 'L', '-'],
	dispose: ['LA', '-', '-'],
	destroy: ['B', '-', '-'],
	tag: ['LAB', 'LAB', '-'],
	untag: ['LAB', 'LAB', '-'],
	flag: ['LA', 'LA', '-'],
	unflag: ['LA', 'LA', '-'],
	read: ['LA', 'LA', '-'],
	unread: ['LA', 'LA', '-'],
	keep: ['LA', 'LA', '-'],
	release: ['LA', 'LA', '-'],
	'never-archive': ['L', 'L', '-'],
	'allow-archiving': ['L', 'L', '-'],
	fold: ['L', 'L', '-'],
	unfold: ['L', 'L', '-'],
	pause: ['LA', 'LA', '-'],
	resume: ['LA', 'LA', '-'],
	classify: ['LA', 'LA', '-'],
	retain: ['LA', 'LA', '-'],
	unsubscribe: ['-', '-', '-'],
	block: ['-', '-', '-'],
	digest: ['-', '-', '-']
};
const LETTERS: Record<string, ItemState> = { L: 'live', A: 'archived', B: 'binned' };
const STATES: ItemState[] = ['live', 'archived', 'binned', 'destroyed'];
const DECIDERS: Decider[] = ['administrator', 'owner', 'colleague', 'auditor'];

describe('what is offered', () => {
	it.each(Object.entries(OFFERED) as [Decision, string[]][])('%s', (decision, byDecider) => {
		for (const [at, decider] of DECIDERS.entries()) {
			const expected = [...(byDecider[at] ?? '')].flatMap((letter) => LETTERS[letter] ?? []);
			expect(STATES.filter((state) => isOffered(decision, state, decider))).toEqual(expected);
		}
	});

	it('covers every decision there is', () => {
		expect(Object.keys(OFFERED).sort()).toEqual([...DECISIONS].sort());
	});

	it('is decided by the same digits everywhere, and deleting is never the first of them', () => {
		const digits = DECISIONS.flatMap((decision) => {
			const { digit } = ruleOf(decision);
			return digit === undefined ? [] : [[digit, decision] as const];
		});
		expect(new Map(digits).size).toBe(digits.length);
		expect(Object.fromEntries(digits)).toEqual({
			1: 'archive',
			2: 'delete',
			3: 'move',
			4: 'tag',
			5: 'keep',
			6: 'pause',
			7: 'flag',
			8: 'read',
			9: 'restore'
		});
		expect(decisionsOn('sheet').slice(0, 8)).toEqual(
			digits
				.sort(([a], [b]) => a - b)
				.map(([, decision]) => decision)
				.filter((decision) => decision !== 'restore')
		);
	});

	/*
	 * Written by hand: the row of decisions over selected messages, by the role of the person and the states of the
	 * messages.
	 */
	it.each<[Decider, ItemState[], string]>([
		[
			'administrator',
			['live'],
			'archive delete move tag keep pause flag read untag unflag unread release never-archive allow-archiving fold unfold resume classify retain'
		],
		[
			'administrator',
			['archived'],
			'tag keep pause flag read restore arrange untag unflag unread release resume classify retain'
		],
		['administrator', ['binned'], 'tag restore untag'],
		[
			'administrator',
			['live', 'binned'],
			'archive delete move tag keep pause flag read restore untag unflag unread release never-archive allow-archiving fold unfold resume classify retain'
		],
		[
			'owner',
			['live'],
			'archive delete move tag keep pause flag read untag unflag unread release never-archive allow-archiving fold unfold resume classify retain'
		],
		['owner', ['archived'], 'tag keep pause flag read restore untag unflag unread release resume classify retain'],
		['owner', ['binned'], 'tag restore untag'],
		['colleague', ['live'], ''],
		['colleague', ['archived', 'binned'], 'restore'],
		['auditor', ['live', 'archived', 'binned'], ''],
		['administrator', ['destroyed'], ''],
		['administrator', [], '']
	])('%s on %s: %s', (decider, states, row) => {
		expect(decisionsFor(states, decider).join(' ')).toBe(row);
	});

	it('asks for a word and a second person before whatever cannot be taken back is destroyed, and only then', () => {
		const asks = DECISIONS.filter((decision) => ruleOf(decision).confirmation === 'typed');
		expect(asks).toEqual(['dispose', 'destroy']);
		expect(DECISIONS.filter((decision) => ruleOf(decision).approval === 'where demanded')).toEqual(asks);
		expect(DECISIONS.filter((decision) => ruleOf(decision).takenBack === 'never')).toEqual(asks);
	});
});
