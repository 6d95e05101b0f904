import { describe, expect, it } from 'vitest';
import { bytesOf, textOf, crlfBytes } from '../testing/bytes.ts';
import { attachmentContent, attachments, readBody, textOfHtml } from './body.ts';
import { divideText } from './quoted.ts';
import { type Part, scanStructure, walk } from './structure.ts';

const shape = (part: Part): unknown => (part.parts.length > 0 ? [part.type, ...part.parts.map(shape)] : part.type);
const body = (bytes: Uint8Array, part: Part) => textOf(bytes.subarray(part.bodyStart, part.end));

/* RFC 2046 section 5.1.1. */
const SIMPLE = crlfBytes(`From: Nathaniel Borenstein <nsb@bellcore.com>
To: Ned Freed <ned@innosoft.com>
Date: Sun, 21 Mar 1993 23:56:48 -0800 (PST)
Subject: Sample message
MIME-Version: 1.0
Content-type: multipart/mixed; boundary="simple boundary"

This is the preamble.  It is to be ignored, though it
is a handy place for composition agents to include an
explanatory note to non-MIME conformant readers.

--simple boundary

This is implicitly typed plain US-ASCII text.
It does NOT end with a linebreak.
--simple boundary
Content-type: text/plain; charset=us-ascii

This is explicitly typed plain US-ASCII text.
It DOES end with a linebreak.

--simple boundary--

This is the epilogue.  It is also to be ignored.
`);

/* RFC 2046 section 5.1.5, the digest, shortened. */
const DIGEST = crlfBytes(`From: Moderator-Address
To: Recipient-List
Date: Mon, 22 Mar 1994 13:34:51 +0000
Subject: Internet Digest, volume 42
MIME-Version: 1.0
Content-Type: multipart/mixed; boundary="---- main boundary ----"

------ main boundary ----

   ...Introductory text or table of contents...

------ main boundary ----
Content-Type: multipart/digest; boundary="---- next message ----"

------ next message ----

From: someone-else
Date: Fri, 26 Mar 1993 11:13:32 +0200
Subject: my opinion

   ...body goes here ...

------ next message ----

From: someone-else-again
Date: Fri, 26 Mar 1993 10:07:13 -0500
Subject: my different opinion

   ... another body goes here ...

------ next message ------

------ main boundary ------
`);

describe('the examples of RFC 2046', () => {
	it('5.1.1: the line break before a boundary belongs to it', () => {
		const root = scanStructure(SIMPLE);
		expect(shape(root)).toEqual(['multipart/mixed', 'text/plain', 'text/plain']);
		expect(root.parts.map((part) => body(SIMPLE, part))).toEqual([
			'This is implicitly typed plain US-ASCII text.\r\nIt does NOT end with a linebreak.',
			'This is explicitly typed plain US-ASCII text.\r\nIt DOES end with a linebreak.\r\n'
		]);
	});

	it('5.1.5: parts of a digest are messages', () => {
		expect(shape(scanStructure(DIGEST))).toEqual([
			'multipart/mixed',
			'text/plain',
			['multipart/digest', ['message/rfc822', 'text/plain'], ['message/rfc822', 'text/plain']]
		]);
		expect(attachments(scanStructure(DIGEST)).map(({ name }) => name)).toEqual([
			'my opinion.eml',
			'my different opinion.eml'
		]);
	});
});

const multipart = (kind: string, ...parts: string[]) =>
	`Content-Type: multipart/${kind}; boundary=b\n\n${parts.map((part) => `--b\n${part}\n`).join('')}--b--\n`;

describe('broken and hostile structures', () => {
	it.each<[string, string, unknown]>([
		[
			'an unclosed multipart',
			'Content-Type: multipart/mixed; boundary=b\n\n--b\n\none\n--b\n\ntwo',
			['multipart/mixed', 'text/plain', 'text/plain']
		],
		['a multipart without a boundary', 'Content-Type: multipart/mixed\n\n--b\n\none\n--b--', 'multipart/mixed'],
		[
			'a boundary that never comes',
			'Content-Type: multipart/mixed; boundary=c\n\n--b\n\none\n--b--',
			'multipart/mixed'
		],
		[
			'blanks behind a boundary (RFC 2046 5.1.1)',
			'Content-Type: multipart/mixed; boundary=b\n\n--b \t\n\none\n--b-- \n',
			['multipart/mixed', 'text/plain']
		],
		[
			'a boundary that is the beginning of another',
			'Content-Type: multipart/mixed; boundary=b\n\n--bb\nno\n--b\n\none\n--b--',
			['multipart/mixed', 'text/plain']
		],
		['a type that is none', 'Content-Type: nonsense\n\ntext', 'text/plain'],
		['no header at all', '\ntext', 'text/plain'],
		['nothing', '', 'text/plain']
	])('%s', (_name, text, expected) => {
		expect(shape(scanStructure(bytesOf(text)))).toEqual(expected);
	});

	it('bounds nesting', () => {
		let text = 'Content-Type: text/plain\n\ndeep';
		for (let depth = 0; depth < 300; depth++)
			text = `Content-Type: multipart/mixed; boundary=b${depth}\n\n--b${depth}\n${text}\n--b${depth}--\n`;
		expect([...walk(scanStructure(bytesOf(text)))].length).toBeLessThan(60);
	});

	it('bounds the number of parts', () => {
		const text = `Content-Type: multipart/mixed; boundary=b\n\n${'--b\n\nx\n'.repeat(20_000)}--b--`;
		expect([...walk(scanStructure(bytesOf(text)))].length).toBeLessThanOrEqual(2_001);
	});
});

