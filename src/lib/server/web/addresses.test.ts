import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import Joi from 'joi';
import { describe, expect, it } from 'vitest';
import { GROUPINGS, LOT_SORTS } from '../../../core/lots/lots.ts';
import { isEmpty, readQuery } from '../../../core/search/query.ts';
import { download } from './download.ts';
import { dueFields, dueItemsFields } from './due-address.ts';
import { listsAsked, NEWEST, readListsAddress } from './lists-address.ts';
import { localPath, localPathOf } from './local-path.ts';
import { selectedMailboxes } from './selection-address.ts';
import { lotFields, readPart, readSheetAddress, sheetOf } from './lots-address.ts';
import { readMessagesAddress, sheetFields } from './messages-page.ts';
import { narrowingFields, narrowingOf } from './narrowing-address.ts';

const address = (query: string) => new URLSearchParams(query);

/* What somebody, or a link in a message, may put behind the question mark. */
const anyAddress = fc
	.dictionary(
		fc.constantFrom(
			'by',
			'q',
			'folder',
			'older',
			'larger',
			'unread',
			'sort',
			'descending',
			'all',
			'show',
			'offset',
			'limit',
			'key',
			'page',
			'__proto__',
			'toString'
		),
		fc.oneof(
			fc.string(),
			fc.constantFrom('-1', '1e9', 'NaN', '2024-02-30', '9999999999999999999', '%00', 'x'.repeat(3_000))
		)
	)
	.map((given) => new URLSearchParams(Object.entries(given)));

describe('the address of a sheet of lots', () => {
	it.each<[string, Partial<ReturnType<typeof readSheetAddress>>]>([
		['', { by: 'organisation', q: '', sort: 'bytes', descending: '' }],
		['by=list&sort=messages&descending=1', { by: 'list', sort: 'messages', descending: '1' }],
		['by=colour&q=ramp', { by: 'organisation', q: 'ramp' }],
		['older=2024-02-30&larger=5MB', { older: '', larger: '5MB' }],
		['older=2024-03', { older: '2024-03' }],
		['larger=5%20MB', { larger: '' }],
		['larger=5TB&unread=1', { larger: '', unread: '1' }],
		['unread=yes&attached=1', { unread: '', attached: '1' }],
		['sort=colour&by=year', { sort: 'bytes', by: 'year' }],
		['folder=Vessels/MV%20Terne', { folder: 'Vessels/MV Terne' }]
	])('"%s" means what of it is sound', (query, expected) => {
		expect(readSheetAddress(address(query))).toMatchObject(expected);
	});

	it('never fails, and always means a sheet', () => {
		fc.assert(
			fc.property(anyAddress, (given) => {
				const asked = readSheetAddress(given);
				expect(Object.keys(GROUPINGS)).toContain(asked.by);
				expect(LOT_SORTS).toContain(asked.sort);
				expect(asked.q.length).toBeLessThanOrEqual(1_000);
			})
		);
	});

	it.each<[string, string]>([
		['', ''],
		['q=ramp', 'ramp'],
		['q=ramp%20or%20quay&unread=1', '(ramp or quay) unread'],
		[
			'older=2024-03-01&larger=5MB&unread=1&attached=1&unanswered=1',
			'before:2024-03-01 larger:5MB unread attachment:any not answered'
		]
	])('"%s" is the search "%s", which can be read', (query, expected) => {
		const { query: search } = sheetOf(readSheetAddress(address(query)), { mailboxId: 3 });
		expect(search).toBe(expected);
		expect(isEmpty(readQuery(search))).toBe(expected === '');
	});

	it('is of one mailbox, or of several', () => {
		expect(sheetOf(readSheetAddress(address('folder=Inbox')), { mailboxId: 3 })).toEqual({
			mailboxId: 3,
			by: 'organisation',
			query: '',
			folder: 'Inbox'
		});
		expect(sheetOf(readSheetAddress(address('')), { mailboxIds: [2, 5] })).toMatchObject({
			mailboxIds: [2, 5],
			folder: undefined
		});
	});

	it.each<[string, number[] | undefined]>([
		['', undefined],
		['in=', undefined],
		['in=3', [3]],
		['in=3,5,3', [3, 5]],
		['in=0,-1,x,2.5,1e400', undefined],
		['in=7,x', [7]]
	])('"%s" selects the mailboxes %j', (query, expected) => {
		expect(selectedMailboxes(address(query))).toEqual(expected);
	});

	it.each<[string, object | 'refused']>([
		['', { offset: 0, limit: 200 }],
		['offset=400&limit=100', { offset: 400, limit: 100 }],
		['limit=1001', 'refused'],
		['offset=-1', 'refused'],
		['offset=1.5', 'refused']
	])('a part of it, "%s", is read or refused', (query, expected) => {
		if (expected === 'refused') expect(() => readPart(address(query))).toThrow(Joi.ValidationError);
		else expect(readPart(address(query))).toMatchObject(expected);
	});
});

