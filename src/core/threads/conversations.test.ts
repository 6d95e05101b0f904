import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { expectLinearTime } from '../../lib/server/testing/time.ts';
import { type Branch, conversationsOf } from './conversations.ts';

const DAY = 86_400;

/* `id` is the day of the root, too, unless it is said. */
function branch(id: number, also: Partial<Branch> & { day?: number; until?: number; with?: string[] } = {}): Branch {
	const { day = id, until = day, with: people = ['anna'], ...rest } = also;
	return {
		ids: [id],
		subject: 'RAMP',
		title: 'Ramp',
		isLoose: false,
		firstAt: day * DAY,
		newestAt: until * DAY,
		people,
		...rest
	};
}
const loose = (id: number, also: Parameters<typeof branch>[1] = {}) => branch(id, { isLoose: true, ...also });
const written = (branches: Branch[][]) =>
	branches
		.map((of) => of.flatMap(({ ids }) => ids).join('+'))
		.sort((a, b) => parseInt(a, 10) - parseInt(b, 10))
		.join(' ');

describe('a conversation', () => {
	// the rules of the issue, worked by hand
	it.each<[string, Branch[], string]>([
		['two letters of one subject are two', [branch(1), branch(2)], '1 2'],
		['an answer without references joins its letter', [branch(1), loose(3)], '1+3'],
		['not that of somebody else', [branch(1), loose(3, { with: ['emre'] })], '1 3'],
		[
			'one shared correspondent is enough',
			[branch(1, { with: ['anna', 'tove'] }), loose(3, { with: ['tove', 'emre'] })],
			'1+3'
		],
		['nobody but the mailbox itself is shared', [branch(1, { with: [] }), loose(3, { with: [] })], '1 3'],
		['on the ninetieth day', [branch(1), loose(91)], '1+91'],
		['not on the ninety-first', [branch(1), loose(92)], '1 92'],
		['90 days count from the newest message', [branch(1, { until: 50 }), loose(140)], '1+140'],
		['and an answer that joined is newer', [branch(1), loose(80), loose(160)], '1+80+160'],
		['it does not come before its letter', [loose(1), branch(2)], '1 2'],
		['on the same day, the letter goes first', [loose(5, { ids: [5] }), branch(6, { day: 5 })], '6+5'],
		['the nearest wins', [branch(1), branch(40), loose(50)], '1 40+50'],
		['the nearest that shares a correspondent', [branch(1), branch(40, { with: ['emre'] }), loose(50)], '1+50 40'],
		['one that still goes on is nearest', [branch(1, { until: 60 }), branch(40), loose(50)], '1+50 40'],
		['answers without a letter join each other', [loose(1), loose(2), loose(3)], '1+2+3'],
		['a message that is no answer never joins', [branch(1), branch(2), loose(3)], '1 2+3'],
		['one without a subject never joins', [branch(1, { subject: '' }), loose(2, { subject: '' })], '1 2'],
		['nor one without a date', [branch(1), loose(2, { firstAt: undefined, newestAt: undefined })], '1 2'],
		['whole branches move together', [branch(1), loose(3, { ids: [3, 9, 7] })], '1+3+9+7']
	])('%s', (_rule, branches, expected) => {
		expect(written(conversationsOf(branches))).toBe(expected);
	});

	it('of seventy letters of one subject are seventy, each with its own answer', () => {
		const all = Array.from({ length: 70 }, (_, n) => [
			branch(n * 2 + 1, { with: [`person${n}`] }),
			loose(n * 2 + 2, { with: [`person${n}`] })
		]).flat();
		const found = conversationsOf(all);
		expect(found).toHaveLength(70);
		for (const [root, answer] of found) expect((root?.ids[0] ?? 0) + 1).toBe(answer?.ids[0]);
	});

	it('of a subject that very many letters have is found in a time that follows their number', async () => {
		const letters = (n: number) =>
			Array.from({ length: n }, (_, at) => loose(at, { day: at % 80, with: [`person${at}`, `firm${at % 997}`] }));
		const [small, large] = [letters(2_000), letters(10_000)];
		await expectLinearTime(
			() => conversationsOf(small),
			() => conversationsOf(large),
			5
		);
	});

	it('does not depend on the order in which branches are given, and loses none', () => {
		const some = fc.array(
			fc.record({
				day: fc.nat(300),
				isLoose: fc.boolean(),
				until: fc.nat(60),
				people: fc.subarray(['anna', 'emre', 'tove'])
			}),
			{ maxLength: 25 }
		);
		fc.assert(
			fc.property(some, fc.infiniteStream(fc.nat()), (made, random) => {
				const branches = made.map(({ day, isLoose, until, people }, n) =>
					branch(n, { day, isLoose, until: day + until, with: people })
				);
				const expected = written(conversationsOf(branches));
				const shuffled = branches
					.map((one) => ({ one, by: random.next().value }))
					.sort((a, b) => a.by - b.by)
					.map(({ one }) => one);
				expect(written(conversationsOf(shuffled))).toBe(expected);
				expect(expected.split(/[ +]/).filter(Boolean).length).toBe(branches.length);
			})
		);
	});
});
