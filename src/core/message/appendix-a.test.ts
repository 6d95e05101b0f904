import { describe, expect, it } from 'vitest';
import { bytesOf } from '../testing/bytes.ts';
import { summarise } from './summary.ts';

/* RFC 5322, appendix A: its examples, whole, with the lines as they stand there. */

const lines = (...all: string[]) => bytesOf(`${all.join('\r\n')}\r\n\r\nThis is a message just to say hello.\r\n`);
const seconds = (iso: string) => Date.parse(iso) / 1000;
const shown = (people: readonly { name: string; address: string }[]) =>
	people.map(({ name, address }) => (name ? `${name} <${address}>` : address));

const EXAMPLES: [string, Uint8Array, Record<string, unknown>][] = [
	[
		'A.1.1: a message from one person to another',
		lines(
			'From: John Doe <jdoe@machine.example>',
			'Sender: Michael Jones <mjones@machine.example>',
			'To: Mary Smith <mary@example.net>',
			'Subject: Saying Hello',
			'Date: Fri, 21 Nov 1997 09:55:06 -0600',
			'Message-ID: <1234@local.machine.example>'
		),
		{
			from: ['John Doe <jdoe@machine.example>'],
			to: ['Mary Smith <mary@example.net>'],
			subject: 'Saying Hello',
			sentAt: seconds('1997-11-21T15:55:06Z'),
			messageId: '<1234@local.machine.example>'
		}
	],
	[
		'A.1.2: different types of mailboxes',
		lines(
			'From: "Joe Q. Public" <john.q.public@example.com>',
			'To: Mary Smith <mary@x.test>, jdoe@example.org, Who? <one@y.test>',
			'Cc: <boss@nil.test>, "Giant; \\"Big\\" Box" <sysservices@example.net>',
			'Date: Tue, 1 Jul 2003 10:52:37 +0200',
			'Message-ID: <5678.21-Nov-1997@example.com>'
		),
		{
			from: ['Joe Q. Public <john.q.public@example.com>'],
			to: ['Mary Smith <mary@x.test>', 'jdoe@example.org', 'Who? <one@y.test>'],
			cc: ['boss@nil.test', 'Giant; "Big" Box <sysservices@example.net>'],
			sentAt: seconds('2003-07-01T08:52:37Z')
		}
	],
	[
		'A.1.3: group addresses',
		lines(
			'From: Pete <pete@silly.example>',
			'To: A Group:Ed Jones <c@a.test>,joe@where.test,John <jdoe@one.test>;',
			'Cc: Undisclosed recipients:;',
			'Date: Thu, 13 Feb 1969 23:32:54 -0330',
			'Message-ID: <testabcd.1234@silly.example>'
		),
		{
			from: ['Pete <pete@silly.example>'],
			to: ['Ed Jones <c@a.test>', 'joe@where.test', 'John <jdoe@one.test>'],
			cc: [],
			sentAt: seconds('1969-02-14T03:02:54Z')
		}
	],
	[
		'A.2: a reply to a reply',
		lines(
			'To: "Mary Smith: Personal Account" <smith@home.example>',
			'From: John Doe <jdoe@machine.example>',
			'Subject: Re: Saying Hello',
			'Date: Fri, 21 Nov 1997 11:00:00 -0600',
			'Message-ID: <abcd.1234@local.machine.test>',
			'In-Reply-To: <3456@example.net>',
			'References: <1234@local.machine.example> <3456@example.net>'
		),
		{
			to: ['Mary Smith: Personal Account <smith@home.example>'],
			subject: 'Re: Saying Hello',
			baseSubject: 'SAYING HELLO',
			isReply: true,
			references: ['<1234@local.machine.example>', '<3456@example.net>'],
			sentAt: seconds('1997-11-21T17:00:00Z')
		}
	],
	[
		'A.3: a resent message keeps its own fields',
		lines(
			'Resent-From: Mary Smith <mary@example.net>',
			'Resent-To: Jane Brown <j-brown@other.example>',
			'Resent-Date: Mon, 24 Nov 1997 14:22:01 -0800',
			'Resent-Message-ID: <78910@example.net>',
			'From: John Doe <jdoe@machine.example>',
			'To: Mary Smith <mary@example.net>',
			'Subject: Saying Hello',
			'Date: Fri, 21 Nov 1997 09:55:06 -0600',
			'Message-ID: <1234@local.machine.example>'
		),
		{
			from: ['John Doe <jdoe@machine.example>'],
			to: ['Mary Smith <mary@example.net>'],
			sentAt: seconds('1997-11-21T15:55:06Z'),
			messageId: '<1234@local.machine.example>'
		}
	],
	[
		'A.4: a message with trace fields',
		lines(
			'Received: from x.y.test',
			'   by example.net',
			'   via TCP',
			'   with ESMTP',
			'   id ABC12345',
			'   for <mary@example.net>;  21 Nov 1997 10:05:43 -0600',
			'Received: from node.example by x.y.test; 21 Nov 1997 10:01:22 -0600',
			'From: John Doe <jdoe@node.example>',
			'To: Mary Smith <mary@example.net>',
			'Subject: Saying Hello',
			'Date: Fri, 21 Nov 1997 09:55:06 -0600',
			'Message-ID: <1234@local.node.example>'
		),
		{ from: ['John Doe <jdoe@node.example>'], receivedAt: seconds('1997-11-21T16:05:43Z') }
	],
	[
		'A.5: white space, comments, and other oddities',
		lines(
			'From: Pete(A nice \\) chap) <pete(his account)@silly.test(his host)>',
			'To:A Group(Some people)',
			"     :Chris Jones <c@(Chris's host.)public.example>,",
			'         joe@example.org,',
			'  John <jdoe@one.test> (my dear friend); (the end of the group)',
			'Cc:(Empty list)(start)Hidden recipients  :(nobody(that I know))  ;',
			'Date: Thu,',
			'      13',
			'        Feb',
			'          1969',
			'      23:32',
			'               -0330 (Newfoundland Time)',
			'Message-ID:              <testabcd.1234@silly.test>'
		),
		{
			from: ['Pete <pete@silly.test>'],
			to: ['Chris Jones <c@public.example>', 'joe@example.org', 'John <jdoe@one.test>'],
			cc: [],
			sentAt: seconds('1969-02-14T03:02:00Z'),
			messageId: '<testabcd.1234@silly.test>'
		}
	],
	[
		'A.6.1: obsolete addressing',
		lines(
			'From: Joe Q. Public <john.q.public@example.com>',
			'To: Mary Smith <@node.test:mary@example.net>, , jdoe@test  . example',
			'Date: Tue, 1 Jul 2003 10:52:37 +0200',
			'Message-ID: <5678.21-Nov-1997@example.com>'
		),
		{
			from: ['Joe Q. Public <john.q.public@example.com>'],
			to: ['Mary Smith <mary@example.net>', 'jdoe@test.example']
		}
	],
	[
		'A.6.2: obsolete dates',
		lines(
			'From: John Doe <jdoe@machine.example>',
			'To: Mary Smith <mary@example.net>',
			'Subject: Saying Hello',
			'Date: 21 Nov 97 09:55:06 GMT',
			'Message-ID: <1234@local.machine.example>'
		),
		{ sentAt: seconds('1997-11-21T09:55:06Z') }
	],
	[
		'A.6.3: obsolete white space and comments',
		lines(
			'From  : John Doe <jdoe@machine(comment).  example>',
			'To    : Mary Smith',
			'  ',
			'          <mary@example.net>',
			'Subject     : Saying Hello',
			'Date  : Fri, 21 Nov 1997 09(comment):   55  :  06 -0600',
			'Message-ID  : <1234   @   local(blah)  .machine .example>'
		),
		{
			from: ['John Doe <jdoe@machine.example>'],
			to: ['Mary Smith <mary@example.net>'],
			subject: 'Saying Hello',
			sentAt: seconds('1997-11-21T15:55:06Z'),
			// as written: other messages refer to it so
			messageId: '<1234   @   local(blah)  .machine .example>'
		}
	]
];

describe('RFC 5322 appendix A', () => {
	it.each(EXAMPLES)('%s', (_name, bytes, expected) => {
		const read = summarise(bytes);
		const said = read && { ...read, from: shown([read.from]), to: shown(read.to), cc: shown(read.cc) };
		expect(said).toMatchObject(expected);
	});
});
