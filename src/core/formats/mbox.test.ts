import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bytesOf, textOf } from '../testing/bytes.ts';
import { detectFormat } from './detect.ts';
import { INDEX_COLUMNS, exportFileName, exportFolder, safeName } from './export-names.ts';
import { MboxSplitter } from './mbox.ts';

function split(bytes: Uint8Array, cuts: number[] = []) {
	const splitter = new MboxSplitter();
	const messages = [];
	let from = 0;
	for (const cut of [...cuts.filter((at) => at < bytes.length).sort((a, b) => a - b), bytes.length]) {
		messages.push(...splitter.push(bytes.subarray(from, cut)));
		from = cut;
	}
	messages.push(...splitter.end());
	return messages.map((message) => ({ ...message, bytes: textOf(message.bytes) }));
}

const FROM = 'From a@b.example Thu Aug 22 12:46:39 2002\n';
const message = (n: number, text = 'text\n') => `From: a@b.example\nSubject: ${n}\n\n${text}`;

describe('mbox (RFC 4155) and its variants in the field', () => {
	it.each<[string, string, string[]]>([
		['two messages', `${FROM}${message(1)}\n${FROM}${message(2)}\n`, [message(1), message(2)]],
		['one message', `${FROM}${message(1)}\n`, [message(1)]],
		['no final newline', `${FROM}${message(1, 'text')}`, [message(1, 'text')]],
		['no blank line behind the last', `${FROM}${message(1)}`, [message(1)]],
		[
			'text that ends in blank lines keeps all but one',
			`${FROM}${message(1, 'text\n\n\n')}\n${FROM}${message(2)}`,
			[message(1, 'text\n\n\n'), message(2)]
		],
		[
			'a sentence that starts with From',
			`${FROM}${message(1, 'a\n\nFrom what I hear, it rains.\n')}\n`,
			[message(1, 'a\n\nFrom what I hear, it rains.\n')]
		],
		['quoted once', `${FROM}${message(1, '>From the start\n')}\n`, [message(1, 'From the start\n')]],
		[
			'quoted at every level',
			`${FROM}${message(1, '>>From a\n>From b\n> From c\n')}\n`,
			[message(1, '>From a\nFrom b\n> From c\n')]
		],
		['no blank line between the messages', `${FROM}${message(1)}${FROM}${message(2)}`, [message(1), message(2)]],
		[
			'CRLF',
			`${FROM}${message(1)}\n${FROM}${message(2)}\n`.replaceAll('\n', '\r\n'),
			[message(1), message(2)].map((m) => m.replaceAll('\n', '\r\n'))
		],
		[
			'CR alone',
			`${FROM}${message(1)}\n${FROM}${message(2)}\n`.replaceAll('\n', '\r'),
			[message(1), message(2)].map((m) => m.replaceAll('\n', '\r'))
		],
		[
			'a dash for sender and date, behind a blank line',
			`From -\n${message(1)}\nFrom - \n${message(2)}\n`,
			[message(1), message(2)]
		],
		[
			'a dash, and no blank line before it: a field of mail follows',
			`From -\n${message(1)}From -\n${message(2)}`,
			[message(1), message(2)]
		],
		[
			'a dash that begins a list is text',
			`${FROM}${message(1, 'The lines:\nFrom -\nTorsay: at nine\n')}\n`,
			[message(1, 'The lines:\nFrom -\nTorsay: at nine\n')]
		],
		[
			'a zone in the date',
			`From a@b Thu Aug 22 12:46:39 +0200 2002\n${message(1)}\nFrom a@b Thu Aug 22 12:46:39 2002 -0700\n${message(2)}`,
			[message(1), message(2)]
		],
		[
			'an address and no date',
			`From a@b.example\n${message(1)}\nFrom c@d.example\n${message(2)}`,
			[message(1), message(2)]
		],
		[
			'a message with an mbox line of its own in front',
			`${FROM}>From x@y.example Thu Aug 22 12:46:39 2002\n${message(1)}`,
			[`From x@y.example Thu Aug 22 12:46:39 2002\n${message(1)}`]
		],
		['nothing', '', []]
	])('%s', (_name, file, expected) => {
		expect(split(bytesOf(file)).map(({ bytes }) => bytes)).toEqual(expected);
	});

	describe('Content-Length (common practice)', () => {
		const inner = `first\n\n${FROM}${message(9)}last\n`;
		const sized = (length: number) => `From: a@b.example\nContent-Length: ${length}\n\n${inner}`;
		it.each<[string, string, number]>([
			['is believed where it ends at a From line', `${FROM}${sized(inner.length)}\n${FROM}${message(2)}`, 2],
			['is believed where it ends at the end of the file', `${FROM}${sized(inner.length)}\n`, 1],
			['is not believed where it lies', `${FROM}${sized(inner.length - 7)}\n${FROM}${message(2)}`, 3],
			['is not believed where it is absurd', `${FROM}${sized(10 ** 15)}\n${FROM}${message(2)}`, 3],
			[
				'is not believed where it goes beyond the file',
				`${FROM}${sized(inner.length + 5_000)}\n${FROM}${message(2)}`,
				3
			]
		])('%s', (_name, file, count) => {
			const found = split(bytesOf(file));
			expect(found.length).toBe(count);
			if (count < 3) expect(found[0]?.bytes).toBe(sized(inner.length));
		});
	});

	it.each<[string, string, string, number]>([
		['in small letters', 'From: a@b.example\ncontent-length: 32\n', '\n', 1],
		['behind a folded field', 'Subject: a\n b\nCONTENT-LENGTH: 32\nX: y\n', '\n', 1],
		['with blanks before the colon', 'Content-Length : 32\n', '\n', 1],
		['with CRLF', 'From: a@b.example\r\nContent-Length: 34\r\n', '\r\n', 1],
		['in the text only', 'From: a@b.example\n\nContent-Length: 32\n', '\n', 2],
		['of another name', 'Content-Length-Of: 32\n', '\n', 2]
	])('looks for a Content-Length in the header alone: %s', (_name, header, eol, count) => {
		// its text contains a line that looks like a separator
		const text = `${eol}${FROM.trimEnd()}${eol}`;
		const file = `${FROM.trimEnd()}${eol}${header}${eol}${text}${eol}`;
		const length = text.length;
		const found = split(bytesOf(file.replace(/: 3[24]/, `: ${length}`)));
		expect(found.length).toBe(count);
	});

	it('hands on what stands before the first message', () => {
		expect(split(bytesOf(`garbage\n\n${FROM}${message(1)}`)).map(({ preamble, bytes }) => [preamble, bytes])).toEqual([
			[true, 'garbage\n'],
			[false, message(1)]
		]);
	});

	it('tells where each message lies and when it came', () => {
		const file = `${FROM}${message(1)}\n${FROM}${message(2)}\n`;
		const found = split(bytesOf(file));
		expect(found.map(({ start, end }) => [start, end])).toEqual([
			[0, file.length / 2],
			[file.length / 2, file.length]
		]);
		expect(found[0]?.envelopeDate).toBe(Date.UTC(2002, 7, 22, 12, 46, 39) / 1000);
		const [, second] = found;
		const resumed = new MboxSplitter(second?.start);
		const rest = [...resumed.push(bytesOf(file).subarray(second?.start)), ...resumed.end()];
		expect(rest.map(({ start, end }) => [start, end])).toEqual([[second?.start, second?.end]]);
	});

	it('finds the same messages wherever the chunks are cut', () => {
		const text = fc.array(
			fc.constantFrom('word\n', '\n', 'From here\n', '>From there\n', FROM, message(7), 'From: x\n', '\r\n', 'no end'),
			{ maxLength: 12 }
		);
		fc.assert(
			fc.property(
				fc.array(text, { minLength: 1, maxLength: 5 }),
				fc.array(fc.nat(1200), { maxLength: 30 }),
				(texts, cuts) => {
					const file = bytesOf(texts.map((lines, n) => `${FROM}${message(n, lines.join(''))}\n`).join(''));
					expect(split(file, cuts)).toEqual(split(file));
				}
			)
		);
	});

	it('gives back what was written, quoted at every level', () => {
		const line = fc.constantFrom('From a', '>From b', '>>From c', 'words', '', ' From d');
		fc.assert(
			fc.property(fc.array(fc.array(line, { maxLength: 8 }), { minLength: 1, maxLength: 5 }), (texts) => {
				const messages = texts.map((lines, n) => message(n, `${lines.join('\n')}\n`));
				const file = messages
					.map(
						(m) =>
							`${FROM}${m.replace(/^(>*From )/gm, (whole) => (whole === 'From ' || whole.startsWith('>') ? `>${whole}` : whole))}\n`
					)
					.join('');
				expect(split(bytesOf(file)).map(({ bytes }) => bytes)).toEqual(messages);
			})
		);
	});
});

