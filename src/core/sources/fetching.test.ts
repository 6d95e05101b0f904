import { describe, expect, it } from 'vitest';
import { Dice } from '../../../demo/random.ts';
import { Pace, portions, sequenceSet, type ToFetch, wrongFetching } from './fetching.ts';

const MOST = { messages: 4, bytes: 1_000, ofFolder: 2 };
const message = (folder: number, uid: number, receivedAt?: number, bytes?: number): ToFetch => ({
	...{ folder, uid, receivedAt, bytes }
});

describe('the order in which mail is fetched', () => {
	const old = message(0, 1, 100, 900);
	const heavy = message(0, 2, 200, 5_000);
	const recent = message(1, 7, 300, 10);
	const undated = message(1, 8);
	it.each([
		['newest', [recent, heavy, old, undated]],
		['heaviest', [heavy, old, recent, undated]]
	] as const)('%s first', (first, expected) => {
		const taken = [...portions([old, undated, heavy, recent], first, { ...MOST, messages: 1 })];
		expect(taken).toEqual(expected.map(({ folder, uid }) => ({ folder, uids: [uid] })));
	});

	it('takes folder by folder what follows each other closely', () => {
		const messages = [1, 2, 3, 4, 5].flatMap((n) => [message(0, n, n), message(1, n, n)]);
		expect([...portions(messages, 'newest', MOST)]).toEqual([
			{ folder: 0, uids: [5, 4] },
			{ folder: 1, uids: [5, 4] },
			{ folder: 0, uids: [3, 2] },
			{ folder: 1, uids: [3, 2] },
			{ folder: 0, uids: [1] },
			{ folder: 1, uids: [1] }
		]);
	});

	it('takes each message once, and no more together than may be', () => {
		const dice = new Dice(3);
		for (let round = 0; round < 200; round++) {
			const messages = Array.from({ length: dice.between(0, 60) }, (_, n) =>
				message(dice.between(0, 3), n, dice.between(0, 1) ? dice.between(0, 99) : undefined, dice.between(0, 2_000))
			);
			const first = dice.between(0, 1) ? 'newest' : 'heaviest';
			const taken = [...portions(messages, first, MOST)];
			const key = ({ folder, uid }: { folder: number; uid: number }) => `${folder} ${uid}`;
			const all = taken.flatMap(({ folder, uids }) => uids.map((uid) => key({ folder, uid })));
			expect(all.sort()).toEqual(messages.map(key).sort());
			expect(taken.filter(({ uids }) => uids.length === 0 || uids.length > MOST.ofFolder)).toEqual([]);
		}
	});
});

// RFC 3501 section 9: sequence-set
it.each([
	[[], ''],
	[[7], '7'],
	[[3, 1, 2], '1:3'],
	[[10, 1, 3, 2, 9, 20], '1:3,9:10,20'],
	[[5, 5, 6], '5:6']
])('the numbers %j are the set %j', (uids, set) => expect(sequenceSet(uids)).toBe(set));

describe('a limit', () => {
	it.each([10_000, 2_000_000])('of %d bytes a second is kept to on average', (limit) => {
		const pace = new Pace(limit);
		let now = 5_000;
		for (let n = 0; n < 100; n++) now += 3 + pace.took(limit / 7, now);
		// 100 sevenths, of which a first second may come at once
		expect(now - 5_000).toBeGreaterThan(12_900);
		expect(now - 5_000).toBeLessThan(15_000);
	});

	it('makes up for no more than a second of a pause', () => {
		const pace = new Pace(1_000);
		expect(pace.took(1_000, 0)).toBe(0);
		expect(pace.took(1_000, 60_000)).toBe(0);
		expect(pace.took(1_000, 60_000)).toBe(1_000);
	});

	it('is none where none is set', () => expect(new Pace(null).took(10 ** 12, 0)).toBe(0));

	it.each([
		[null, 2, undefined],
		[10_000, 1, undefined],
		[9_999, 2, /10 kB a second/],
		[NaN, 2, /10 kB a second/],
		[null, 3, /one or two connections/],
		[null, 1.5, /one or two connections/]
	])('%s bytes a second over %s connections', (bytesASecond, connections, wrong) => {
		const said = wrongFetching({ fetchFirst: 'newest', bytesASecond, connections });
		if (wrong) expect(said).toMatch(wrong);
		else expect(said).toBeUndefined();
	});
});
