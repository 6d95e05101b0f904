import { describe, expect, it } from 'vitest';
import { bytesOf } from '../testing/bytes.ts';
import { decodeUnstructured, fieldValue, readHeader } from './header.ts';
import { fileName, readParameters } from './parameters.ts';

describe('encoded words: the table of RFC 2047 section 8', () => {
	it.each([
		['(=?ISO-8859-1?Q?a?=)', '(a)'],
		['(=?ISO-8859-1?Q?a?= b)', '(a b)'],
		['(=?ISO-8859-1?Q?a?= =?ISO-8859-1?Q?b?=)', '(ab)'],
		['(=?ISO-8859-1?Q?a?=  =?ISO-8859-1?Q?b?=)', '(ab)'],
		['(=?ISO-8859-1?Q?a_b?=)', '(a b)'],
		['(=?ISO-8859-1?Q?a?= =?ISO-8859-2?Q?_b?=)', '(a b)'],
		[
			'=?ISO-8859-1?B?SWYgeW91IGNhbiByZWFkIHRoaXMgeW8=?= =?ISO-8859-2?B?dSB1bmRlcnN0YW5kIHRoZSBleGFtcGxlLg==?=',
			'If you can read this you understand the example.'
		],
		['=?US-ASCII?Q?Keith_Moore?= <moore@cs.utk.edu>', 'Keith Moore <moore@cs.utk.edu>'],
		['=?ISO-8859-1?Q?Keld_J=F8rn_Simonsen?= <keld@dkuug.dk>', 'Keld Jørn Simonsen <keld@dkuug.dk>'],
		['=?ISO-8859-1?Q?Patrik_F=E4ltstr=F6m?= <paf@nada.kth.se>', 'Patrik Fältström <paf@nada.kth.se>'],
		// a character split by the writer, as is common practice though section 5 forbids it
		['=?utf-8?B?w6nD?= =?utf-8?B?oA==?=', 'éà'],
		['=?utf-8?Q?unclosed', '=?utf-8?Q?unclosed'],
		['=?x-unheard-of?Q?abc?=', 'abc']
	])('%s', (value, text) => {
		expect(decodeUnstructured(value)).toBe(text);
	});
});

describe('header blocks', () => {
	it.each<[string, string, [string, string][], string]>([
		['folding (RFC 5322 2.2.3)', 'Subject: This\r\n is a test\r\n\r\nbody', [['Subject', 'This is a test']], 'body'],
		['blanks before the colon (RFC 5322 4.5)', 'Subject \t: x\n\nbody', [['Subject', 'x']], 'body'],
		['an empty block', '\nbody', [], 'body'],
		[
			'no body',
			'A: 1\nB: 2',
			[
				['A', '1'],
				['B', '2']
			],
			''
		],
		['a line that is no field ends it', 'A: 1\nthis is text\nB: 2\n', [['A', '1']], 'this is text\nB: 2\n'],
		[
			'a field without a name is passed over',
			'A: 1\n: none\nB: 2\n\nbody',
			[
				['A', '1'],
				['B', '2']
			],
			'body'
		],
		['a lone carriage return inside a value', 'A: 1\r2\n\nbody', [['A', '12']], 'body']
	])('%s', (_name, text, fields, body) => {
		const bytes = bytesOf(text);
		const header = readHeader(bytes);
		expect(header.fields.map(({ name, value }) => [name, value])).toEqual(fields);
		expect(text.slice(header.bodyStart)).toBe(body);
	});

	it('reads a header of a million fields in bounded memory', () => {
		expect(readHeader(bytesOf('A: 1\n'.repeat(200_000))).fields.length).toBeLessThanOrEqual(5_000);
	});
});

