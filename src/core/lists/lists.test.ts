import { describe, expect, it } from 'vitest';
import { readHeader } from '../message/header.ts';
import type { MailKind } from '../message/mail-kind.ts';
import { crlfBytes } from '../testing/bytes.ts';
import { isToMany, listIdentity } from './identity.ts';
import { mailRequest } from './mail-request.ts';
import { readMailto } from './mailto.ts';
import { OFFER_WORDS } from './offer-words.ts';
import { findOffer, lastAnchors } from './offers.ts';
import { judge, readMark, type SenderMark } from './senders.ts';
import { type Attempt, standingOf } from './standing.ts';
import { oneClick, readListAddresses, readWays, wayBit, waysOf } from './ways.ts';

const header = (...lines: string[]) => readHeader(crlfBytes(`${lines.join('\n')}\n\n`));

describe('fields of RFC 2369', () => {
	// examples of RFC 2369 sections 3.1 to 3.4, and its rules of section 2
	it.each([
		['<mailto:list@host.com?subject=help> (List Instructions)', ['mailto:list@host.com?subject=help']],
		[
			'(Use this command to get off the list) <mailto:list-manager@host.com?body=unsubscribe%20list>',
			['mailto:list-manager@host.com?body=unsubscribe%20list']
		],
		['<mailto:list-off@host.com>', ['mailto:list-off@host.com']],
		[
			'<http://www.host.com/list.cgi?cmd=unsub&lst=list>, <mailto:list-request@host.com?subject=unsubscribe>',
			['http://www.host.com/list.cgi?cmd=unsub&lst=list', 'mailto:list-request@host.com?subject=unsubscribe']
		],
		['<mailto:moderator@host.com> (Postings are Moderated)', ['mailto:moderator@host.com']],
		['NO (posting not allowed on this list)', []],
		[
			'<ftp://ftp.host.com/list.txt> (FTP), <mailto:list@host.com?subject=help>',
			['ftp://ftp.host.com/list.txt', 'mailto:list@host.com?subject=help']
		],
		// white space added in transport is removed
		['<https://x.example/a very\t long/address>', ['https://x.example/avery' + 'long/address']],
		// everything after an item that is no address is ignored
		['<mailto:a@x.example>, b@x.example, <mailto:c@x.example>', ['mailto:a@x.example']],
		['<mailto:a@x.example> and <mailto:c@x.example>', ['mailto:a@x.example']],
		['', []]
	])('%s', (field, expected) => {
		expect(readListAddresses(field)).toEqual(expected);
	});

	it.each([
		// RFC 6068 section 6.1
		['mailto:chris@example.com', { to: 'chris@example.com', subject: '', body: '' }],
		[
			'mailto:infobot@example.com?subject=current-issue',
			{ to: 'infobot@example.com', subject: 'current-issue', body: '' }
		],
		[
			'mailto:infobot@example.com?body=send%20current-issue',
			{ to: 'infobot@example.com', subject: '', body: 'send current-issue' }
		],
		[
			'mailto:infobot@example.com?body=send%20current-issue%0D%0Asend%20index',
			{ to: 'infobot@example.com', subject: '', body: 'send current-issue\nsend index' }
		],
		['mailto:?to=addr1@an.example,addr2@an.example', undefined],
		['mailto:addr1@an.example,addr2@an.example', { to: 'addr1@an.example', subject: '', body: '' }],
		['mailto:gorby%25kremvax@example.com', { to: 'gorby%kremvax@example.com', subject: '', body: '' }],
		// nothing but subject and body, and a subject of one line
		[
			'mailto:a@x.example?bcc=b@x.example&subject=a%0D%0ABcc:%20c@x.example',
			{ to: 'a@x.example', subject: 'a Bcc: c@x.example', body: '' }
		],
		['mailto:a@x.example?subject=1+1', { to: 'a@x.example', subject: '1+1', body: '' }],
		['mailto:a%0D%0AX:y@x.example', undefined],
		['mailto:nobody', undefined],
		['https://x.example', undefined]
	])('%s', (uri, expected) => {
		expect(readMailto(uri)).toEqual(expected);
	});
});

const SIGNED =
	'DKIM-Signature: v=1; a=rsa-sha256; c=relaxed/relaxed; d=example.com; s=a; h=from:to:subject:\n\tlist-unsubscribe:List-Unsubscribe-Post; bh=abc=; b=def==';
