import { describe, expect, it } from 'vitest';
import { bytesOf, crlfBytes } from '../testing/bytes.ts';
import { attachmentKind, kindBit, kindBits } from './kinds.ts';
import { summarise } from './summary.ts';

/* The examples of RFC 5322 appendix A. */
const RFC5322 = [
	{
		section: 'A.1.1',
		message: `From: John Doe <jdoe@machine.example>\nTo: Mary Smith <mary@example.net>\nSubject: Saying Hello\nDate: Fri, 21 Nov 1997 09:55:06 -0600\nMessage-ID: <1234@local.machine.example>\n\nThis is a message just to say hello.\nSo, "Hello".\n`,
		from: { name: 'John Doe', address: 'jdoe@machine.example' },
		to: ['mary@example.net'],
		subject: 'Saying Hello',
		sent: '1997-11-21T15:55:06Z',
		id: '<1234@local.machine.example>'
	},
	{
		section: 'A.1.1, with a sender',
		message: `From: John Doe <jdoe@machine.example>\nSender: Michael Jones <mjones@machine.example>\nTo: Mary Smith <mary@example.net>\nSubject: Saying Hello\nDate: Fri, 21 Nov 1997 09:55:06 -0600\nMessage-ID: <1234@local.machine.example>\n\nText\n`,
		from: { name: 'John Doe', address: 'jdoe@machine.example' },
		to: ['mary@example.net'],
		subject: 'Saying Hello',
		sent: '1997-11-21T15:55:06Z',
		id: '<1234@local.machine.example>'
	},
	{
		section: 'A.1.2',
		message: `From: "Joe Q. Public" <john.q.public@example.com>\nTo: Mary Smith <mary@x.test>, jdoe@example.org, Who? <one@y.test>\nCc: <boss@nil.test>, "Giant; \\"Big\\" Box" <sysservices@example.net>\nDate: Tue, 1 Jul 2003 10:52:37 +0200\nMessage-ID: <5678.21-Nov-1997@example.com>\n\nHi everyone.\n`,
		from: { name: 'Joe Q. Public', address: 'john.q.public@example.com' },
		to: ['mary@x.test', 'jdoe@example.org', 'one@y.test'],
		subject: '',
		sent: '2003-07-01T08:52:37Z',
		id: '<5678.21-Nov-1997@example.com>'
	},
	{
		section: 'A.1.3, groups',
		message: `From: Pete <pete@silly.example>\nTo: A Group:Ed Jones <c@a.test>,joe@where.test,John <jdoe@one.test>;\nCc: Undisclosed recipients:;\nDate: Thu, 13 Feb 1969 23:32:54 -0330\nMessage-ID: <testabcd.1234@silly.example>\n\nTesting.\n`,
		from: { name: 'Pete', address: 'pete@silly.example' },
		to: ['c@a.test', 'joe@where.test', 'jdoe@one.test'],
		subject: '',
		sent: '1969-02-14T03:02:54Z',
		id: '<testabcd.1234@silly.example>'
	},
	{
		section: 'A.5, white space, comments and folding',
		message: `From: Pete(A nice \\) chap) <pete(his account)@silly.test(his host)>\nTo:A Group(Some people)\n     :Chris Jones <c@(Chris's host.)public.example>,\n         joe@example.org,\n  John <jdoe@one.test> (my dear friend); (the end of the group)\nCc:(Empty list)(start)Hidden recipients  :(nobody(that I know))  ;\nDate: Thu,\n      13\n        Feb\n          1969\n      23:32\n               -0330 (Newfoundland Time)\nMessage-ID:              <testabcd.1234@silly.test>\n\nTesting.\n`,
		// comments inside the address are left out of the comparison
		from: undefined,
		to: undefined,
		subject: '',
		sent: '1969-02-14T03:02:00Z',
		id: '<testabcd.1234@silly.test>'
	},
	{
		section: 'A.6.1, obsolete addressing',
		message: `From: Joe Q. Public <john.q.public@example.com>\nTo: Mary Smith <@node.test:mary@example.net>, , jdoe@test  . example\nDate: Tue, 1 Jul 2003 10:52:37 +0200\nMessage-ID: <5678.21-Nov-1997@example.com>\n\nHi everyone.\n`,
		from: { name: 'Joe Q. Public', address: 'john.q.public@example.com' },
		to: undefined,
		subject: '',
		sent: '2003-07-01T08:52:37Z',
		id: '<5678.21-Nov-1997@example.com>'
	},
	{
		section: 'A.6.2, obsolete dates',
		message: `From: John Doe <jdoe@machine.example>\nTo: Mary Smith <mary@example.net>\nSubject: Saying Hello\nDate: 21 Nov 97 09:55:06 GMT\nMessage-ID: <1234@local.machine.example>\n\nText\n`,
		from: { name: 'John Doe', address: 'jdoe@machine.example' },
		to: ['mary@example.net'],
		subject: 'Saying Hello',
		sent: '1997-11-21T09:55:06Z',
		id: '<1234@local.machine.example>'
	},
	{
		section: 'A.6.3, obsolete white space',
		message: `From  : John Doe <jdoe@machine(comment).  example>\nTo    : Mary Smith\n  \n          <mary@example.net>\nSubject     : Saying Hello\nDate  : Fri, 21 Nov 1997 09(comment):   55  :  06 -0600\nMessage-ID  : <1234   @   local(blah)  .machine .example>\n\nText\n`,
		from: undefined,
		to: ['mary@example.net'],
		subject: 'Saying Hello',
		// blanks and comments inside the time are not read: the date is unknown rather than guessed
		sent: undefined,
		id: '<1234   @   local(blah)  .machine .example>'
	}
];

