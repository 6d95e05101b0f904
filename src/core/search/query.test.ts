import { describe, expect, it } from 'vitest';
import { excerpt, markHits } from './excerpt.ts';
import { matchExpression, QueryError, readQuery } from './query.ts';
import { foldWord, indexText, wordsOf } from './words.ts';

describe('readQuery', () => {
	it.each<[string, string | undefined]>([
		['', undefined],
		['ramp', '"ramp"'],
		['ramp limit', '"ramp" AND "limit"'],
		['"ramp limit"', '"ramp limit"'],
		['ramp*', '"ramp" *'],
		['from:northfuel', 'sender : "northfuel"'],
		['FROM:"Anchor & Rope"', 'sender : "Anchor Rope"'],
		['from:a.b@c.example', 'sender : "a b c example"'],
		['subject:Re: x', 'subject : "Re" AND "x"'],
		['re:zero', '"re zero"'],
		['https://a.example/x', '"https a example x"'],
		['re: zero', '"re" AND "zero"'],
		['NOT OR AND NEAR(a b)', '"NOT" AND "OR" AND "AND" AND "NEAR a" AND "b"'],
		['a"b', undefined],
		['*^(){}', undefined],
		['東京都', '"東京 京都"']
	])('%j', (text, expected) => {
		if (text === 'a"b') expect(() => readQuery(text)).toThrow(QueryError);
		else expect(matchExpression(readQuery(text))).toBe(expected);
	});

	it.each([
		['since:2024-03-01', { since: '2024-03-01', before: undefined }],
		['before:2024', { since: undefined, before: '2024-01-01' }],
		['since:2024-03 since:2023', { since: '2024-03-01', before: undefined }],
		['x before:2024 before:2023-05', { since: undefined, before: '2023-05-01' }]
	])('%s', (text, dates) => {
		expect(readQuery(text)).toMatchObject(dates);
	});

	it.each([
		['since:yesterday', 6, 'no date'],
		['a before:2024-02-30', 9, 'no date'],
		['words "not closed', 6, 'not closed'],
		['from:', 5, 'needs words'],
		['x since: y', 8, 'needs a date'],
		['from:""', 5, 'needs words']
	])('%s says where it is wrong', (text, at, says) => {
		const error = (() => {
			try {
				readQuery(text);
			} catch (thrown) {
				return thrown as QueryError;
			}
			return undefined;
		})();
		expect(error?.message).toContain(says);
		expect(error?.at).toBe(at);
	});
});

describe('words', () => {
	it.each([
		['Crème brûlée', ['Crème', 'brûlée']],
		['a.b@c-d', ['a', 'b', 'c', 'd']],
		['東京都庁 hello', ['東京', '京都', '都庁', 'hello']],
		['猫', ['猫']],
		['กรุงเทพ', wordsOf('กรุงเทพ')]
	])('%s', (text, expected) => {
		expect(wordsOf(text)).toEqual(expected);
	});

	it.each([
		['Élan', 'elan'],
		['ÅS', 'as'],
		['Straße', 'straße'],
		['Żółć', 'zołc'],
		['ｶ', 'ｶ']
	])('folds %s to %s', (word, folded) => {
		expect(foldWord(word)).toBe(folded);
	});

	it('leaves other scripts alone', () => {
		expect(indexText('Привет мир')).toBe('Привет мир');
	});
});

describe('hits in context', () => {
	const marked = (text: string, query: string) =>
		markHits(text, readQuery(query).phrases, 'text')
			.map(({ text, hit }) => (hit ? `[${text}]` : text))
			.join('');

	it.each([
		['The ramp limit', 'ramp', 'The [ramp] limit'],
		['The ramp limit', '"ramp limit"', 'The [ramp limit]'],
		['Réservation annulée', 'reservation', '[Réservation] annulée'],
		['ramps and ramp', 'ramp', 'ramps and [ramp]'],
		['ramps and ramp', 'ramp*', '[ramps] and [ramp]'],
		['a subject', 'subject:subject', 'a subject'],
		['来月、車椅子で乗船', '車椅子', '来月、[車椅子]で乗船'],
		['<b>ramp</b>', 'ramp', '<b>[ramp]</b>'],
		['nothing', 'ramp', 'nothing']
	])('%s / %s', (text, query, expected) => {
		expect(marked(text, query)).toBe(expected);
	});

	it('shows the neighbourhood of the first hit', () => {
		const text = `${'before '.repeat(100)}ramp ${'after '.repeat(100)}`;
		const stretches = excerpt(text, readQuery('ramp').phrases, 'text', 60);
		expect(stretches.map(({ text }) => text).join('')).toMatch(/^… (before )+ramp (after ?)+.* …$/);
		expect(stretches.filter(({ hit }) => hit).map(({ text }) => text)).toEqual(['ramp']);
	});

	it('shows the beginning where there is no hit', () => {
		expect(excerpt('short text', readQuery('ramp').phrases, 'text')).toEqual([{ text: 'short text', hit: false }]);
	});
});