const POST = 'List-Unsubscribe-Post: List-Unsubscribe=One-Click';
const HTTPS = 'List-Unsubscribe: <https://example.com/unsubscribe/opaquepart>';

describe('one-click requests (RFC 8058)', () => {
	it.each([
		// section 8.1 and 8.2
		['simple', [HTTPS, POST, SIGNED], 'https://example.com/unsubscribe/opaquepart'],
		[
			'with a mail address too',
			[
				'List-Unsubscribe: <mailto:listrequest@example.com?subject=unsubscribe>,\n <https://example.com/unsubscribe.html?opaque=123456789>',
				POST,
				SIGNED
			],
			'https://example.com/unsubscribe.html?opaque=123456789'
		],
		[
			'passed where it was received',
			[HTTPS, POST, SIGNED, 'Authentication-Results: mx.x.example; dkim=pass header.d=example.com'],
			'https://example.com/unsubscribe/opaquepart'
		]
	])('%s', (_name, lines, url) => {
		expect(oneClick(header(...lines))).toEqual({ url });
	});

	it.each([
		['no second field', [HTTPS, SIGNED], 'does not offer it'],
		['another value', [HTTPS, 'List-Unsubscribe-Post: List-Unsubscribe=Yes', SIGNED], 'not as RFC 8058'],
		['two of them', [HTTPS, POST, POST, SIGNED], 'not as RFC 8058'],
		['not https', ['List-Unsubscribe: <http://example.com/u>', POST, SIGNED], 'not https'],
		['mail only', ['List-Unsubscribe: <mailto:u@example.com>', POST, SIGNED], 'not https'],
		['a name and password', ['List-Unsubscribe: <https://a:b@example.com/u>', POST, SIGNED], 'not https'],
		['two fields', [HTTPS, HTTPS, POST, SIGNED], 'not one'],
		['no signature', [HTTPS, POST], 'no signature'],
		['a signature of other fields', [HTTPS, POST, SIGNED.replace('list-unsubscribe:', '')], 'no signature'],
		['a signature without its value', [HTTPS, POST, SIGNED.replace('b=def==', '')], 'no signature'],
		[
			'a signature that failed',
			[HTTPS, POST, SIGNED, 'Authentication-Results: mx.x.example; dkim=fail'],
			'did not hold'
		]
	])('not offered: %s', (_name, lines, why) => {
		expect(oneClick(header(...lines))).toEqual({ why: expect.stringContaining(why) as string });
	});

	it('come first, then mail, then links', () => {
		const ways = readWays(
			header('List-Unsubscribe: <mailto:a@example.com?subject=out>, <https://example.com/u>', POST, SIGNED),
			{ sentence: 'To leave: x', target: 'https://example.com/f' }
		);
		expect(ways.map(({ kind }) => kind)).toEqual(['one-click', 'mail', 'link', 'footer']);
		expect(ways[1]).toEqual({ kind: 'mail', to: 'a@example.com', subject: 'out', body: '' });
		expect(waysOf(ways.reduce((bits, { kind }) => bits | wayBit(kind), 0))).toEqual(ways.map(({ kind }) => kind));
		expect(readWays(header('List-Unsubscribe: <javascript:alert(1)>, <ftp://x.example/a>'), undefined)).toEqual([]);
	});
});

