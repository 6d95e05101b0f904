import { describe, expect, it } from 'vitest';
import { nextColour, TAG_COLOURS } from '../tags/colours.ts';
import { contrast } from '../testing/contrast.ts';
import { tagNames } from '../tags/names.ts';
import { compareLots, type Grouping, GROUPINGS, type Lot, labelOf, lotsLabel, unreadBandStarts } from '../lots/lots.ts';
import type { DecisionOptions } from './decision.ts';
import { type Decision, winner } from './decisions.ts';
import { leftSentence } from './left.ts';
import { conflictSentence, consequence, lineSentence } from './sentences.ts';

describe('which of two lines decides', () => {
	const line = (decision: Decision, options: DecisionOptions = {}) => ({ decision, options });
	it.each([
		[line('delete'), line('archive'), 'later'],
		[line('archive'), line('delete'), 'earlier'],
		[line('move', { folder: 'A' }), line('move', { folder: 'B' }), 'later'],
		[line('archive'), line('restore'), 'later'],
		[line('tag', { tag: 'a' }), line('delete'), undefined],
		[line('tag', { tag: 'a' }), line('tag', { tag: 'b' }), undefined],
		// each tag is an aspect of its own, added or removed
		[line('tag', { tag: 'a' }), line('untag', { tag: 'a' }), 'later'],
		[line('tag', { tag: 'a' }), line('tag', { tag: ' A ' }), 'later'],
		[line('flag'), line('unflag'), 'later'],
		[line('keep'), line('delete'), 'earlier'],
		[line('archive'), line('keep'), undefined],
		[line('pause'), line('archive'), undefined],
		[line('pause'), line('delete'), 'earlier'],
		[line('keep'), line('delete', { only: 'kept' }), undefined]
	])('%j and %j: %s', (earlier, later, expected) => {
		expect(winner(earlier, later)).toBe(expected);
	});
});

describe('a line as a sentence', () => {
	const said = { messages: 4_812, bytes: 1_900_000_000, folders: 37 };
	it.each([
		[
			{ ...said, decision: 'archive', cutoff: '2024-01-01' },
			'Archive 4,812 messages from 37 folders received before 1 Jan 2024 (1.90\u00a0GB).'
		],
		[
			{ ...said, decision: 'archive', folders: 2, folderPath: 'Vessels', layout: ['year'] },
			'Archive 4,812 messages from Vessels and its subfolders, by year (1.90\u00a0GB).'
		],
		[
			{ ...said, decision: 'delete', messages: 1, label: 'of the list Harbour Times' },
			'Delete 1 message of the list Harbour Times (1.90\u00a0GB).'
		],
		[
			{ ...said, decision: 'delete', label: 'from x.example', options: { keepNewest: 3 } },
			'Delete 4,812 messages from x.example, all but the newest 3 of each (1.90\u00a0GB).'
		],
		[{ ...said, decision: 'delete', options: { only: 'kept' } }, 'Delete 4,812 kept messages (1.90\u00a0GB).'],
		[
			{ ...said, decision: 'move', options: { folder: 'Contracts' } },
			'Move 4,812 messages to Contracts (1.90\u00a0GB).'
		],
		[{ ...said, decision: 'tag', options: { tag: 'Ramp' } }, 'Put the tag “Ramp” on 4,812 messages (1.90\u00a0GB).'],
		[
			{ ...said, decision: 'pause', options: { until: '2027-03-01', because: 'the claim runs' } },
			'Pause 4,812 messages: not to be deleted before 1 Mar 2027, because the claim runs (1.90\u00a0GB).'
		],
		[{ ...said, decision: 'destroy' }, 'Destroy 4,812 messages in the bin for good (1.90\u00a0GB).'],
		[{ ...said, decision: 'restore', messages: 1 }, 'Restore 1 message to where it came from (1.90\u00a0GB).']
	] as const)('%j', (line, expected) => {
		const { decision, ...about } = line;
		expect(lineSentence(decision, about)).toBe(expected);
	});

	it('says what follows, what stays and which line decides', () => {
		expect(consequence('delete', { elsewhere: 2, binDays: 30 })).toContain('out of every tag and view');
		expect(consequence('delete', { elsewhere: 2, binDays: 30 })).toContain('2 of them lie in another place');
		expect(consequence('destroy', { elsewhere: 0, binDays: 30 })).toContain('cannot be undone');
		expect(consequence('tag', { elsewhere: 2, binDays: 30 })).toBe('');
		expect(leftSentence({ reason: 'kept', messages: 1 })).toBe('1 message stays: kept.');
		expect(leftSentence({ reason: 'held', messages: 12, holds: ['Slipway claim'] })).toBe(
			'12 messages are under the hold “Slipway claim” and stay.'
		);
		expect(leftSentence({ reason: 'held', messages: 1, holds: ['A', 'B'] })).toContain('under holds (“A”, “B”)');
		expect(conflictSentence({ wins: 3, loses: 1, messages: 2 }, { wins: 'archive', loses: 'delete' })).toBe(
			'2 messages are claimed by lines 1 and 3: line 3 decides, as to archive keeps more than to delete.'
		);
	});
});

