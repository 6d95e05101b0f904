import { spawnSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import PostalMime from 'postal-mime';
import { decodeTransfer, joinFlowed } from './decoding.ts';

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

describe('format=flowed (RFC 3676)', () => {
	it.each([
		['soft breaks', 'One line \nthat goes on.\nAnother.\n', false, 'One line that goes on.\nAnother.\n'],
		['stuffed blanks (4.4)', ' > no quote\n  indented\n', false, '> no quote\n indented\n'],
		['the line above a signature (4.3)', 'Bye\n-- \nYlva\n', false, 'Bye\n-- \nYlva\n'],
		['blanks that are no part of the text (4.1, DelSp)', 'Kaimauer \nund \nKai\n', true, 'KaimauerundKai\n']
	])('joins %s', (_name, sent, deleteSpace, expected) => {
		expect(joinFlowed(sent, deleteSpace)).toBe(expected);
	});

	// the words of mail that was indexed by the library have to be found again when it is destroyed
	it('joins to the letter as postal-mime does', async () => {
		const line = fc.stringMatching(/^(-- |[-> ]{0,3}|[> ]?\w{1,3} ?|\w \w )$/);
		const sample = fc.sample(fc.tuple(fc.array(line, { maxLength: 9 }), fc.boolean()), { numRuns: 2_000, seed: 11 });
		for (const [lines, deleteSpace] of sample) {
			const sent = lines.join('\n');
			const { text: joined = '' } = await PostalMime.parse(
				`Content-Type: text/plain; charset=utf-8; format=flowed; delsp=${deleteSpace ? 'yes' : 'no'}\r\nContent-Transfer-Encoding: 8bit\r\n\r\n${sent}`
			);
			expect(joinFlowed(sent, deleteSpace), JSON.stringify([sent, deleteSpace])).toBe(joined);
		}
	});
});
