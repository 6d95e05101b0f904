import { describe, expect, it } from 'vitest';
import { capabilitiesOf, NotSieveError, readAnswer, readChallenge, scriptsOf, sieveString } from './managesieve.ts';

const bytes = (text: string) => new TextEncoder().encode(text.replaceAll('\n', '\r\n'));
const read = (text: string) => readAnswer(bytes(text));

describe('an answer of a ManageSieve server', () => {
	// after the examples of RFC 5804 sections 1.7, 2.1 to 2.9 (from memory)
	it.each([
		['OK\n', { lines: [], status: 'OK', code: '', text: '' }],
		['OK "Logged in."\n', { lines: [], status: 'OK', code: '', text: 'Logged in.' }],
		['BYE "Too many failed attempts"\n', { status: 'BYE', text: 'Too many failed attempts' }],
		['NO (QUOTA/MAXSIZE) "Quota exceeded"\n', { status: 'NO', code: 'QUOTA/MAXSIZE', text: 'Quota exceeded' }],
		['NO (REFERRAL "sieve://other.example") "Try elsewhere"\n', { code: 'REFERRAL sieve://other.example' }],
		['OK (WARNINGS) {12}\nline 8: hm.\n\n', { status: 'OK', code: 'WARNINGS', text: 'line 8: hm.\r' }],
		['no "lower case"\n', { status: 'NO', text: 'lower case' }],
		['"OK"\nOK\n', { lines: [['OK']], status: 'OK' }]
	])('%j', (text, expected) => expect(read(text)).toMatchObject(expected));

	it('lists scripts by any kind of string, with the active one', () => {
		const answer = read(
			'"summer_script"\n"vacation \\"two\\" \\\\ one"\n{13}\nclever"script\n"main_script" ACTIVE\n"Øl"\nOK\n'
		);
		expect(scriptsOf(answer ?? never())).toEqual([
			{ name: 'summer_script', isActive: false },
			{ name: 'vacation "two" \\ one', isActive: false },
			{ name: 'clever"script', isActive: false },
			{ name: 'main_script', isActive: true },
			{ name: 'Øl', isActive: false }
		]);
	});

	it('says what the server can do', () => {
		const answer = read(
			'"IMPLEMENTATION" "Example1"\n"SASL" "PLAIN OAUTHBEARER"\n"SIEVE" "fileinto regex"\n"STARTTLS"\nOK\n'
		);
		expect(Object.fromEntries(capabilitiesOf(answer ?? never()))).toEqual({
			IMPLEMENTATION: 'Example1',
			SASL: 'PLAIN OAUTHBEARER',
			SIEVE: 'fileinto regex',
			STARTTLS: ''
		});
	});

	it('is waited for, wherever it is cut, and ends where the next one begins', () => {
		const whole = bytes('"a" ACTIVE\n{4}\nb\n c\nOK (TAG "x") "done"\n');
		for (let cut = 0; cut < whole.length; cut++) expect(readAnswer(whole.subarray(0, cut))).toBeUndefined();
		expect(readAnswer(new Uint8Array([...whole, ...bytes('NO "next"\n')]))?.length).toBe(whole.length);
	});

	it.each([
		['"eyJzdGF0dXMiOiI0MDEifQ=="\n', 28],
		['{4}\nAQ==\nNO "no"\n', 11],
		['"eyJz', undefined],
		['NO "no"\n', undefined],
		['"name" ACTIVE\n', undefined]
	])('asks before it, where somebody signs in: %j', (text, length) => expect(readChallenge(bytes(text))).toBe(length));

	it.each(['<html>{\n', '"never ends\n', '{x}\n'])('is not %j', (text) =>
		expect(() => read(text)).toThrow(NotSieveError)
	);
});

it.each([
	['', '{0+}\r\n'],
	['keep;\r\n', '{7+}\r\nkeep;\r\n'],
	['Ø', '{2+}\r\nØ']
])('the string %j is sent by its length in bytes', (text, sent) => expect(sieveString(text)).toBe(sent));

function never(): never {
	throw new Error('The answer is not whole');
}
