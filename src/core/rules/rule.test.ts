import { describe, expect, it } from 'vitest';
import { circlesAmong } from './circles.ts';
import { cutoffOf, type Rule, ruleSentence, STANDING_DECISIONS, whyWords, wrongRule } from './rule.ts';

const RULE: Rule = { name: 'Times', query: 'list:times', stay: {}, then: 'archive', options: {} };

describe('a standing decision', () => {
	it.each<[Partial<Rule>, string]>([
		[{}, 'Mail found by “list:times” is archived.'],
		[
			{ then: 'delete', options: { leavesFlagged: true } },
			'Mail found by “list:times” is deleted. Flagged mail stays.'
		],
		[
			{ stay: { newest: 3, olderThan: 'P30D' } },
			'The newest 3 messages found by “list:times” stay, unless they are older than 30 days; the rest is archived.'
		],
		[
			{ stay: { newest: 1, per: 'thread' }, then: 'move', options: { folder: 'Old' } },
			'The newest message of each thread found by “list:times” stays; the rest is moved to Old.'
		],
		[
			{ stay: { olderThan: 'P1Y6M' }, then: 'tag', options: { tag: 'Old' } },
			'Mail found by “list:times” is tagged “Old” once it is older than 1 year 6 months.'
		],
		[
			{ stay: { newest: 5, per: 'list', olderThan: 'P10D', largerInAll: 2_000_000 }, since: '2026-01-01' },
			'The newest 5 messages of each list found by “list:times” received from 1 Jan 2026 stay, unless they are older than 10 days or heavier than 2.00\u00a0MB together; the rest is archived.'
		],
		[
			{ stay: { olderThan: 'P10D', largerInAll: 2_000_000 }, then: 'delete' },
			'Mail found by “list:times” is deleted once it is older than 10 days, or it and newer mail are heavier than 2.00\u00a0MB together.'
		],
		[{ until: '2026-03-01' }, 'Mail found by “list:times” received before 1 Mar 2026 is archived.']
	])('%j says: %s', (also, expected) => {
		expect(ruleSentence({ ...RULE, ...also })).toBe(expected);
	});

	it.each<[Partial<Rule>, RegExp | undefined]>([
		[{}, undefined],
		[{ name: ' ' }, /needs a name/],
		[{ query: ' ' }, /which mail/],
		[{ query: 'since:soon' }, /is no date/],
		[{ query: 'a paused' }, /changes from day to day/],
		[{ then: 'destroy' }, /nothing that can stand/],
		[{ then: 'dispose' }, /nothing that can stand/],
		[{ then: 'move' }, /Name the folder/],
		[{ then: 'tag' }, /Name the tag/],
		[{ stay: { newest: 0 } }, /whole number/],
		[{ stay: { newest: 1.5 } }, /whole number/],
		[{ stay: { per: 'list' } }, /how many of the newest/],
		[{ stay: { olderThan: '10 days' } }, /written like P10D/],
		[{ stay: { largerInAll: 0 } }, /at least one byte/],
		[{ since: '2026-02-01', until: '2026-02-01' }, /ends before/]
	])('%j is refused: %s', (also, expected) => {
		const wrong = wrongRule({ ...RULE, ...also });
		if (expected) expect(wrong).toMatch(expected);
		else expect(wrong).toBeUndefined();
	});

	it('never destroys, and waits for nobody', () => {
		expect([...STANDING_DECISIONS].sort()).toEqual(
			['archive', 'delete', 'flag', 'fold', 'keep', 'move', 'never-archive', 'read', 'tag', 'unflag', 'untag'].sort()
		);
	});

	// Temporal's `constrain`: a shorter month gives its last day
	it.each([
		['P30D', '2026-11-29', '2026-10-30'],
		['P1M', '2026-03-31', '2026-02-28'],
		['P1Y', '2024-02-29', '2023-02-28']
	])('of age %s on %s begins on %s', (olderThan, today, expected) => {
		expect(cutoffOf({ olderThan }, today)).toBe(expected);
	});

	it('says why a message went', () => {
		const stay = { newest: 3, per: 'list', olderThan: 'P10D', largerInAll: 5_000_000 } as const;
		expect((['newest', 'older', 'heavier', 'all'] as const).map((why) => whyWords(why, stay))).toEqual([
			'3 newer ones stay of each list',
			'it was older than 10 days',
			'it and the newer ones weighed more than 5.00\u00a0MB',
			'none of this mail stays'
		]);
	});
});

describe('circles', () => {
	const moving = (id: number, query: string, folder: string) => ({
		id,
		query,
		then: 'move' as const,
		options: { folder }
	});
	it.each<[string, ReturnType<typeof moving>[], number[][]]>([
		['none where nothing comes back', [moving(1, 'folder:A', 'B'), moving(2, 'folder:B', 'C')], []],
		['two to each other’s folders', [moving(1, 'folder:A x', 'B'), moving(2, 'folder:b', 'A')], [[1, 2]]],
		[
			'three, from whichever one',
			[moving(3, 'folder:C', 'A'), moving(1, 'folder:A', 'B'), moving(2, 'folder:B', 'C')],
			[[1, 2, 3]]
		],
		['a folder below counts', [moving(1, 'folder:A', 'B/Old'), moving(2, 'folder:B', 'A')], [[1, 2]]],
		['one that puts its own mail back', [moving(1, 'folder:A', 'A/Old')], [[1]]],
		['none without a folder in the search', [moving(1, 'x', 'B'), moving(2, 'folder:B', 'A')], []],
		['none where either folder would do', [moving(1, 'folder:A or folder:B', 'B'), moving(2, 'folder:B', 'A')], []]
	])('%s', (_name, rules, expected) => {
		expect(circlesAmong(rules)).toEqual(expected);
	});
});
