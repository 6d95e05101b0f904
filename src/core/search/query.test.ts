import { describe, expect, it } from 'vitest';
import { excerpt, markHits } from './excerpt.ts';
import type { CalendarDate } from '../calendar.ts';
import { asksForDates, isEmpty, matchExpression, phrasesOf, type Query, QueryError, readQuery } from './query.ts';
import { foldWord, indexText, wordsOf } from './words.ts';

/* The tree of a query, short enough to read in a table. */
function shown(query: Query): string {
	switch (query.kind) {
		case 'words': {
			const { words, columns, prefix } = query.phrase;
			return `${columns ? `${columns.join('+')}=` : ''}${words.join('_')}${prefix ? '*' : ''}`;
		}
		case 'and':
		case 'or':
			return `(${query.parts.map(shown).join(query.kind === 'and' ? ' & ' : ' | ')})`;
		case 'not':
			return `!${shown(query.part)}`;
		case 'since':
		case 'before':
		case 'on':
			return `${query.kind}=${query.date}`;
		case 'larger':
		case 'smaller':
			return `${query.kind}=${query.bytes}`;
		case 'thread':
			return `thread=${query.number}`;
		case 'attachment-kind':
			return `kind=${query.attachment}`;
		case 'folder':
		case 'tag':
		case 'organisation':
		case 'address':
		case 'mailbox':
		case 'class':
			return `${query.kind}=${query.text}${query.begun ? '*' : ''}`;
		case 'state':
			return `state=${query.state}`;
		case 'mail-kind':
			return `kind=${query.mailKind}`;
		case 'importance':
			return `importance=${query.importance}`;
		case 'list':
		case 'attachment-name':
			return `${query.kind}=${query.text}`;
		default:
			return query.kind;
	}
}

describe('asksForDates', () => {
	it.each([
		['ramp', false],
		['not (ramp or before:2024)', true],
		['on:2024-01-01', true],
		['larger:5MB list:x', false]
	])('%j: %s', (text, expected) => {
		expect(asksForDates(readQuery(text))).toBe(expected);
	});
});

