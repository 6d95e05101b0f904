import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	alternativeTexts,
	type Carried,
	carriesAll,
	type Carrying,
	markCarried,
	positionOf,
	quotedWords,
	standsIn
} from './contains.ts';
import { betterPlace } from './proposals.ts';

const told = (text: string, more: Partial<Carried> = {}): Carried => ({
	texts: [text],
	html: undefined,
	files: [],
	subject: 'RAMP',
	...more
});

describe('a later message carries everything that an earlier one says', () => {
	const earlier = 'Dear Tove,\n\nthe ramp limit is twelve tonnes an axle.\n\nEmre';
	const quoted = '> Dear Tove,\n>\n> the ramp limit is twelve\n> tonnes an axle.\n>\n> Emre';
	const fine = (quote: string, more: Partial<Carried> = {}) =>
		told(`Fine, Emre.\n\nOn 2 Mar Emre wrote:\n${quote}\n\nTove`, more);
	const withHtml = (plain: string, html: string): Carried => told(plain, { texts: alternativeTexts(plain, html) });
	it.each<[string, Carried, Carried, Carrying | undefined]>([
		['quoted line by line, wrapped anew', told(earlier), fine(quoted), 'in-a-row'],
		['quoted twice over', told(earlier), fine(quoted.replaceAll('>', '> >')), 'in-a-row'],
		['a word is missing', told(earlier), fine(quoted.replace('twelve', '')), undefined],
		['a word is changed', told(earlier), fine(quoted.replace('twelve', 'twenty')), undefined],
		['a comma is changed', told(earlier), fine(quoted.replace('Tove,', 'Tove')), undefined],
		[
			'an answer written into the middle',
			told(earlier),
			fine(quoted.replace('> tonnes', 'Really?\n> tonnes')),
			'answered-between'
		],
		['answers below each line', told(earlier), fine(quoted.replaceAll('\n', '\n\nYes.\n\n')), 'answered-between'],
		['words that the later one writes itself', told(earlier), told(earlier), undefined],
		['the end is cut off', told(earlier), fine(quoted.replace('\n> Emre', '')), undefined],
		[
			'what the earlier one quotes is quoted too',
			told(`${earlier}\n> What limit?`),
			fine(`${quoted}\n>> What limit?`),
			'in-a-row'
		],
		['what the earlier one quotes was cut', told(`${earlier}\n> What limit?`), fine(quoted), undefined],
		['under another subject', told(earlier), fine(quoted, { subject: 'QUAY' }), undefined],
		[
			'a file that the later one has too',
			told(earlier, { files: ['a'] }),
			fine(quoted, { files: ['b', 'a'] }),
			'in-a-row'
		],
		['a file that it has not', told(earlier, { files: ['a', 'c'] }), fine(quoted, { files: ['b', 'a'] }), undefined],
		[
			'a link that leads elsewhere',
			told(earlier, { html: '<a href="https://x.example/1">ramp</a>' }),
			fine(quoted, { html: '<a href="https://x.example/2">ramp</a>' }),
			undefined
		],
		[
			'a link that is there',
			told(earlier, { html: "<a href='https://x.example/1'>ramp</a>" }),
			fine(quoted, { html: '<a href="https://x.example/1">ramp</a>' }),
			'in-a-row'
		],
		[
			'a plain stub beside HTML that says more',
			withHtml('This is best read as HTML.', earlier),
			fine('> This is best read as HTML.'),
			undefined
		],
		[
			'HTML that says what the plain text says',
			withHtml(earlier, 'Dear Tove, * the ramp limit is twelve tonnes an axle. Emre'),
			fine(quoted),
			'in-a-row'
		],
		[
			'both quoted, the stub and what the HTML says',
			withHtml('This is best read as HTML.', earlier),
			fine(`> This is best read as HTML.\n${quoted}`),
			'in-a-row'
		],
		[
			'quoted in the HTML of the later one',
			told(earlier),
			told('Fine.', { texts: ['Fine.', `Fine.\n\n${quoted}`] }),
			'in-a-row'
		],
		['too few words to mean anything', told('Yes.'), fine('> Yes.'), undefined],
		['nothing at all', told(''), fine(quoted), undefined]
	])('%s', (_name, first, later, expected) => {
		expect(carriesAll(first, later)).toBe(expected);
	});

	it.each([
		['Read me as HTML', 'Read me as HTML', ['Read me as HTML']],
		['Read me as HTML', '', ['Read me as HTML']],
		['• a [https://x.example]\n• b', 'a\nb', ['• a [https://x.example]\n• b']],
		['a b', 'a, b and c', ['a, b and c']],
		['Read me as HTML', 'The ramp is closed', ['Read me as HTML', 'The ramp is closed']],
		['b a', 'a b', ['b a', 'a b']]
	])('of the alternatives %j and %j says something of its own: %j', (plain, html, texts) => {
		expect(alternativeTexts(plain, html)).toEqual(texts);
	});

	it('asks of a quote whether it stands elsewhere', () => {
		expect(standsIn('> the ramp limit\n> is twelve', ['Hello', earlier])).toBe(true);
		expect(standsIn('> my own words', ['Hello', earlier])).toBe(false);
		expect(standsIn('>\n> ', [])).toBe(true);
	});

	it('finds words in a row as a plain search does, over generated texts', () => {
		const word = fc.constantFrom('a', 'b', 'ab');
		fc.assert(
			fc.property(fc.array(word, { maxLength: 6 }), fc.array(word, { maxLength: 40 }), (needle, hay) => {
				const plain =
					needle.length === 0 ? -1 : hay.findIndex((_, at) => needle.every((one, n) => hay[at + n] === one));
				expect(positionOf(needle, hay)).toBe(plain);
			}),
			{ numRuns: 500 }
		);
	});

	it('loses no word, whatever is quoted, whatever the wrapping', () => {
		fc.assert(
			fc.property(
				fc.array(fc.stringMatching(/^[a-zæøå,.!?-]{1,12}$/), { minLength: 4, maxLength: 60 }),
				fc.nat(30),
				(words, width) => {
					const wrapped = words.map((word, at) => ((at + 1) % (width + 1) === 0 ? `${word}\n` : `${word} `)).join('');
					const text = wrapped
						.split('\n')
						.map((line) => `>> ${line}`)
						.join('\n');
					expect(quotedWords(text)).toEqual(words);
					expect(carriesAll(told(words.join(' ')), told(text))).toBe('in-a-row');
					const without = words.slice(0, -1);
					expect(carriesAll(told(words.join(' ')), told(`> ${without.join(' ')}`))).toBe(undefined);
				}
			)
		);
	});

	it('marks what is carried, and leaves the rest as it is', () => {
		const later = `Fine, Emre.\n\n${quoted}\n\nTove`;
		const pieces = markCarried(earlier, later);
		expect(pieces.map(({ text }) => text).join('')).toBe(later);
		expect(pieces.map(({ carried }) => carried)).toEqual([false, true, false]);
		expect(quotedWords(pieces[1]?.text ?? '')).toEqual(quotedWords(earlier));
		expect(markCarried('something else altogether here', later)).toEqual([{ text: later, carried: false }]);
		const between = `Fine, Emre.\n\n${quoted.replace('> tonnes', 'Really?\n> tonnes')}\n\nTove`;
		const stretches = markCarried(earlier, between);
		expect(stretches.map(({ text }) => text).join('')).toBe(between);
		expect(stretches.map(({ carried }) => carried)).toEqual([false, true, false, true, false]);
		expect(stretches[2]?.text).toContain('Really?');
		expect(markCarried(earlier, earlier)).toEqual([{ text: earlier, carried: true }]);
	});
});

describe('the better of several places', () => {
	const place = (itemId: number, folder: string, role: string | null = null, marked = false) => ({
		itemId,
		folder,
		role,
		marked
	});
	it.each([
		['a folder made for it over the inbox', [place(1, 'Inbox', 'inbox'), place(2, 'Contracts')], 2],
		['a deeper folder', [place(1, 'Vessels'), place(2, 'Vessels/MV Terne')], 2],
		['where it is marked', [place(1, 'Contracts'), place(2, 'Inbox', 'inbox', true)], 2],
		['the inbox over junk', [place(1, 'Junk', 'junk'), place(2, 'Inbox', 'inbox')], 2],
		['the first of two alike', [place(2, 'Inbox', 'inbox'), place(1, 'Inbox', 'inbox')], 1]
	])('%s', (_name, places, best) => {
		expect(betterPlace(places).best.itemId).toBe(best);
	});
});