describe('the address of the sheet of lists', () => {
	it.each<[string, object]>([
		['', { all: '', q: '', show: 'all', offset: 0, limit: 100 }],
		['show=never-read&q=Times', { show: 'never-read', q: 'Times' }],
		['show=everything&offset=200', { show: 'all', offset: 200 }],
		['limit=0&all=1', { limit: 100, all: '1' }],
		[`q=${'x'.repeat(201)}`, { q: '' }]
	])('"%s"', (query, expected) => {
		expect(readListsAddress(address(query))).toMatchObject(expected);
	});

	it('asks for the lists of the newest messages, unless it asks for all', () => {
		expect(listsAsked(readListsAddress(address('')))).toMatchObject({ newest: NEWEST });
		expect(listsAsked(readListsAddress(address('all=1')))).toMatchObject({ newest: undefined });
	});

	it('never fails', () => {
		fc.assert(fc.property(anyAddress, (given) => readListsAddress(given).limit > 0));
	});
});

describe('the address of a sheet of messages', () => {
	it.each<[string, object]>([
		['', { sort: '', page: 1, threads: false }],
		[
			'sort=oldest&page=3&threads=1&year=2024&list=4',
			{ sort: 'oldest', page: 3, threads: true, year: '2024', list: 4 }
		],
		['sort=colour&page=0&kind=rumour&q=ramp', { sort: '', page: 1, threads: false }],
		['folder=Inbox', { sort: '', page: 1, threads: false }]
	])('"%s"', (query, expected) => {
		expect(readMessagesAddress(address(query))).toEqual(expected);
	});

	it('never fails, and takes up no more than its fields', () => {
		fc.assert(
			fc.property(anyAddress, (given) => {
				const known = [...Object.keys(sheetFields), 'by', 'key', 'q', 'below'];
				expect(known).toEqual(expect.arrayContaining(Object.keys(readMessagesAddress(given, lotFields))));
			})
		);
	});
});

describe('what narrows a search', () => {
	const schema = Joi.object(narrowingFields);
	it.each<[object, object | 'refused']>([
		[
			{ mailbox: '3', folder: '12', who: '7', tag: '2' },
			{ mailbox: 3, folder: 12, who: 7, tag: 2 }
		],
		[
			{ year: '2024', file: 'pdf' },
			{ year: '2024', file: 'pdf' }
		],
		[{ mailbox: '', year: '', file: '' }, {}],
		[{ mailbox: '0' }, 'refused'],
		[{ year: '24' }, 'refused'],
		[{ year: '2024 or 1=1' }, 'refused'],
		[{ file: 'executable' }, 'refused']
	])('%j', (given, expected) => {
		const { error, value } = schema.validate(given) as { error?: Error; value: object };
		if (expected === 'refused') expect(error).toBeInstanceOf(Error);
		else expect(JSON.parse(JSON.stringify(narrowingOf(value)))).toEqual(expected);
	});
});