describe('readQuery', () => {
	it('takes "paused" for what is paused on the day of the search, and without a day refuses it', () => {
		const today = '2026-11-25' as CalendarDate;
		expect(readQuery('paused', { today })).toEqual({ kind: 'paused', today });
		expect(readQuery('ramp pau', { today, typing: true })).toMatchObject({ parts: [{}, { phrase: { prefix: true } }] });
		expect(readQuery('expired', { today })).toEqual({ kind: 'expired', today });
		expect(() => readQuery('expired')).toThrow('changes from day to day');
		expect(readQuery('"paused"')).toMatchObject({ kind: 'words' });
		expect(() => readQuery('ramp paused')).toThrow('changes from day to day');
	});

	it.each([
		['', '()'],
		['ramp', 'ramp'],
		['ramp limit', '(ramp & limit)'],
		['"ramp limit"', 'ramp_limit'],
		['ramp*', 'ramp*'],
		['from:northfuel to:tove cc:office', '(sender=northfuel & recipients=tove & copied=office)'],
		['FROM:"Anchor & Rope"', 'sender=Anchor_Rope'],
		['from:a.b@c.example', 'sender=a_b_c_example'],
		['body:quay', 'text+quoted=quay'],
		['subject:Re: x', '(subject=Re & x)'],
		['re:zero', 're_zero'],
		['re: zero', '(re & zero)'],
		['https://a.example/x', 'https_a_example_x'],
		['a or b c', '(a | (b & c))'],
		['(a or b) c', '((a | b) & c)'],
		['not a', '!a'],
		['not (a or not b)', '!(a | !b)'],
		['"or" "not"', '(or & not)'],
		['NOT OR AND', '(NOT & OR & AND)'],
		['flagged unread "unread"', '(flagged & unread & unread)'],
		['since:2024-03-01 before:2025 on:2024-03', '(since=2024-03-01 & before=2025-01-01 & on=2024-03-01)'],
		['larger:5MB smaller:1.5GB', '(larger=5000000 & smaller=1500000000)'],
		['attachment:any attachment:pdf attachment:roster*', '(attached & kind=pdf & attachment-name=roster)'],
		['folder:Vessels list:harbourtimes', '(folder=Vessels & list=harbourtimes)'],
		['folder:Vess* mailbox:Office organisation:a.example', '(folder=Vess* & mailbox=Office & organisation=a.example)'],
		['address:Tove@a.example', 'address=Tove@a.example'],
		['thread:12 ramp', '(thread=12 & ramp)'],
		['kept state:live kind:notice importance:low', '(kept & state=live & kind=notice & importance=-1)'],
		['folder:"Fuel and chandlery"', 'folder=Fuel and chandlery'],
		['tag:"berth 4" attachment:"lan 2.pd"', '(tag=berth 4 & attachment-name=lan 2.pd)'],
		['*^{}', '()'],
		['東京都', '東京_京都']
	])('%j', (text, expected) => {
		expect(shown(readQuery(text))).toBe(expected);
	});

	it.each([
		['ra', 'ra*'],
		['ramp li', '(ramp & li*)'],
		['ramp ', 'ramp'],
		['subject:ra', 'subject=ra*'],
		['subject:', '()'],
		['"ramp li', 'ramp_li*'],
		['"ramp li"', 'ramp_li'],
		['#', '()'],
		// whole words and values mean the same as after Enter
		['held', 'held'],
		['a unread', '(a & unread)'],
		['unrea', 'unrea*'],
		['since:2024', 'since=2024-01-01'],
		['since:2024-0', '()'],
		['a since:20', '(a & ())'],
		['larger:5', 'larger=5'],
		['larger:', '()'],
		['class:rec', 'class=rec*'],
		['state:archived', 'state=archived'],
		['kind:advert', '()'],
		['tag:Timetables', 'tag=Timetables*'],
		['tag:Timetables ', 'tag=Timetables'],
		['folder:Ves', 'folder=Ves*'],
		['folder:"MV Te', 'folder=MV Te*'],
		// brackets are closed, and a dangling "or" joins nothing
		['a or', 'a'],
		['a or ', 'a'],
		['a or not', 'a'],
		['(a or b', '(a | b*)'],
		['(', '()'],
		['a or since:20', 'a'],
		['a not', 'a'],
		['a not ra', '(a & !ra)'],
		['a not tag:ra', '(a & !tag=ra)'],
		['a not since:20', '(a & ())']
	])('while typing %j', (text, expected) => {
		expect(shown(readQuery(text, { typing: true }))).toBe(expected);
	});

	it('refuses no beginning of a query, and means the same when it is whole', () => {
		const queries = [
			'ramp (subject:"car deck" or not from:tove) since:2024-03-01',
			'not (a or b) larger:5MB class:record state:binned',
			'kind:advertisement importance:high organisation:slipworks.example kept'
		];
		for (const query of queries) {
			for (let end = 0; end <= query.length; end++)
				expect(() => readQuery(query.slice(0, end), { typing: true }), query.slice(0, end)).not.toThrow();
			expect(readQuery(`${query} `, { typing: true })).toEqual(readQuery(query));
		}
	});

	it.each([
		['since:yesterday', 6, 'no date'],
		['state:lost', 6, 'is no state; write live, archived, binned'],
		['kind:spam', 5, 'is no kind'],
		['importance:2', 11, 'is no importance'],
		['a before:2024-02-30', 9, 'no date'],
		['larger:lots', 7, 'no size'],
		['thread:ramp', 7, 'no number of a thread'],
		['words "not closed', 6, 'not closed'],
		['a"b', 1, 'not closed'],
		['from:', 5, 'needs words'],
		['x since: y', 8, 'needs a date'],
		['from:""', 5, 'needs words'],
		['(a', 0, 'not closed'],
		['a)', 1, 'not opened'],
		['a or', 4, 'missing'],
		['or a', 0, 'between two things'],
		['a not', 2, 'needs something'],
		['()', 1, 'nothing in the brackets'],
		[`${'('.repeat(60)}a`, 50, 'too deeply']
	])('%s says where it is wrong', (text, at, says) => {
		const error = (() => {
			try {
				readQuery(text);
			} catch (thrown) {
				return thrown as QueryError;
			}
			return undefined;
		})();
		expect(error?.message).toContain(says);
		expect(error?.at).toBe(at);
	});

	it('becomes one expression for the index where it is words alone', () => {
		expect(matchExpression(readQuery('a (b or from:c*)'))).toBe('("a" AND ("b" OR {sender} : "c" *))');
		expect(matchExpression(readQuery('a not b'))).toBeUndefined();
		expect(matchExpression(readQuery('a unread'))).toBeUndefined();
		expect(isEmpty(readQuery('  '))).toBe(true);
		expect(phrasesOf(readQuery('a not b (c or d)')).map(({ words }) => words.join())).toEqual(['a', 'c', 'd']);
	});
});

