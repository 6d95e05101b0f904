import { render } from 'svelte/server';
import { describe, expect, it, vi } from 'vitest';
import type { ComponentProps } from 'svelte';
import { decisionsFor, decisionsOn, ruleOf } from '../../../core/docket/decisions.ts';
import type { Asked, ItemState } from '../../../core/docket/decision.ts';
import DecisionBar from './DecisionBar.svelte';
import DecisionFields from './DecisionFields.svelte';

vi.mock('$app/forms', () => ({ enhance: () => {}, applyAction: async () => {} }));
const classes = vi.hoisted(() => [
	{ id: 1, word: 'transitory', name: 'transitory' },
	{ id: 4, word: 'crew', name: 'crew papers' }
]);
vi.mock('$app/state', () => ({ page: { data: { classes } } }));
vi.mock('$app/navigation', () => ({ invalidateAll: async () => {} }));

const bar = (messages: number, also: Partial<ComponentProps<typeof DecisionBar>> = {}) =>
	render(DecisionBar, {
		props: {
			selected: { messages, bytes: 5_000, lots: 2 },
			wish: {},
			folders: ['Inbox', 'Vessels'],
			series: [],
			tags: ['Ramp'],
			hasNewest: true,
			onSend: () => () => {},
			onRefused: () => {},
			action: '?/decide',
			...also
		}
	}).body.replace(/<!--.*?-->/g, '');
const buttons = (html: string) =>
	[...html.matchAll(/<button([^>]*)>([\s\S]*?)<\/button>/g)].map(([, attributes = '', inside = '']) => ({
		text: inside
			.replace(/<[^>]+>/g, '')
			.replace(/\s+/g, ' ')
			.trim(),
		disabled: /\bdisabled\b/.test(attributes)
	}));

describe('the row of decisions', () => {
	it('has a button for every digit, in the words of the decision, and the rest behind one', () => {
		const shown = buttons(bar(150)).map(({ text }) => text);
		const expected = decisionsOn('sheet').flatMap((decision) => {
			const { digit, buttons: own } = ruleOf(decision);
			return digit === undefined ? [] : own.slice(0, 1).map(({ label }) => `${digit} ${label}`);
		});
		expect(expected).toHaveLength(8);
		expect(shown).toEqual([...expected, 'More']);
	});

	it.each<[ItemState[], string]>([
		[['live'], '1 Archive, 2 Delete, 3 Move …, 4 Tag …, 5 Keep, 6 Pause …, 7 Flag, 8 Mark read, More'],
		[['archived'], '4 Tag …, 5 Keep, 6 Pause …, 7 Flag, 8 Mark read, 9 Restore, More'],
		[['binned'], '4 Tag …, 9 Restore, More']
	])('for messages that are %j: %s', (states, row) => {
		const shown = buttons(bar(2, { offered: decisionsFor(states, 'administrator'), isAtOnce: true }));
		expect(shown.map(({ text }) => text).join(', ')).toBe(row);
	});

	it('decides on nothing where nothing is selected', () => {
		expect(buttons(bar(0)).every(({ disabled }) => disabled)).toBe(true);
		expect(bar(0)).toContain('Select rows to decide on them.');
		expect(bar(150)).toContain('2 lots, 150 messages');
	});
});

describe('what a decision asks first', () => {
	it.each<[Asked, readonly string[]]>([
		['folder', ['Move to', 'Inbox', 'Vessels']],
		['tag', ['Remove tag', 'Ramp']],
		['pause', ['Not before', 'because', '4 Mar 2024']],
		['class', ['Class', 'crew papers', 'because']],
		['series', ['Series']]
	])('%s: %j', (asks, expected) => {
		const { body } = render(DecisionFields, {
			props: { asks, folders: ['Inbox', 'Vessels'], tags: ['Ramp'], tagLabel: 'Remove tag', options: undefined }
		});
		for (const words of expected) expect(body).toContain(words);
		expect(body).toContain('required');
	});
});