describe('detectFormat', () => {
	it.each([
		['mbox', `${FROM}${message(1)}`],
		['eml', message(1)],
		['eml', `Received: from x\n${message(1)}`],
		['eml', 'From what I hear: it rains\nSubject: x\n\n'],
		['unknown', 'From what I hear, it rains.\n'],
		['unknown', '\u0089PNG\r\n\u001a\n'],
		['index', `${INDEX_COLUMNS.join(',')}\r\nCrew/1.eml,Crew\r\n`],
		['unknown', 'file,folder\r\n'],
		['unknown', 'words\n'],
		['eml', `\u00ef\u00bb\u00bf${message(1)}`],
		['mbox', `\u00ef\u00bb\u00bf${FROM}${message(1)}`],
		['eml', `\r\n\n${message(1)}`],
		['unknown', '\n\n'],
		// a stranger's words where a tar file has its magic
		['eml', `Subject: ${'x'.repeat(248)}ustar\n\n`],
		['system', '\u0000\u0005\u0016\u0007\u0000\u0002\u0000\u0000Mac OS X        ']
	])('%s (%#)', (format, head) => {
		expect(detectFormat(bytesOf(head), 'mail')).toBe(format);
	});
});

describe('names of exported files', () => {
	it.each([
		['a/b\\c:d*e?f"g<h>i|j', 'a_b_c_d_e_f_g_h_i_j'],
		['..', '_'],
		['CON', '_CON'],
		['nul.txt', '_nul.txt'],
		['ends in a dot.', 'ends in a dot'],
		['\u202etxt.exe', '_txt.exe'],
		['', '_'],
		// 80 characters, and no more bytes than a file system allows a name
		['x'.repeat(500), 'x'.repeat(80)],
		['🚢'.repeat(100), '🚢'.repeat(55)]
	])('%j', (name, safe) => {
		expect(safeName(name)).toBe(safe);
	});

	it('cannot leave the folder', () => {
		fc.assert(
			fc.property(fc.string({ unit: 'binary' }), (path) =>
				exportFolder(path).every((name) => name !== '' && name !== '.' && name !== '..' && !/[/\\\0]/.test(name))
			)
		);
	});

	it('are unique by the number of the item', () => {
		expect(exportFileName({ id: 7, receivedOn: '2024-03-04', subject: 'Re: a/b' }, 'eml')).toBe(
			'2024-03-04 Re_ a_b (7).eml'
		);
		expect(exportFileName({ id: 8, receivedOn: null, subject: '' }, 'eml')).toBe('undated no subject (8).eml');
	});
});

describe('very long lines', () => {
	const split = (text: string, chunk: number) => {
		const splitter = new MboxSplitter();
		const bytes = bytesOf(text);
		const messages = [];
		for (let at = 0; at < bytes.length; at += chunk) messages.push(...splitter.push(bytes.subarray(at, at + chunk)));
		return [...messages, ...splitter.end()].map(({ bytes, start, end }) => [bytes.length, start, end]);
	};
	const entry = (header: string, body: string) =>
		`From a@b.example Thu Jan  1 00:00:00 1970\n${header}Subject: x\n\n${body}\n\n`;
	const long = 'x'.repeat(3_000_000);

	it.each([
		['in the middle', entry('', long) + entry('', 'words') + entry('', long)],
		['without an end', entry('', 'words') + long],
		[
			'a length that lies far ahead',
			entry('Content-Length: 9000000\n', 'From here\n') + entry('', long) + entry('', 'words')
		]
	])('%s: whatever the chunks', (_name, text) => {
		const whole = split(text, text.length);
		expect(whole.length).toBeGreaterThan(0);
		for (const chunk of [65_536, 999_999]) expect(split(text, chunk)).toEqual(whole);
	});
});
