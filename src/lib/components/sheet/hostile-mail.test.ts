import { render } from 'svelte/server';
import { describe, expect, it, vi } from 'vitest';
import fc from 'fast-check';
import type { Component } from 'svelte';
import type { MessagesPage } from '$lib/server/web/messages-page.ts';
import FileLinks from '../message/FileLinks.svelte';
import Marked from '../message/Marked.svelte';
import TagMark from '../message/TagMark.svelte';
import WeightTable from '../charts/WeightTable.svelte';
import MessageSheet from './MessageSheet.svelte';
import MessageTable from './MessageTable.svelte';
import PageTurner from './PageTurner.svelte';

const frame = vi.hoisted(() => ({ page: { url: new URL('http://localhost/m/1/folders/2'), data: {} } }));
vi.mock('$app/state', () => frame);
vi.mock('$app/forms', () => ({ enhance: () => {}, applyAction: async () => {} }));
vi.mock('$app/navigation', () => ({ invalidateAll: async () => {}, goto: async () => {} }));

/* What a stranger may write into a subject, a name or a file's name. From the XSS filter evasion notes of OWASP (from memory). */
const HOSTILE = [
	'<img src=x onerror=alert(1)>',
	'"><script>alert(1)</script>',
	"' onmouseover='alert(1)",
	'" autofocus onfocus="alert(1)',
	'</td></tr></table><h1>Docket carried out</h1>',
	'{@html "<b>x</b>"} {#if true}',
	'<!-- ',
	'--> <svg/onload=alert(1)>',
	'javascript:alert(1)',
	'&lt;script&gt;',
	'\u202egpj.exe'
];

const messageWith = (text: string) => ({
	id: 7,
	mailboxId: 1,
	mailbox: 'Harbour office',
	homeId: 2,
	receivedOn: '2024-03-04',
	receivedAt: 1_709_546_400,
	dateInDoubt: 0,
	subject: text,
	fromName: text,
	fromAddress: text,
	folder: text,
	origin: text,
	bytes: 1_234,
	attachments: 1,
	seen: 0,
	flagged: 1,
	kept: 1,
	paused: true,
	held: 1,
	state: 'live',
	class: 3,
	series: text,
	tags: [{ id: 1, name: text, colour: 'kelp', hidden: false }],
	files: [{ index: 0, name: text, bytes: 12 }],
	markedSubject: [{ text, hit: true }],
	markedFrom: [{ text, hit: false }],
	context: [{ text, hit: true }],
	folded: []
});

const sheetWith = (text: string) =>
	({
		hits: [messageWith(text)],
		total: 200,
		rows: 200,
		totalIsMore: false,
		bytes: 1_234,
		search: { query: text, states: ['live'], narrowing: {} },
		fixed: [],
		choices: Promise.resolve(null),
		excerpts: Promise.resolve({}),
		isFolded: false,
		sort: '',
		page: 1,
		pageSize: 100,
		deciding: {
			folders: [text],
			tags: [text],
			recent: { folders: [text], tags: [text] },
			series: [{ code: text, title: text }],
			holds: [text],
			atOnce: 100
		}
	}) as unknown as MessagesPage;

const shown = <P extends Record<string, unknown>>(component: Component<P>, props: P): string =>
	render(component as Component, { props }).body;

const COMPONENTS: [string, (text: string) => string][] = [
	[
		'a sheet of messages',
		(text) => shown(MessageSheet as never, { sheet: sheetWith(text), empty: () => {}, answer: { message: text } })
	],
	[
		'a table of messages',
		(text) =>
			shown(MessageTable as never, {
				items: [messageWith(text)],
				onOpen: () => {},
				selecting: { isIn: () => true, toggle: () => {} }
			})
	],
	[
		'the files of a message',
		(text) => shown(FileLinks as never, { id: 7, files: [{ index: 0, name: text }], onMore: () => {} })
	],
	['marked words', (text) => shown(Marked as never, { stretches: [{ text, hit: true }] })],
	['a tag', (text) => shown(TagMark as never, { tag: { name: text, colour: 'kelp' } })],
	[
		'a table of weights',
		(text) =>
			shown(WeightTable as never, {
				name: text,
				rows: [{ key: text, label: text, href: '/find', title: text, messages: 1, bytes: 1 }]
			})
	]
];