describe('the examples of RFC 5322 appendix A', () => {
	it.each(RFC5322)('$section', async ({ message, from, to, subject, sent, id }) => {
		const summary = await summarise(crlfBytes(message));
		if (from) expect(summary?.from).toEqual(from);
		if (to) expect(summary?.to.map(({ address }) => address)).toEqual(to);
		expect(summary?.subject).toBe(subject);
		expect(summary?.sentAt).toBe(sent === undefined ? undefined : Date.parse(sent) / 1000);
		expect(summary?.messageId).toBe(id);
	});

	it('A.2: a reply refers to what it answers', async () => {
		const summary = await summarise(
			crlfBytes(
				`From: John Doe <jdoe@machine.example>\nTo: "Mary Smith: Personal Account" <smith@home.example>\nSubject: Re: Saying Hello\nDate: Fri, 21 Nov 1997 11:00:00 -0600\nMessage-ID: <abcd.1234@local.machine.test>\nIn-Reply-To: <3456@example.net>\nReferences: <1234@local.machine.example> <3456@example.net>\n\nText\n`
			)
		);
		expect(summary?.references).toEqual(['<1234@local.machine.example>', '<3456@example.net>']);
		expect(summary?.to).toEqual([{ name: 'Mary Smith: Personal Account', address: 'smith@home.example' }]);
	});
});

describe('what cannot be trusted', () => {
	it.each([
		['nothing', ''],
		['text without a header', 'Once upon a time\n\nthere was no header.\n'],
		['a field that mail does not have', 'Colour: red\n\ntext\n'],
		['binary', '\u0000\u0001\u0002\u00ff'.repeat(500)]
	])('%s is no message', async (_name, text) => {
		expect(await summarise(bytesOf(text))).toBeUndefined();
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
	])('%s does not hide the rest', async (_name, text) => {
		const summary = await summarise(bytesOf(text));
		expect(summary?.subject).toBe('x');
		expect(summary?.from.address).toBe('a@b.example');
	});

	it('reads 8-bit bytes without a charset as UTF-8, else as windows-1252', async () => {
		expect((await summarise(bytesOf('From: a@b.example\nSubject: d\xe9j\xe0 vu\n\n\xe9')))?.subject).toBe('déjà vu');
		expect((await summarise(new TextEncoder().encode('From: a@b.example\nSubject: déjà vu\n\né')))?.ownText).toBe('é');
	});

	it('does not take direction marks into a subject, which could turn a file name round', async () => {
		const summary = await summarise(new TextEncoder().encode('From: a@b.example\nSubject: bill\u202efdp.exe\n\n'));
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
	])('%s', async (lines, flags) => {
		expect((await summarise(bytesOf(`From: a@b.example\n${lines}\n\ntext`)))?.flags).toEqual(flags);
	});
});

describe('importance (RFC 4021; X-Priority as common practice)', () => {
	it.each([
		['Importance: high', 1],
		['Priority: non-urgent', -1],
		['X-Priority: 1 (Highest)', 1],
		['X-Priority: 3', 0],
		['X-Other: 1', 0]
	])('%s', async (line, importance) => {
		expect((await summarise(bytesOf(`From: a@b.example\n${line}\n\ntext`)))?.importance).toBe(importance);
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