describe('bodies and attachments', () => {
	const read = (text: string) => readBody(crlfBytes(text), scanStructure(crlfBytes(text)));

	it.each<[string, string, string]>([
		[
			'quoted-printable (RFC 2045 6.7)',
			"Content-Transfer-Encoding: quoted-printable\nContent-Type: text/plain; charset=iso-8859-1\n\nNow's the time =\nfor all folk to come=\n to the aid of their caf=E9.",
			"Now's the time for all folk to come to the aid of their café."
		],
		['base64', 'Content-Transfer-Encoding: base64\nContent-Type: text/plain; charset=utf-8\n\nR3LDvMOf\nZQ==', 'Grüße'],
		['base64 with the padding of every line', 'Content-Transfer-Encoding: base64\n\nYQ==\nYg==\n', 'ab'],
		['koi8-r', 'Content-Type: text/plain; charset=koi8-r\n\n\xf0\xd2\xc9\xd7\xc5\xd4', 'Привет'],
		['a charset that nobody knows', 'Content-Type: text/plain; charset=x-unheard-of\n\ncaf\xe9', 'café'],
		[
			'format=flowed (RFC 3676)',
			'Content-Type: text/plain; format=flowed\n\nOne line \nthat goes on.\nAnother.',
			'One line that goes on.\nAnother.'
		],
		[
			'plain text of two alternatives',
			multipart('alternative', 'Content-Type: text/plain\n\nplain', 'Content-Type: text/html\n\n<p>rich</p>'),
			'plain'
		],
		[
			'HTML where there is nothing else',
			'Content-Type: text/html\n\n<style>p{}</style><p>One</p><script>x()</script><p>Two &amp; <a href="https://a.example">three</a></p>',
			'One\n\nTwo & three'
		],
		[
			'HTML behind an empty plain text',
			multipart('alternative', 'Content-Type: text/plain\n\n', 'Content-Type: text/html\n\n<b>rich</b>'),
			'\nrich'
		],
		[
			'texts that follow each other',
			multipart('mixed', 'Content-Type: text/plain\n\none', 'Content-Type: text/plain\n\ntwo'),
			'one\ntwo'
		],
		[
			'not the text of a file',
			multipart('mixed', 'Content-Type: text/plain\n\none', 'Content-Type: text/plain; name=a.txt\n\ntwo'),
			'one'
		]
	])('reads %s', async (_name, text, expected) => {
		expect((await read(text)).text).toBe(expected);
	});

	it('names and decodes attachments', () => {
		const bytes = crlfBytes(
			multipart(
				'mixed',
				'Content-Type: text/plain\n\nsee',
				'Content-Type: application/pdf; name="a.pdf"\nContent-Transfer-Encoding: base64\nContent-Disposition: attachment\n\nJVBERi0x',
				'Content-Type: image/png\nContent-ID: <pic@x>\nContent-Transfer-Encoding: base64\n\niVBORw==',
				'Content-Type: text/html\nContent-Disposition: attachment; filename="../../x.html"\n\n<b>'
			)
		);
		const root = scanStructure(bytes);
		expect(attachments(root).map(({ index, name, inline }) => [index, name, inline])).toEqual([
			[0, 'a.pdf', false],
			[1, 'part 2.png', true],
			[2, 'x.html', false]
		]);
		expect(textOf(attachmentContent(bytes, root, 0) as Uint8Array)).toBe('%PDF-1');
		expect(attachmentContent(bytes, root, 9)).toBeUndefined();
	});

	it('reads HTML that nests a hundred thousand deep', () => {
		expect(textOfHtml('<div>'.repeat(100_000) + 'x').length).toBeLessThan(10);
	});
});

describe('divideText', () => {
	it.each([
		['all own', 'a\nb', 'a\nb', ''],
		['quoted lines (RFC 3676 4.5)', 'yes\n> no?\n>> why?', 'yes', 'no?\nwhy?'],
		[
			'the line of attribution goes with the quote (common practice)',
			'yes\n\nOn Monday Tove wrote:\n> no?',
			'yes\n',
			'On Monday Tove wrote:\nno?'
		],
		['a colon alone is none', 'She wrote:\nnothing', 'She wrote:\nnothing', '']
	])('%s', (_name, text, own, quoted) => {
		expect(divideText(text)).toEqual({ own, quoted });
	});
});