describe('words', () => {
	it.each([
		['Crème brûlée', ['Crème', 'brûlée']],
		['a.b@c-d', ['a', 'b', 'c', 'd']],
		['東京都庁 hello', ['東京', '京都', '都庁', 'hello']],
		['猫', ['猫']],
		['กรุงเทพ', wordsOf('กรุงเทพ')]
	])('%s', (text, expected) => {
		expect(wordsOf(text)).toEqual(expected);
	});

	it.each([
		['Élan', 'elan'],
		['ÅS', 'as'],
		['Straße', 'straße'],
		['Żółć', 'zołc'],
		['ｶ', 'ｶ']
	])('folds %s to %s', (word, folded) => {
		expect(foldWord(word)).toBe(folded);
	});

	it('leaves other scripts alone', () => {
		expect(indexText('Привет мир')).toBe('Привет мир');
	});
});

describe('hits in context', () => {
	const marked = (text: string, query: string) =>
		markHits(text, phrasesOf(readQuery(query)), 'text')
			.map(({ text, hit }) => (hit ? `[${text}]` : text))
			.join('');

	it.each([
		['The ramp limit', 'ramp', 'The [ramp] limit'],
		['The ramp limit', '"ramp limit"', 'The [ramp limit]'],
		['Réservation annulée', 'reservation', '[Réservation] annulée'],
		['ramps and ramp', 'ramp', 'ramps and [ramp]'],
		['ramps and ramp', 'ramp*', '[ramps] and [ramp]'],
		['a subject', 'subject:subject', 'a subject'],
		['来月、車椅子で乗船', '車椅子', '来月、[車椅子]で乗船'],
		['<b>ramp</b>', 'ramp', '<b>[ramp]</b>'],
		['nothing', 'ramp', 'nothing']
	])('%s / %s', (text, query, expected) => {
		expect(marked(text, query)).toBe(expected);
	});

	it('shows the neighbourhood of the first hit', () => {
		const text = `${'before '.repeat(100)}ramp ${'after '.repeat(100)}`;
		const stretches = excerpt(text, phrasesOf(readQuery('ramp')), 'text', 60);
		expect(stretches.map(({ text }) => text).join('')).toMatch(/^… (before )+ramp (after ?)+.* …$/);
		expect(stretches.filter(({ hit }) => hit).map(({ text }) => text)).toEqual(['ramp']);
	});

	it('shows the beginning where there is no hit', () => {
		expect(excerpt('short text', phrasesOf(readQuery('ramp')), 'text')).toEqual([{ text: 'short text', hit: false }]);
	});
});

describe('a search that is larger than anybody types', () => {
	it.each([
		['words', 'quay '.repeat(2_501), /at most 2500 words and conditions; this one has 2501/],
		['alternatives', Array.from({ length: 2_501 }, (_, n) => `w${n}`).join(' or '), /at most 2500/],
		['words in a row', `"${'quay '.repeat(450)}"`, /At most 64 words in a row are looked for; these are 450/],
		[
			'levels of a folder',
			`folder:"${Array.from({ length: 480 }, () => 'a').join('/')}"`,
			/at most 40 levels; this one has 480/
		],
		['words in a row, excluded', `not subject:"${'quay '.repeat(65)}"`, /At most 64/]
	])('of %s is refused with a sentence', (_name, text, why) => {
		expect(() => readQuery(text)).toThrow(why);
	});

	it('is taken up to its bounds', () => {
		expect(() =>
			readQuery(`${'quay '.repeat(499)} folder:${Array.from({ length: 40 }, () => 'a').join('/')}`)
		).not.toThrow();
	});
});

describe('a size with a blank before its unit', () => {
	it.each([
		['larger:5 MB', 5_000_000, 0],
		['smaller:200 kB quay', 200_000, 1],
		['larger:1.5 gb', 1_500_000_000, 0],
		['larger:5', 5, 0],
		// a word that only begins like one, and one in quotation marks
		['larger:5 mbox', 5, 1],
		['larger:5 "MB"', 5, 1]
	])('%s', (text, bytes, words) => {
		const query = readQuery(text);
		const parts = query.kind === 'and' ? query.parts : [query];
		expect(parts[0]).toMatchObject({ bytes });
		expect(parts.filter(({ kind }) => kind === 'words')).toHaveLength(words);
	});
});
