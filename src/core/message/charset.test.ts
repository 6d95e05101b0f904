import { describe, expect, it } from 'vitest';
import { bytesOf } from '../testing/bytes.ts';
import { decodeEncodedWords, decodeUnnamed } from './charset.ts';
import { decodeCharset } from './decoding.ts';

/* The letters of windows-1252 between 0x80 and 0x9f, as the Encoding standard has them (WHATWG, index-windows-1252). */
const WESTERN: [string, string][] = [
	['\x80', '€'],
	['\x8a', 'Š'],
	['\x91\x92', '‘’'],
	['\x93\x94', '“”'],
	['\x96\x97', '–—'],
	['\x9c', 'œ']
];

describe('windows-1252', () => {
	it.each(WESTERN)('%j is %s: named, as ISO 8859-1, unnamed, and in encoded words', (byte, letter) => {
		for (const charset of ['windows-1252', 'iso-8859-1', 'latin1'])
			expect(decodeCharset(bytesOf(byte), charset)).toBe(letter);
		expect(decodeUnnamed(bytesOf(byte))).toBe(letter);
		expect(decodeEncodedWords(`=?windows-1252?B?${btoa(byte)}?=`)).toBe(letter);
	});

	it('leaves other charsets as they are', () => {
		expect(decodeCharset(bytesOf('\xe2\x82\xac'), 'utf-8')).toBe('€');
		expect(decodeCharset(bytesOf('\x93'), 'koi8-r')).toBe('⌠');
		// a stateful one, and one that is cut off
		expect(decodeCharset(bytesOf('\x1b$B4A\x1b(B'), 'iso-2022-jp')).toBe('漢');
		expect(decodeCharset(bytesOf('a\xe2\x82'), 'utf-8')).toBe('a\ufffd');
		expect(decodeCharset(bytesOf('b'), 'utf-8')).toBe('b');
	});
});
