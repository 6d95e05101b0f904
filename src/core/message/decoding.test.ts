import { spawnSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decodeTransfer } from './decoding.ts';

const text = (bytes: Uint8Array) => new TextDecoder('latin1').decode(bytes);
const bytes = (encoded: string) => Uint8Array.from(encoded, (character) => character.charCodeAt(0));

describe('quoted-printable (RFC 2045 section 6.7)', () => {
	it.each([
		['hex digits of both cases', 'f=FCr=e9', 'f\u00fcr\u00e9'],
		['soft breaks', 'a=\r\nb=\nc=', 'abc'],
		['soft breaks with blanks behind them', 'a=  \t\r\nb', 'ab'],
		['blanks at the end of a line, however many', 'a   \r\nb \t \nc\t', 'a\r\nb\nc'],
		['an encoded blank at the end of a line', 'a=20\r\nb', 'a \r\nb'],
		['what is no escape', 'a=b =Zz = =4', 'a=b =Zz = =4'],
		['half an escape before a break', '=4\n1', '=4\n1'],
		['bytes that should have been encoded', 'na\u00efve', 'na\u00efve'],
		['nothing', '', '']
	])('reads %s', (_name, encoded, expected) => {
		expect(text(decodeTransfer(bytes(encoded), 'quoted-printable'))).toBe(expected);
	});

	it('reads what Python wrote (quopri)', () => {
		const sample = fc.sample(fc.uint8Array({ maxLength: 400 }), { numRuns: 200, seed: 7 });
		const { stdout } = spawnSync(
			'python3',
			[
				'-c',
				'import sys,json,quopri,base64\nfor line in sys.stdin:\n print(json.dumps(quopri.encodestring(base64.b64decode(line)).decode("latin1")))'
			],
			{ input: sample.map((one) => Buffer.from(one).toString('base64')).join('\n'), encoding: 'utf8' }
		);
		const lines = stdout.trim().split('\n');
		// a bare line feed is a line break to it
		for (const [at, one] of sample.entries())
			expect(Buffer.from(decodeTransfer(bytes(JSON.parse(lines[at] ?? '""') as string), 'quoted-printable'))).toEqual(
				Buffer.from(one)
			);
	});
});

describe('base64 (RFC 2045 section 6.8)', () => {
	it('reads any bytes, in lines of any length', () => {
		fc.assert(
			fc.property(fc.uint8Array({ maxLength: 300 }), fc.integer({ min: 1, max: 90 }), (given, width) => {
				const encoded = Buffer.from(given)
					.toString('base64')
					.replace(new RegExp(`.{${width}}`, 'g'), '$&\r\n');
				expect(Buffer.from(decodeTransfer(bytes(encoded), 'base64'))).toEqual(Buffer.from(given));
			})
		);
	});

	const FOOTER = '_______________________\ncrew mailing list\nTo leave: crew-off@skerryline.example\n';
	it.each([
		['characters outside the alphabet', 'aGVs*bG8\u00ff=', 'hello', 'hello'],
		['padding on every line', 'aGVsbG8=\r\naGVsbG8=\r\n', 'hellohello', 'hellohello'],
		['a single leftover character', 'aGVsbG8=\nQ', 'hello', 'hello'],
		['an unfinished unit', 'aGVsbG', 'hell', 'hell'],
		['what a list appends', `aGVsbG8=\n\n${FOOTER}`, `hello\n${FOOTER}`, 'hello'],
		['what a list appends after two signs', `aGVsbA==\r\n${FOOTER}`, `hell\n${FOOTER}`, 'hell']
	])('reads %s', (_name, encoded, asText, asFile) => {
		expect(text(decodeTransfer(bytes(encoded), 'base64', 'text'))).toBe(asText);
		expect(text(decodeTransfer(bytes(encoded), 'base64'))).toBe(asFile);
	});
});
