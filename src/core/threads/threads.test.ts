import { describe, expect, it } from 'vitest';
import { baseSubject, formerSubject } from './base-subject.ts';
import { comparedId, type ThreadedMessage, type ThreadNode, threadsOf, walkThread } from './thread.ts';

describe('base subject (RFC 5256 section 2.1 and its ABNF in section 5)', () => {
	it.each([
		['Ramp', 'RAMP', false],
		['Re: Ramp', 'RAMP', true],
		['re:  RE : Ramp', 'RAMP', true],
		['Fwd: Ramp', 'RAMP', true],
		['FW: Ramp', 'RAMP', true],
		['Re[2]: Ramp', 'RAMP', true],
		['[crew-talk] Re: Ramp', 'RAMP', true],
		['[crew-talk] Ramp', 'RAMP', false],
		['[crew-talk]', '[CREW-TALK]', false],
		['Re: [crew-talk] Re: Ramp (fwd)', 'RAMP', true],
		['Ramp (FWD) (fwd)  ', 'RAMP', true],
		['[Fwd: [crew-talk] Re: Ramp]', 'RAMP', true],
		['Ramp\t\t limit', 'RAMP LIMIT', false],
		['Regarding: Ramp', 'REGARDING: RAMP', false],
		['Re:', '', true],
		['', '', false],
		['   ', '', false],
		['(no subject)', '', false],
		['Re: (No Subject)', '', true],
		['kein Betreff', '', false],
		['No subject to change', 'NO SUBJECT TO CHANGE', false]
	])('%j', (subject, base, isReply) => {
		expect(baseSubject(subject)).toEqual({ base, isReply });
	});

	it.each([
		['Fares in winter (was: Timetable)', 'TIMETABLE'],
		['Re: Fares (was Re: Timetable)', 'TIMETABLE'],
		['Fares [WAS: [crew] Timetable ]', undefined],
		['Fares [was: Timetable]', 'TIMETABLE'],
		['Fares (was: (no subject))', undefined],
		['What was: a question', undefined],
		['It was (in a way) late', undefined],
		['Fares (was:)', undefined]
	])('%j was %j', (subject, former) => {
		expect(formerSubject(subject)).toBe(former);
	});

	it.each(['['.repeat(2_000), '[a]'.repeat(600), 're: '.repeat(500), ' (fwd)'.repeat(300), '[fwd:'.repeat(400)])(
		'comes to an end with a hostile one: %.10s',
		(subject) => {
			expect(baseSubject(subject).base.length).toBeLessThanOrEqual(subject.length);
		}
	);
});

let lastId = 0;
function message(messageId: string, references = '', { subject = '', sentAt = ++lastId } = {}): ThreadedMessage {
	const { base, isReply } = baseSubject(subject);
	return {
		id: ++lastId,
		messageId: messageId && `<${messageId}>`,
		references: references
			.split(' ')
			.filter(Boolean)
			.map((id) => `<${id}>`),
		sentAt,
		subject: base,
		title: subject,
		isReply
	};
}

/* A thread in letters: `a(b c(d))`; `-` for a placeholder. */
const inLetters = ({ message, children }: ThreadNode): string =>
	`${message ? message.messageId.slice(1, -1) : '-'}${children.length > 0 ? `(${children.map(inLetters).join(' ')})` : ''}`;
const threads = (messages: ThreadedMessage[]) => threadsOf(messages).map(inLetters);

describe('threads (RFC 5256 section 3, REFERENCES)', () => {
	it.each<[string, () => ThreadedMessage[], string[]]>([
		['an answer below what it answers', () => [message('a'), message('b', 'a'), message('c', 'a b')], ['a(b(c))']],
		['an answer that comes first', () => [message('b', 'a', { sentAt: 9 }), message('a', '', { sentAt: 1 })], ['a(b)']],
		[
			'siblings by when they were sent',
			() => [message('a'), message('c', 'a', { sentAt: 1e9 }), message('b', 'a', { sentAt: 1e8 })],
			['a(b c)']
		],
		['a place without a message in the middle: gone', () => [message('a'), message('c', 'a b')], ['a(c)']],
		['one at the top that holds two together: stays', () => [message('b', 'a'), message('c', 'a')], ['-(b c)']],
		['one at the top with a single child: gone', () => [message('b', 'a')], ['b']],
		['a loop is not closed', () => [message('a', 'b'), message('b', 'a')], ['b(a)']],
		['a message that refers to itself', () => [message('a', 'a')], ['a']],
		[
			'the second with the same Message-ID stands for itself',
			() => [message('a'), message('b', 'a'), message('a')],
			['a(b)', 'a']
		],
		['no Message-ID at all', () => [message(''), message('')], ['', '']],
		[
			'the same subject',
			() => [message('a', '', { subject: 'Ramp' }), message('b', '', { subject: 'Re: Ramp' })],
			['a(b)']
		],
		[
			'the same subject, neither an answer',
			() => [message('a', '', { subject: 'Ramp' }), message('b', '', { subject: 'ramp' })],
			['-(a b)']
		],
		[
			'the same subject, both answers',
			() => [message('a', '', { subject: 'Re: Ramp' }), message('b', '', { subject: 'Re: Ramp' })],
			['-(a b)']
		],
		[
			'the same subject, the answer first',
			() => [message('a', '', { subject: 'Re: Ramp' }), message('b', '', { subject: 'Ramp' })],
			['b(a)']
		],
		[
			'three with the same subject',
			() => [1, 2, 3].map((n) => message(`m${n}`, '', { subject: 'Ramp' })),
			['-(m1 m2 m3)']
		],
		[
			'empty subjects are not the same',
			() => [message('a', '', { subject: 'Re:' }), message('b', '', { subject: '' })],
			['a', 'b']
		]
	])('%s', (_name, make, expected) => {
		expect(threads(make())).toEqual(expected);
	});

	it('compares Message-IDs without quotation marks that are not needed (section 3, note)', () => {
		expect(comparedId('<"01KF8JCEOCBS0045PS"@xxx.yyy.com>')).toBe('<01KF8JCEOCBS0045PS@xxx.yyy.com>');
	});

	it('stands a thread of ten thousand answers, each to the one before', () => {
		const many = Array.from({ length: 10_000 }, (_, n) => message(`m${n}`, n > 0 ? `m${n - 1}` : ''));
		const [root] = threadsOf(many) as [ThreadNode];
		const rows = [...walkThread(root)];
		expect(rows.length).toBe(10_000);
		expect(rows.at(-1)).toMatchObject({ depth: 9_999, parent: { messageId: '<m9998>' } });
	});
});