describe('which list a message is from', () => {
	const from = (name: string, address: string) => ({ name, address });
	type Case = [string, string[], { name: string; address: string }, MailKind, string, string, string];
	it.each<Case>([
		// examples of RFC 2919 section 3
		[
			'a name',
			['List-Id: List Header Mailing List <list-header.nisto.com>'],
			from('', 'a@b.example'),
			'list',
			'list-header.nisto.com',
			'List Header Mailing List',
			'nisto.com'
		],
		[
			'none',
			['List-Id: <commonspace-users.list-id.within.com>'],
			from('', 'a@b.example'),
			'list',
			'commonspace-users.list-id.within.com',
			'',
			'within.com'
		],
		[
			'quoted',
			['List-Id: "Lena\'s Personal Joke List"\n\t<lenas-jokes.da39efc25c530ad145d41b86f7420c3b.021999.localhost>'],
			from('', 'a@b.example'),
			'list',
			'lenas-jokes.da39efc25c530ad145d41b86f7420c3b.021999.localhost',
			"Lena's Personal Joke List",
			'b.example'
		],
		[
			'its own',
			['List-Id: "An internal CMU List" <0Jks9449.list-id.cmu.edu>'],
			from('', 'a@b.example'),
			'list',
			'0jks9449.list-id.cmu.edu',
			'An internal CMU List',
			'cmu.edu'
		],
		// one-way mail belongs to its sender, whoever carries it
		[
			'carried by another',
			['List-Id: <77.carrier.example>'],
			from('Deals', 'd@mail.deals.example'),
			'advertisement',
			'77.carrier.example',
			'',
			'deals.example'
		],
		[
			'posted to',
			['List-Post: <mailto:crew-talk@lists.seafarers.example>'],
			from('Emre', 'e@x.example'),
			'list',
			'crew-talk.lists.seafarers.example',
			'',
			'seafarers.example'
		],
		...(
			[
				[
					'Mailing-List: list zoo-news@groups.example; contact\n    zoo-owner@groups.example',
					'zoo-news.groups.example'
				],
				['Mailing-List: contact sec-help@lists.example; run by ezmlm', 'sec.lists.example'],
				['X-Mailing-List: <deck@lists.example> archive/latest/532', 'deck.lists.example'],
				['X-BeenThere: deck@lists.example', 'deck.lists.example'],
				['Delivered-To: mailing list deck@lists.example', 'deck.lists.example'],
				['List-Help: <mailto:deck-request@lists.example?subject=help>', 'deck.lists.example'],
				['Precedence: list\nSender: owner-deck@lists.example', 'deck.lists.example'],
				['Precedence: list\nErrors-To: deck-admin@lists.example', 'deck.lists.example'],
				['Precedence: list\nReturn-Path: <deck-bounces+emre=x.example@lists.example>', 'deck.lists.example']
			] as const
		).map(([line, identifier]): Case => [
			line,
			line.split(/\n(?! )/),
			from('Emre', 'e@x.example'),
			'list',
			identifier,
			'',
			identifier.includes('groups') ? 'groups.example' : 'lists.example'
		]),
		// a newsletter is its sender's, whoever carries it
		[
			'unsubscribing by mail',
			['List-Unsubscribe: <mailto:u-unsubscribe@carrier.example>'],
			from('Deals', 'd@deals.example'),
			'advertisement',
			'deals <deals.example>',
			'Deals',
			'deals.example'
		],
		[
			'by its name',
			['Precedence: bulk'],
			from('Harbour Times #12', 'news-12@mail.harbourtimes.example'),
			'advertisement',
			'harbour times <harbourtimes.example>',
			'Harbour Times #12',
			'harbourtimes.example'
		],
		[
			'from another address',
			['Precedence: bulk'],
			from('Harbour Times 13', 'n@eu.harbourtimes.example'),
			'advertisement',
			'harbour times <harbourtimes.example>',
			'Harbour Times 13',
			'harbourtimes.example'
		],
		[
			'without a name',
			['Precedence: bulk'],
			from('', 'news-12@harbourtimes.example'),
			'advertisement',
			'news <harbourtimes.example>',
			'news-12@harbourtimes.example',
			'harbourtimes.example'
		],
		// Public Suffix List: co.uk is no organisation
		[
			'below a public suffix',
			['Precedence: bulk'],
			from('X', 'x@mail.x.co.uk'),
			'advertisement',
			'x <x.co.uk>',
			'X',
			'x.co.uk'
		]
	])('%s', (_name, lines, sender, kind, identifier, name, organisation) => {
		expect(listIdentity(header(...lines), sender, kind)).toEqual({ identifier, name, organisation });
	});

	it.each([
		['Precedence: bulk', true],
		['Precedence: list', true],
		['Precedence: first-class', false],
		['List-Help: <mailto:x@y.example>', true],
		['X-Mailing-List: <a@b.example>', true],
		['Subject: List-Id: no', false],
		// an automatic answer, with the field that RFC 3834 section 3.1.8 allows it
		['Auto-Submitted: auto-replied\nPrecedence: bulk', false],
		['Auto-Submitted: auto-replied (vacation)\nPrecedence: junk', false],
		['Auto-Submitted: auto-generated\nPrecedence: bulk', true],
		['Auto-Submitted: auto-replied\nList-Id: <a.example>', true]
	])('%s: to many: %s', (lines, expected) => {
		expect(isToMany(header(...lines.split('\n')))).toBe(expected);
	});
});

