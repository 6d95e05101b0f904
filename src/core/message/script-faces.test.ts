import { describe, expect, it } from 'vitest';
import { facesFor, rangesOf } from './script-faces.ts';

const face = (file: string, written: string) => ({ file, written, ranges: rangesOf(written) });
const FACES = [
	face('arabic', 'U+0600-06FF, U+204F'),
	face('han 1', 'U+4E00-4FFF'),
	face('han 2', 'U+5000-9FFF,U+4E00')
];

describe('faces for a text', () => {
	it.each([
		['Latin, Greek and Cyrillic letters', 'Ålesund, Πειραιάς, Мурманск – 5 €', []],
		['one script', 'مرحبا', ['arabic']],
		['several, the first last', '船 and 一 and مرحبا', ['han 2', 'han 1', 'arabic']],
		['a letter of two, from the first', '一', ['han 1']],
		['letters of none', 'ᚠᚢᚦ', []]
	])('%s', (_name, text, files) => {
		expect(facesFor(text, FACES).map(({ file }) => file)).toEqual(files);
	});

	it('looks up no more letters than it has to', () => {
		const all = Array.from({ length: 20_000 }, (_, n) => String.fromCodePoint(0xac00 + (n % 11_000))).join('');
		expect(facesFor(`${all}一`, FACES)).toEqual([]);
		expect(facesFor(`${'글'.repeat(200_000)}一`, FACES)).toEqual([]);
	});

	// CSS Fonts Module Level 4, section 4.5: a code point, and a range
	it('reads ranges', () =>
		expect(rangesOf('U+26, U+0025-00FF')).toEqual([
			[0x26, 0x26],
			[0x25, 0xff]
		]));
});
