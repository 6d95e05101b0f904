import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Carried, carriesAll, markCarried, positionOf, quotedWords } from './contains.ts';
import { betterPlace } from './proposals.ts';

const told = (text: string, more: Partial<Carried> = {}): Carried => ({
	text,
	html: undefined,
	files: [],
	subject: 'RAMP',
	...more
});

describe('a later message carries everything that an earlier one says', () => {
	const earlier = 'Dear Tove,\n\nthe ramp limit is twelve tonnes an axle.\n\nEmre';
	const quoted = '> Dear Tove,\n>\n> the ramp limit is twelve\n> tonnes an axle.\n>\n> Emre';
	it.each<[string, Carried, Carried, string, boolean]>([
		['quoted line by line, wrapped anew', told(earlier), told(`Fine.\n\n${quoted}`), quoted, true],
		['quoted twice over', told(earlier), told(''), quoted.replaceAll('>', '> >'), true],
		['a word is missing', told(earlier), told(''), quoted.replace('twelve', ''), false],
		['a word is changed', told(earlier), told(''), quoted.replace('twelve', 'twenty'), false],
		['a comma is changed', told(earlier), told(''), quoted.replace('Tove,', 'Tove'), false],
		[
			'an answer written into the middle',
			told(earlier),
			told(''),
			quoted.replace('> tonnes', 'Really?\n> tonnes'),
			false
		],
		['the end is cut off', told(earlier), told(''), quoted.replace('\n> Emre', ''), false],
		[
			'what the earlier one quotes is quoted too',
			told(`${earlier}\n> What limit?`),
			told(''),
			`${quoted}\n>> What limit?`,
			true
		],
		['what the earlier one quotes was cut', told(`${earlier}\n> What limit?`), told(''), quoted, false],
		['under another subject', told(earlier), told('', { subject: 'QUAY' }), quoted, false],
		[
			'a file that the later one has too',
			told(earlier, { files: ['a'] }),
			told('', { files: ['b', 'a'] }),
			quoted,
			true
		],
		['a file that it has not', told(earlier, { files: ['a', 'c'] }), told('', { files: ['b', 'a'] }), quoted, false],
		[
			'a link that leads elsewhere',
			told(earlier, { html: '<a href="https://x.example/1">ramp</a>' }),
			told('', { html: '<a href="https://x.example/2">ramp</a>' }),
			quoted,
			false
		],
		[
			'a link that is there',
			told(earlier, { html: "<a href='https://x.example/1'>ramp</a>" }),
			told('', { html: '<a href="https://x.example/1">ramp</a>' }),
			quoted,
			true
		],
		['too few words to mean anything', told('Yes.'), told(''), '> Yes.', false],
		['nothing at all', told(''), told(''), quoted, false]
	])('%s', (_name, first, later, laterQuoted, expected) => {
		expect(carriesAll(first, later, laterQuoted)).toBe(expected);
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
					expect(carriesAll(told(words.join(' ')), told(text), text)).toBe(true);
					const without = words.slice(0, -1);
					expect(carriesAll(told(words.join(' ')), told(''), `> ${without.join(' ')}`)).toBe(false);
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