describe('lots', () => {
	it.each<[Grouping, string[], number | undefined, string]>([
		['organisation', ['a.example', 'b.example'], 2, 'from a.example, b.example'],
		['organisation', [], 37, 'from 37 organisations'],
		['list', ['Harbour Times'], 1, 'of the list Harbour Times'],
		['thread', ['a secret subject'], 1, 'in 1 thread'],
		['year', ['2019'], 1, 'received in 2019'],
		['folder', [], undefined, '']
	])('by %s in words: %j of %s', (by, labels, count, expected) => {
		expect(lotsLabel(by, labels, count)).toBe(expected);
	});

	it('names lots whose key is no name', () => {
		expect(labelOf('size', '3')).toBe('1 to 5 MB');
		expect(labelOf('attachment', '')).toBe('no attachment');
		expect(labelOf('kind', '2')).toBe('newsletter or advertisement');
		expect(labelOf('unread', '2')).toBe('unread for a month and more');
		expect(labelOf('month', '')).toBe('date in doubt');
		for (const by of Object.keys(GROUPINGS) as Grouping[]) expect(labelOf(by, '').length).toBeGreaterThan(0);
		expect(unreadBandStarts('2026-03-31').slice(0, 2)).toEqual(['2026-02-28', '2025-12-31']);
	});

	it('sorts by any column, ties by weight and name', () => {
		const lot = (label: string, bytes: number, newest: string | null): Lot => ({
			key: label,
			label,
			messages: 1,
			bytes,
			oldest: null,
			newest,
			unread: 0,
			answered: null
		});
		const lots = [lot('b', 5, '2020-01-01'), lot('a', 5, null), lot('c', 9, '2021-01-01')];
		const order = (...sort: Parameters<typeof compareLots>) =>
			[...lots]
				.sort(compareLots(...sort))
				.map(({ label }) => label)
				.join('');
		expect(order('bytes', true)).toBe('cab');
		expect(order('label', false)).toBe('abc');
		expect(order('newest', true)).toBe('cba');
		expect(order('messages', true)).toBe('cab');
	});
});

describe('tags', () => {
	it.each(Object.entries(TAG_COLOURS))(
		'%s: its ink passes on its ground (WCAG 2.2 AA, 4.5 to 1)',
		(_name, { ground, ink }) => {
			expect(contrast(ground, ink)).toBeGreaterThanOrEqual(4.5);
		}
	);

	it('have letters of their own, and colours in turn', () => {
		const letters = Object.values(TAG_COLOURS).map(({ letter }) => letter);
		expect(new Set(letters).size).toBe(letters.length);
		expect(nextColour(letters.length)).toBe(nextColour(0));
		// WCAG's own example values
		expect(contrast('#000000', '#ffffff')).toBeCloseTo(21);
		expect(tagNames(' Vessels /  MV  Terne/')).toEqual(['Vessels', 'MV Terne']);
	});
});
