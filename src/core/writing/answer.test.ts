import { describe, expect, it } from 'vitest';
import { beginWriting, type Original, type WritingKind } from './answer.ts';
import { readRecipients, showRecipients, wrongMail } from './outgoing.ts';

const who = (address: string, name = '') => ({ name, address });
const OWN = ['office@skerryline.example', 'harbour@skerryline.example'];
const original = (more: Partial<Original> = {}): Original => ({
	messageId: '<2@quay.example>',
	references: ['<1@quay.example>'],
	subject: 'Crates',
	from: [who('nora@quay.example', 'Nora Vik')],
	replyTo: [],
	to: [who('harbour@skerryline.example'), who('emre@quay.example', 'Emre')],
	cc: [who('office@skerryline.example'), who('tove@skerryline.example')],
	sent: '4 Mar 2026',
	text: 'Where are they?\n> On the quay.',
	...more
});
const begin = (kind: WritingKind, more: Partial<Original> = {}, signature = '') =>
	beginWriting(kind, original(more), OWN, signature);
const addresses = (of: { address: string }[]) => of.map(({ address }) => address);

describe('an answer (RFC 5322 section 3.6)', () => {
	it.each<[string, WritingKind, Partial<Original>, string[], string[]]>([
		['to its sender', 'reply', {}, ['nora@quay.example'], []],
		[
			'to where answers are wanted (3.6.2)',
			'reply',
			{ replyTo: [who('desk@quay.example')] },
			['desk@quay.example'],
			[]
		],
		[
			'to everybody but the mailbox itself',
			'reply-all',
			{},
			['nora@quay.example', 'emre@quay.example'],
			['tove@skerryline.example']
		],
		[
			'to nobody twice',
			'reply-all',
			{ cc: [who('nora@quay.example'), who('emre@quay.example')] },
			['nora@quay.example', 'emre@quay.example'],
			[]
		],
		[
			'on own mail, to whom that went',
			'reply',
			{ from: [who('office@skerryline.example')] },
			['emre@quay.example'],
			[]
		],
		['of somebody without an address, to nobody', 'reply', { from: [who('', 'Nora')] }, [], []]
	])('goes %s', (_name, kind, more, to, cc) => {
		const begun = begin(kind, more);
		expect([addresses(begun.to), addresses(begun.cc)]).toEqual([to, cc]);
	});

	it.each<[string, Partial<Original>, string, string[]]>([
		['names the message and what that refers to', {}, '<2@quay.example>', ['<1@quay.example>', '<2@quay.example>']],
		['of a message without an identifier refers to what that refers to', { messageId: '' }, '', ['<1@quay.example>']],
		[
			'leaves out an identifier that would end a line',
			{ messageId: '<a\nBcc: all@b.example>' },
			'',
			['<1@quay.example>']
		],
		['leaves out one that is too long for a header', { messageId: `<${'a'.repeat(1000)}@b>` }, '', ['<1@quay.example>']]
	])('%s (3.6.4)', (_name, more, inReplyTo, references) => {
		expect(begin('reply', more)).toMatchObject({ inReplyTo, references });
	});

	it('keeps the first and the last twenty of many references', () => {
		const { references } = begin('reply', { references: Array.from({ length: 200 }, (_, n) => `<${n}@x>`) });
		expect(references).toHaveLength(21);
		expect([references[0], references[1], references.at(-1)]).toEqual(['<0@x>', '<181@x>', '<2@quay.example>']);
	});

	it.each([
		['Crates', 'reply', 'Re: Crates'],
		['RE: Crates', 'reply', 'RE: Crates'],
		['Crates', 'forward', 'Fwd: Crates'],
		['Fwd: Crates', 'forward', 'Fwd: Crates'],
		['', 'reply', 'Re:']
	] as const)('to "%s" as a %s has the subject "%s"', (subject, kind, expected) => {
		expect(begin(kind, { subject }).subject).toBe(expected);
	});

	it('goes from the address to which the message came, else from the usual one', () => {
		expect(begin('reply').from).toBe('harbour@skerryline.example');
		expect(begin('reply', { to: [who('all@b.example')], cc: [] }).from).toBe('office@skerryline.example');
	});

	it('quotes below an empty line, above the signature', () => {
		expect(begin('reply', {}, 'Ylva\nHarbour office').text).toBe(
			'\n\nOn 4 Mar 2026 Nora Vik wrote:\n> Where are they?\n>> On the quay.\n\n-- \nYlva\nHarbour office'
		);
		const forwarded = begin('forward');
		expect(forwarded.text).toContain('> From: Nora Vik <nora@quay.example>\n> To: harbour@skerryline.example');
		expect(forwarded).toMatchObject({ to: [], inReplyTo: '' });
	});
});

describe('recipients', () => {
	it.each([
		['nora@quay.example', ['nora@quay.example'], undefined],
		['Nora Vik <nora@quay.example>; emre@quay.example', ['nora@quay.example', 'emre@quay.example'], undefined],
		['nora@quay.example, NORA@quay.example', ['nora@quay.example'], undefined],
		['Crew: a@b.example, c@d.example;', ['a@b.example', 'c@d.example'], undefined],
		['nora', [], 'is no address'],
		['nora@quay', [], 'is no address'],
		['a@b.example\nBcc: all@b.example', [], 'one line'],
		['"a b"@quay.example', [], 'is no address'],
		[Array.from({ length: 101 }, (_, n) => `a${n}@b.example`).join(','), [], '100 people']
	])('%j', (typed, expected, wrong) => {
		const read = readRecipients(typed);
		expect(addresses(read.recipients)).toEqual(expected);
		if (wrong === undefined) expect(read.wrong).toBeUndefined();
		else expect(read.wrong).toContain(wrong);
	});

	it('are shown as they can be typed again', () => {
		const them = [who('a@b.example', 'Vik, Nora "N"'), who('c@d.example', 'Emre'), who('e@f.example')];
		const shown = showRecipients(them);
		expect(shown).toBe('"Vik, Nora N" <a@b.example>, Emre <c@d.example>, e@f.example');
		expect(addresses(readRecipients(shown).recipients)).toEqual(addresses(them));
	});

	it.each([
		[{ from: 'stranger@b.example' }, 'from an address of its mailbox'],
		[{ to: '' }, 'Name a recipient'],
		[{ cc: 'nobody' }, 'is no address'],
		[{ subject: 'a\r\nBcc: all@b.example' }, 'one line'],
		[{ subject: 'x'.repeat(501) }, '500 letters'],
		[{ text: 'x'.repeat(1_000_001) }, 'a million'],
		[{}, undefined]
	])('a mail with %o: %s', (more, wrong) => {
		const mail = { from: OWN[0] ?? '', to: 'a@b.example', cc: '', subject: 'Hello', text: '', ...more };
		if (wrong === undefined) expect(wrongMail(mail, OWN)).toBeUndefined();
		else expect(wrongMail(mail, OWN)).toContain(wrong);
	});
});
