import { describe, expect, it } from 'vitest';
import { bytesOf } from '../testing/bytes.ts';
import { attachmentKind, kindBit, kindBits } from './kinds.ts';
import { summarise } from './summary.ts';

describe('what cannot be trusted', () => {
	it.each([
		['nothing', ''],
		['text without a header', 'Once upon a time\n\nthere was no header.\n'],
		['a field that mail does not have', 'Colour: red\n\ntext\n'],
		['binary', '\u0000\u0001\u0002\u00ff'.repeat(500)]
	])('%s is no message', (_name, text) => {
		expect(summarise(bytesOf(text))).toBeUndefined();
	});

	it.each([
		['no final newline', 'From: a@b.example\nSubject: x'],
		['an mbox line in front', 'From a@b.example Thu Aug 22 12:46:39 2002\nFrom: a@b.example\nSubject: x\n\ntext'],
		[
			'an mbox line among the fields',
			'Replied: yes\nFrom a@b.example Thu Aug 22 12:46:39 2002\nFrom: a@b.example\nSubject: x\n\ntext'
		],
		['lines that end in CR', 'From: a@b.example\rSubject: x\r\rtext\r'],
		['NUL in the text', 'From: a@b.example\nSubject: x\n\nte\u0000xt'],
		['a thousand brackets', `From: a@b.example\nSubject: x\nReferences: ${'<'.repeat(1000)}\n\ntext`],
		['control characters in the subject', 'From: a@b.example\nSubject: \u0007x\u001b\n\ntext']
	])('%s does not hide the rest', (_name, text) => {
		const summary = summarise(bytesOf(text));
		expect(summary?.subject).toBe('x');
		expect(summary?.from.address).toBe('a@b.example');
	});

	it('reads 8-bit bytes without a charset as UTF-8, else as windows-1252', () => {
		expect(summarise(bytesOf('From: a@b.example\nSubject: d\xe9j\xe0 vu\n\n\xe9'))?.subject).toBe('déjà vu');
		expect(summarise(new TextEncoder().encode('From: a@b.example\nSubject: déjà vu\n\né'))?.ownText).toBe('é');
	});

	it('does not take direction marks into a subject, which could turn a file name round', () => {
		const summary = summarise(new TextEncoder().encode('From: a@b.example\nSubject: bill\u202efdp.exe\n\n'));
		expect(summary?.subject).toBe('bill fdp.exe');
	});
});

describe('flags of an mbox file (common practice)', () => {
	it.each([
		['Status: RO', { seen: true, answered: false, flagged: false, draft: false }],
		['Status: O', { seen: false, answered: false, flagged: false, draft: false }],
		['Status: RO\nX-Status: AF', { seen: true, answered: true, flagged: true, draft: false }],
		['Status: Delivered', { seen: undefined, answered: false, flagged: false, draft: false }],
		['X-Other: 1', { seen: undefined, answered: false, flagged: false, draft: false }]
	])('%s', (lines, flags) => {
		expect(summarise(bytesOf(`From: a@b.example\n${lines}\n\ntext`))?.flags).toEqual(flags);
	});
});

describe('importance (RFC 4021; X-Priority as common practice)', () => {
	it.each([
		['Importance: high', 1],
		['Priority: non-urgent', -1],
		['X-Priority: 1 (Highest)', 1],
		['X-Priority: 3', 0],
		['X-Other: 1', 0]
	])('%s', (line, importance) => {
		expect(summarise(bytesOf(`From: a@b.example\n${line}\n\ntext`))?.importance).toBe(importance);
	});
});

describe('kinds of attachment', () => {
	it.each([
		[{ type: 'image/png', name: 'x' }, 'image'],
		[{ type: 'application/octet-stream', name: 'scan.PDF' }, 'pdf'],
		[{ type: 'text/csv', name: 'roster.csv' }, 'sheet'],
		[{ type: 'text/html', name: 'x.html' }, 'document'],
		[{ type: 'message/rfc822', name: 'x.eml' }, 'message'],
		[{ type: 'application/octet-stream', name: 'x' }, 'other']
	])('%j', (file, kind) => {
		expect(attachmentKind(file)).toBe(kind);
		expect(kindBits([file]) & kindBit(attachmentKind(file))).not.toBe(0);
	});
});