describe('the page of a sheet of messages, and of what is due', () => {
	it.each<[string, Joi.Schema, object, boolean]>([
		['the second page by size', Joi.object(sheetFields), { sort: 'largest', page: '2' }, true],
		['no order of its own', Joi.object(sheetFields), { sort: '' }, true],
		['an order that is none', Joi.object(sheetFields), { sort: 'colour' }, false],
		['a page before the first', Joi.object(sheetFields), { page: '0' }, false],
		['a row that is due', Joi.object(dueFields), { of: '1', date: '2026-11-25', action: 'destroy', place: '0' }, true],
		['a row of no mailbox', Joi.object(dueFields), { of: '0', date: '2026-11-25' }, false],
		['a lot', Joi.object(lotFields), { by: 'tld', key: 'example', q: '', below: '' }, true],
		['a lot of a grouping that is none', Joi.object(lotFields), { by: 'colour' }, false],
		['a day', Joi.object(dueItemsFields), { date: '2026-11-25', action: 'destroy' }, true],
		['a month', Joi.object(dueItemsFields), { date: '2026-12' }, true],
		['a year', Joi.object(dueItemsFields), { date: '2026' }, false],
		['more rows than a page has', Joi.object(dueItemsFields), { limit: '501' }, false],
		['an action that is none', Joi.object(dueItemsFields), { action: 'keep' }, false]
	])('%s', (_what, schema, given, isSound) => {
		expect(schema.validate(given).error === undefined).toBe(isSound);
	});
});

describe('where one goes on after signing in', () => {
	it.each<[string | null, string]>([
		['/m/1/clear?by=list', '/m/1/clear?by=list'],
		['/', '/'],
		[null, '/'],
		['', '/'],
		['m/1', '/'],
		['//elsewhere.example', '/'],
		['/\\elsewhere.example', '/'],
		['https://elsewhere.example/', '/'],
		['javascript:alert(1)', '/'],
		['/m/1\nSet-Cookie: a=b', '/'],
		['/m/\\elsewhere', '/']
	])('%j leads to %s', (asked, to) => {
		expect(localPath(asked)).toBe(to);
	});

	it.each<[string | null, string | undefined]>([
		['http://kovrel.example/m/1/clear/bin?page=2#x', '/m/1/clear/bin?page=2'],
		['http://elsewhere.example/m/1', undefined],
		['https://kovrel.example/m/1', undefined],
		['no address', undefined],
		[null, undefined]
	])('a page one comes from, %j, is %j', (address, path) => {
		expect(localPathOf(address, new URL('http://kovrel.example/dockets/1'))).toBe(path);
	});

	// WHATWG URL: whatever is answered stays on the host it was asked of
	it('is always on this host', () => {
		fc.assert(
			fc.property(fc.string({ unit: fc.constantFrom(...'/\\@:?#.ax \t\n'), maxLength: 12 }), (asked) => {
				expect(new URL(localPath(asked), 'http://kovrel.example').host).toBe('kovrel.example');
			})
		);
	});
});

describe('a download', () => {
	it.each([
		'plan.pdf',
		'Rampe Süd.pdf',
		'a "quoted" name.txt',
		'€ 10 – offer.csv',
		'読書.zip',
		'semi;colon=.eml',
		'x'.repeat(200)
	])('is called %j by whoever reads its header after RFC 6266', (name) => {
		const { headers } = download({ name, content: new Uint8Array([1, 2]) });
		// Python's email package reads the same field after RFC 2231
		const script = `
import email.policy, email.parser, json, sys
message = email.parser.Parser(policy=email.policy.compat32).parsestr('Content-Disposition: ' + json.load(sys.stdin) + '\\n\\n')
value = dict((key.lower(), value) for key, value in message.get_params(header='content-disposition'))
name = value.get('filename*') or value['filename']
import urllib.parse, email.utils
print(json.dumps(urllib.parse.unquote(name.split("''", 1)[1]) if "''" in name else email.utils.collapse_rfc2231_value(name)))`;
		const field = headers.get('content-disposition') as string;
		const read = execFileSync('python3', ['-c', script], { input: JSON.stringify(field), encoding: 'utf8' });
		expect(JSON.parse(read)).toBe(name);
	});

	it('is never shown by the browser itself, whatever it is', () => {
		const { headers } = download({ name: 'page.html', content: new TextEncoder().encode('<script>alert(1)</script>') });
		expect(headers.get('content-type')).toBe('application/octet-stream');
		expect(headers.get('content-disposition')).toMatch(/^attachment/);
		expect(headers.get('content-security-policy')).toContain('sandbox');
		expect(headers.get('cache-control')).toBe('no-store');
		expect(headers.get('content-length')).toBe('25');
	});
});