/* Letters as Python's codecs write them in each charset, raw in a subject (real, though no standard allows it). */
describe('a subject in raw bytes', () => {
	const field = (bytes: number[], ...before: string[]) =>
		fieldValue(
			readHeader(
				Buffer.concat([
					Buffer.from([...before, 'Subject: '].join('\r\n'), 'latin1'),
					Buffer.from(bytes),
					Buffer.from(
						'\r\n\r\n--b\r\nContent-Type: text/plain;\r\n\tcharset="iso-8859-2"\r\n\r\nWords\r\n--b--\r\n',
						'latin1'
					)
				])
			),
			'subject'
		);
	const koi8 = [0xf0, 0xd2, 0xc9, 0xd7, 0xc5, 0xd4];
	it.each<[string, number[], string[], string]>([
		['in the charset of the message', koi8, ['Content-Type: text/plain; charset=koi8-r'], 'Привет'],
		[
			'in a charset named in quotation marks',
			[0xe1, 0xe2],
			['Content-Type: text/plain; format=flowed;\r\n charset="ISO-8859-7"'],
			'αβ'
		],
		['in the charset of the first part', [0xb1, 0xe6], ['Content-Type: multipart/mixed; boundary=b'], 'ąć'],
		['in UTF-8, whatever is declared', [0xc3, 0xa9], ['Content-Type: text/plain; charset=koi8-r'], 'é'],
		['where UTF-8 is declared, and it is none', [0xe9], ['Content-Type: text/plain; charset=utf-8'], 'é'],
		['in a charset that nobody knows', [0xe9], ['Content-Type: text/plain; charset=unknown-8bit'], 'é']
	])('%s', (_name, bytes, before, expected) => {
		expect(field(bytes, ...before)).toBe(expected);
	});
});

describe('parameters', () => {
	it.each<[string, string, Record<string, string>]>([
		// the two are the same, says the RFC
		['RFC 2045 5.1, a comment', 'text/plain; charset=us-ascii (Plain text)', { charset: 'us-ascii' }],
		['RFC 2045 5.1, quoted', 'text/plain; charset="us-ascii"', { charset: 'us-ascii' }],
		[
			'RFC 2231 3, continuations',
			`message/external-body; access-type=URL; URL*0="ftp://"; URL*1="cs.utk.edu/pub/moore/bulk-mailer/bulk-mailer.tar"`,
			{ 'access-type': 'URL', url: 'ftp://cs.utk.edu/pub/moore/bulk-mailer/bulk-mailer.tar' }
		],
		[
			'RFC 2231 4, charset',
			`application/x-stuff; title*=us-ascii'en-us'This%20is%20%2A%2A%2Afun%2A%2A%2A`,
			{ title: 'This is ***fun***' }
		],
		[
			'RFC 2231 4.1, both',
			`application/x-stuff; title*0*=us-ascii'en'This%20is%20even%20more%20; title*1*=%2A%2A%2Afun%2A%2A%2A%20; title*2="isn't it!"`,
			{ title: `This is even more ***fun*** isn't it!` }
		],
		['comments that nest, with an escape', 'a/b; n=one (a (b) \\) c); (d) m=two', { n: 'one', m: 'two' }],
		['brackets within a quotation', 'a/b; name="report (1).pdf"', { name: 'report (1).pdf' }],
		['brackets within a word that nobody quoted', 'a/b; name=report (1).pdf', { name: 'report (1).pdf' }],
		['a comment that never ends', 'a/b; n=one; m=two (three', { n: 'one', m: 'two (three' }],
		['sections out of order', `a/b; n*1=two; n*0=one`, { n: 'onetwo' }],
		['an unclosed quotation', 'a/b; name="half', { name: 'half' }],
		['twice: the first counts', 'a/b; boundary=one; boundary=two', { boundary: 'one' }],
		['escaped quotation marks', 'a/b; name="a\\"b"', { name: 'a"b' }],
		[
			'a name that is a property of objects',
			'a/b; __proto__=x; constructor=y',
			JSON.parse('{"__proto__":"x","constructor":"y"}') as Record<string, string>
		]
	])('%s', (_name, text, parameters) => {
		expect(Object.keys(readParameters(text).parameters).sort()).toEqual(Object.keys(parameters).sort());
		for (const key of Object.keys(parameters)) expect(readParameters(text).parameters[key]).toBe(parameters[key]);
	});

	it.each([
		['../../etc/passwd', 'passwd'],
		['C:\\windows\\bill.exe', 'bill.exe'],
		['=?utf-8?B?csOpc3Vtw6kucGRm?=', 'résumé.pdf'],
		['.hidden', 'hidden'],
		['a\u0000b\n.txt', 'a b .txt'],
		['invoice\u202efdp.exe', 'invoice fdp.exe'],
		['...', undefined],
		['', undefined],
		[undefined, undefined],
		['x'.repeat(300), 'x'.repeat(200)]
	])('file name %j', (given, safe) => {
		expect(fileName(given)).toBe(safe);
	});
});