/* The elements of HTML with their attributes, as a parser sees them: text cannot open one unless it holds a `<`. */
const elementsOf = (html: string) =>
	[...html.replace(/<!--[\s\S]*?-->/g, '').matchAll(/<([a-z0-9]+)((?:\s+[^\s=>]+(?:="[^"]*")?)*)\s*\/?>/gi)].map(
		([, name = '', attributes = '']) =>
			[name, ...[...attributes.matchAll(/\s([^\s="]+)(?:="[^"]*")?/g)].map(([, key]) => key)].join(' ')
	);

describe.each(COMPONENTS)('%s', (_name, html) => {
	const harmless = elementsOf(html('Ramp'));

	it.each(HOSTILE)('shows %j as text: no element and no attribute comes of it', (text) => {
		expect(elementsOf(html(text))).toEqual(harmless);
	});

	it('does so for any text', () => {
		fc.assert(
			fc.property(fc.string({ unit: fc.constantFrom(...'<>"\'&=/ ax\n!-{}'), minLength: 1, maxLength: 30 }), (text) => {
				expect(elementsOf(html(`a${text}`))).toEqual(harmless);
			}),
			{ numRuns: 60 }
		);
	});

	it('shows the text itself', () => {
		expect(harmless.length).toBeGreaterThan(0);
		expect(html('Zahlung für «Südkai»')).toContain('Zahlung für «Südkai»');
	});
});

describe('what a sheet of messages says', () => {
	const html = (also: object = {}) =>
		shown(MessageSheet as never, { sheet: { ...sheetWith('Ramp'), ...also }, empty: () => {}, answer: null });

	it('marks a message under a hold, flagged, kept and paused by a word, not by a colour alone', () => {
		for (const word of ['H held', '>flag<', '>kept<', '>paused<']) expect(html()).toContain(word);
	});

	it.each<[string, object, string]>([
		['a date in doubt', { hits: [{ ...messageWith('Ramp'), dateInDoubt: 1 }] }, 'date in doubt'],
		['no date at all', { hits: [{ ...messageWith('Ramp'), receivedOn: null }] }, 'undated'],
		['no subject', { hits: [{ ...messageWith('Ramp'), subject: '' }] }, '(no subject)'],
		['how many there are', {}, '200 messages'],
		['that there are more than were counted', { totalIsMore: true }, 'More than 200 messages'],
		['which page this is', {}, 'page 1 of 2']
	])('%s', (_what, also, says) => {
		expect(html(also).replace(/<!--.*?-->/g, '')).toContain(says);
	});

	it('has a heading for each order, which turns it round when it is that already', () => {
		const hrefs = (sort: string) =>
			[...html({ sort }).matchAll(/href="([^"]*sort=[^"]*)"/g)].map(([, href = '']) => href);
		expect(hrefs('').map((href) => new URL(href, 'http://localhost').searchParams.get('sort'))).toContain('newest');
		const turned = (sort: string) => hrefs(sort)[0] as string;
		expect(turned('newest')).not.toBe(turned('oldest'));
		for (const href of hrefs('newest')) expect(href).toMatch(/^\/m\/1\/folders\/2\?/);
	});
});

describe('the way from page to page', () => {
	it.each<[number, number, string[]]>([
		[1, 1, []],
		[1, 3, ['2']],
		[2, 3, ['1', '3']],
		[3, 3, ['2']]
	])('from page %i of %i', (at, pages, to) => {
		frame.page.url = new URL('http://localhost/find?q=ramp&page=9');
		const links = [...shown(PageTurner as never, { at, pages }).matchAll(/href="([^"]*)"/g)].map(([, href = '']) =>
			href.replaceAll('&amp;', '&')
		);
		expect(links.map((href) => new URL(href, 'http://localhost').searchParams.get('page'))).toEqual(to);
		for (const href of links) expect(href).toContain('/find?q=ramp');
		frame.page.url = new URL('http://localhost/m/1/folders/2');
	});
});