describe('footers', () => {
	it.each([
		[
			'<p>Words.</p><p>To leave this list, click <a href="https://x.example/l?a=1&amp;b=2">here</a>.</p>',
			'https://x.example/l?a=1&b=2'
		],
		["<a href=https://x.example/shop>Shop</a> | <a href='https://x.example/u'>Abmelden</a>", 'https://x.example/u'],
		['<a style="color: red" href="https://x.example/d">Se d&eacute;sinscrire</a>', 'https://x.example/d'],
		['<a href="https://x.example/b">Darse de baja</a>', 'https://x.example/b'],
		['<a href="javascript:u()">Unsubscribe</a>', undefined],
		['<a href="https://x.example/shop">Shop</a> Our ramp was removed.', undefined],
		['', undefined]
	])('%s', (html, target) => {
		expect(findOffer('', html)?.target).toBe(target);
	});

	it.each(Object.entries(OFFER_WORDS))(
		'finds every phrase of leaving (%s), in whatever letters it stands',
		(_of, { leave }) => {
			const forms = (phrase: string) => [
				phrase,
				phrase.toUpperCase(),
				phrase.replace(' ', '\n'),
				phrase.replace('e', 'é'),
				`„${phrase}“`
			];
			const missed = leave
				.flatMap(forms)
				.filter(
					(phrase) =>
						findOffer(`Tide tables, 今日は.\n${phrase}: https://x.example/u`, undefined)?.target !==
						'https://x.example/u'
				);
			expect(missed).toEqual([]);
			for (const phrase of leave) expect(findOffer(`x${phrase}x https://x.example/u`, undefined)).toBeUndefined();
		}
	);

	it('are looked for at the end only, and in little time in what is hostile', () => {
		expect(
			findOffer(`Unsubscribe: https://x.example/u\n\n${'Word after word goes on.\n'.repeat(60)}`, undefined)
		).toBeUndefined();
		expect(lastAnchors(`<a href="${'a '.repeat(2_000_000)}`)).toEqual([]);
		expect(lastAnchors('<a '.repeat(400_000))).toEqual([]);
		expect(findOffer('unsubscribe '.repeat(200_000), '<a href="'.repeat(200_000))).toBeUndefined();
	});
});

describe('who wins', () => {
	const mark = (verdict: SenderMark['verdict'], kind: SenderMark['kind'], value: string): SenderMark => ({
		verdict,
		kind,
		value
	});
	const message = { from: 'News@mail.harbourtimes.example', list: 'weekly.harbourtimes.example' };
	it.each<[string, SenderMark[], string, string]>([
		['nobody', [], 'none', 'Nobody has trusted or blocked'],
		[
			'address over list',
			[
				mark('block', 'list', 'weekly.harbourtimes.example'),
				mark('trust', 'address', 'news@mail.harbourtimes.example')
			],
			'trust',
			'narrower than the list weekly'
		],
		[
			'list over domain',
			[mark('trust', 'domain', 'harbourtimes.example'), mark('block', 'list', 'weekly.harbourtimes.example')],
			'block',
			'the list weekly'
		],
		[
			'the longer domain',
			[mark('block', 'domain', 'harbourtimes.example'), mark('trust', 'domain', 'mail.harbourtimes.example')],
			'trust',
			'mail.harbourtimes.example'
		],
		[
			'domain over top-level domain',
			[mark('block', 'tld', 'example'), mark('trust', 'domain', 'harbourtimes.example')],
			'trust',
			'all addresses under .example'
		],
		['top-level domain', [mark('block', 'tld', 'example')], 'block', 'under .example'],
		[
			'of two alike, what keeps more',
			[mark('block', 'domain', 'harbourtimes.example'), mark('trust', 'domain', 'harbourtimes.example')],
			'trust',
			'harbourtimes'
		],
		[
			'no part of a name',
			[
				mark('block', 'domain', 'times.example'),
				mark('block', 'tld', 'ple'),
				mark('block', 'address', 'news@harbourtimes.example')
			],
			'none',
			'Nobody'
		]
	])('%s', (_name, marks, verdict, words) => {
		const judged = judge(message, marks);
		expect(judged.verdict).toBe(verdict);
		expect(judged.sentence).toContain(words);
		expect(judge(message, marks.toReversed())).toEqual(judged);
	});

	it.each([
		['News@X.example', { kind: 'address', value: 'news@x.example' }],
		['x.example', { kind: 'domain', value: 'x.example' }],
		['@x.example', { kind: 'domain', value: 'x.example' }],
		['.top', { kind: 'tld', value: 'top' }],
		['two words', undefined],
		['', undefined]
	])('%s', (text, expected) => {
		expect(readMark(text)).toEqual(expected);
	});
});

describe('where a list stands', () => {
	const asked: Attempt = { state: 'asked', way: 'mail', on: '2026-11-01', answer: '' };
	it.each<[Attempt | undefined, string | undefined, string, string]>([
		[undefined, '2026-11-01', '2026-11-02', 'subscribed'],
		[asked, '2026-10-30', '2026-11-02', 'asked'],
		// mail of the ten days of grace, the last included, is fine
		[asked, '2026-11-11', '2026-11-11', 'asked'],
		[asked, '2026-11-11', '2026-11-12', 'silent'],
		[asked, '2026-11-12', '2026-11-12', 'still-writing'],
		[{ ...asked, state: 'confirmed' }, '2026-11-12', '2026-11-20', 'still-writing'],
		[{ ...asked, state: 'confirmed' }, undefined, '2026-11-03', 'confirmed'],
		[{ ...asked, state: 'failed' }, '2026-11-20', '2026-11-20', 'failed'],
		[{ ...asked, state: 'unknown' }, '2026-11-20', '2026-11-20', 'unknown']
	])('%j, newest %s, today %s: %s', (attempt, newest, today, expected) => {
		expect(standingOf(attempt, newest, today, 10)).toBe(expected);
	});
});

describe('the mail by which a list is asked to stop (invariant 19)', () => {
	const office = new Set(['skerryline.example', 'torsay.example']);
	const ask = (to: string, subject = '', body = '', sender = 'news@tides.example') =>
		mailRequest({ to, subject, body }, { sender, organisation: 'lists.example', office });
	it.each([
		['leave@tides.example', 'leave', '', { to: 'leave@tides.example', subject: 'leave', text: '' }],
		['leave+x=1_2@mail.tides.example', '', 'off', { to: 'leave+x=1_2@mail.tides.example', subject: '', text: 'off' }],
		['list-off@lists.example', '', '', { to: 'list-off@lists.example', subject: 'unsubscribe', text: 'unsubscribe' }],
		// everybody else gets the plain word, regardless of the message
		[
			'claims@harbour.example',
			'You are sacked',
			'Yours',
			{ to: 'claims@harbour.example', subject: 'unsubscribe', text: 'unsubscribe' }
		],
		['x@tides.example', 'a'.repeat(78), '', { to: 'x@tides.example', subject: 'a'.repeat(78), text: '' }]
	])('%s, subject %j, text %j is %j', (to, subject, body, expected) => {
		expect(ask(to, subject, body)).toEqual(expected);
	});

	it.each([
		['maren@skerryline.example', '', '', /one of the office/],
		['maren@mail.SKERRYLINE.example', '', '', /one of the office/],
		['jonas@torsay.example', '', '', /one of the office/],
		['leave@localhost', '', '', /plain one of the public network/],
		['leave@mailhost', '', '', /plain one/],
		['leave@mailhost.local', '', '', /private network/],
		['leave@printer.lan', '', '', /private network/],
		['leave@127.0.0.1', '', '', /plain one/],
		['leave@[127.0.0.1]', '', '', /plain one/],
		['leave@2130706433', '', '', /plain one/],
		['leave@1.2.3.04', '', '', /plain one/],
		['maren%skerryline.example@tides.example', '', '', /plain one/],
		['skerryline.example!maren@tides.example', '', '', /plain one/],
		['"maren@skerryline.example"@tides.example', '', '', /plain one/],
		['a..b@tides.example', '', '', /plain one/],
		['.a@tides.example', '', '', /plain one/],
		[`${'a'.repeat(65)}@tides.example`, '', '', /plain one/],
		['mäx@tides.example', '', '', /plain one/],
		['x@tides.example', 'a'.repeat(79), '', /more written than one short line/],
		['x@tides.example', '', 'one\ntwo', /more written/],
		['x@tides.example', 'one\u2028two', '', /more written/],
		['x@tides.example', '\u202Eleave', '', /more written/]
	])('%s, subject %j, text %j is left to a person', (to, subject, body, why) => {
		expect(ask(to, subject, body)).toEqual({ why: expect.stringMatching(why) as string });
	});
});
