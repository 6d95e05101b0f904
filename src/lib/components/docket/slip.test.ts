import { render } from 'svelte/server';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { ComponentProps } from 'svelte';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import { DECISIONS, ruleOf } from '../../../core/docket/decisions.ts';
import { viewDocket } from '$lib/server/docket/show-docket.ts';
import type { Docket, DocketLine } from '$lib/server/docket/dockets-store.ts';
import type { MailboxWeight } from '$lib/server/weigh/index.ts';
import DocketSlip from './DocketSlip.svelte';

const frame = vi.hoisted(() => ({
	page: { url: new URL('http://localhost/m/1/clear'), data: { person: { name: 'Ylva' } } as Record<string, unknown> }
}));
vi.mock('$app/state', () => frame);
vi.mock('$app/forms', () => ({ enhance: () => {} }));
beforeEach(() => {
	frame.page.data = { person: { name: 'Ylva' } };
});

const MAILBOX = {
	id: 1,
	name: 'Harbour office',
	quotaBytes: 2_000_000_000,
	bytes: 1_900_000_000,
	messages: 40_000,
	confirmAbove: 100,
	layout: ['folder']
} as unknown as MailboxWeight;

const OPTIONS: Partial<Record<Decision, DecisionOptions>> = {
	tag: { tag: 'Claim' },
	untag: { tag: 'Claim' },
	move: { folder: 'Vessels' },
	pause: { until: '2027-03-01', because: 'the audit' },
	classify: { class: 'record', because: 'it is a contract' },
	retain: { series: 'FIN-02' }
};

const line = (decision: Decision, also: Partial<DocketLine> = {}): DocketLine => ({
	id: 1,
	position: 1,
	decision,
	options: OPTIONS[decision] ?? {},
	scope:
		ruleOf(decision).about === 'lists'
			? { kind: 'lists', ids: [4, 5], label: 'Harbour Times, Quay News' }
			: { kind: 'items', ids: [1], label: 'of 2 lots' },
	messages: ruleOf(decision).about === 'lists' ? 0 : 4_812,
	bytes: ruleOf(decision).about === 'lists' ? 0 : 1_200_000_000,
	folders: 37,
	elsewhere: 0,
	flagged: 0,
	oldest: undefined,
	newest: undefined,
	left: [],
	conflicts: [],
	className: null,
	doneMessages: 4_812,
	doneBytes: 1_200_000_000,
	...also
});

function docket(lines: DocketLine[], also: Partial<Docket> = {}): Docket {
	const sum = (of: 'messages' | 'bytes') => lines.reduce((total, each) => total + each[of], 0);
	return {
		id: 12,
		mailboxId: 1,
		name: '',
		state: 'drafted',
		draftedAt: '2026-11-25T12:00:00Z',
		draftedBy: 'Ylva',
		draftedById: 1,
		carriedOutAt: null,
		carriedOutBy: null,
		carriedOutById: null,
		takenBackAt: null,
		messages: sum('messages'),
		bytes: sum('bytes'),
		takenBackMessages: 0,
		progressPosition: 0,
		progressItemId: 0,
		layout: MAILBOX.layout,
		approvedAt: null,
		approvedBy: null,
		approvedById: null,
		changedBy: [],
		lines,
		...also
	};
}

const plain = (html: string) =>
	html
		.replace(/<!--.*?-->/g, '')
		.replace(/<[^>]+>/g, ' ')
		.replace(/&quot;/g, '"')
		.replace(/[ \t\n]+/g, ' ')
		.trim();

function slip(of: Docket, also: Partial<ComponentProps<typeof DocketSlip>> = {}) {
	const { body } = render(DocketSlip, { props: { docket: viewDocket(of, MAILBOX), mailbox: MAILBOX, ...also } });
	// the one that explains the word decides on nothing
	const deciding = body.replace(/<button[^>]*aria-label="What “docket” means"[^>]*>[\s\S]*?<\/button>/, '');
	const buttons = [...deciding.matchAll(/<button([^>]*)>([\s\S]*?)<\/button>/g)].map(
		([, attributes = '', inside = '']) => ({
			text: plain(inside) || (/aria-label="([^"]*)"/.exec(attributes)?.[1] ?? ''),
			isDisabled: /\bdisabled\b/.test(attributes)
		})
	);
	return { html: body, text: plain(body), buttons };
}
const done = (of: Docket, also: Partial<Docket> = {}): Docket => ({
	...of,
	state: 'carried-out',
	carriedOutAt: '2026-11-25T13:00:00Z',
	carriedOutBy: 'Ylva',
	...also
});

describe('a drafted docket on the slip', () => {
	it.each(DECISIONS)('says what %s does to how many, and has one button that carries it out', (decision) => {
		const of = docket([line(decision)]);
		const { text, buttons } = slip(of);
		expect(text).toContain(viewDocket(of, MAILBOX).sentences[0]);
		const [carry, ...others] = buttons.filter(({ text: label }) => label.startsWith('Carry out'));
		expect(others).toEqual([]);
		expect(carry?.text).toContain(ruleOf(decision).about === 'lists' ? '2 lists' : '4,812 messages');
		// what destroys waits for the words that confirm it
		expect(carry?.isDisabled).toBe(ruleOf(decision).confirmation === 'typed');
		expect(buttons.map(({ text: label }) => label)).toContain('Discard this docket');
	});

	it.each<[string, Decision, number, string]>([
		['the mailbox, for many', 'dispose', 4_812, "type the mailbox's name: Harbour office"],
		['the word, for few', 'dispose', 100, 'type the word: destroy'],
		['the mailbox, for many of the bin', 'destroy', 101, "type the mailbox's name: Harbour office"]
	])('asks for %s, before it destroys', (_what, decision, messages, asked) => {
		expect(slip(docket([line(decision, { messages })])).text).toContain(asked);
	});

	it('that does nothing says so on a button that cannot be pressed', () => {
		const { buttons, text } = slip(docket([line('archive', { messages: 0, bytes: 0, folders: 0 })]));
		expect(buttons.find(({ text: label }) => label.startsWith('Nothing to carry out'))?.isDisabled).toBe(true);
		expect(text).not.toMatch(/Carry out: \w+ 0 /);
	});

	it('tells what stays and why, and offers to include what is only protected', () => {
		const left = [
			{ reason: 'held' as const, messages: 12, holds: ['Slipway claim'] },
			{ reason: 'kept' as const, messages: 3 }
		];
		const { text, buttons } = slip(docket([line('delete', { left })]));
		expect(text).toContain('12 messages are under the hold “Slipway claim” and stay.');
		expect(buttons.map(({ text: label }) => label)).toContain('Include kept mail');
		expect(buttons.map(({ text: label }) => label).join()).not.toContain('Include held');
	});

	it('names flagged mail before it is archived, and offers to leave it; not when something else is done', () => {
		const shown = (decision: Decision, flagged: number) => slip(docket([line(decision, { flagged })]));
		expect(shown('archive', 12).text).toContain('12 of them are flagged. Leave flagged mail');
		expect(shown('archive', 1).text).toContain('1 of them is flagged. Leave flagged mail');
		for (const { text } of [shown('archive', 0), shown('move', 12), shown('tag', 12)])
			expect(text).not.toContain('Leave flagged mail');
	});

	it('shows weight before and after, at once and once the bin is empty', () => {
		expect(slip(docket([line('archive')])).text).toContain('1.90\u00a0GB now, 700\u00a0MB afterwards');
		expect(slip(docket([line('delete')])).text).toContain(
			'1.90\u00a0GB now, 1.90\u00a0GB afterwards, and 700\u00a0MB once the bin is empty'
		);
	});

	it('with several lines names each, and lets each be discarded by itself', () => {
		const lines = [line('archive'), line('tag', { id: 2, position: 2, messages: 10, bytes: 1_000 })];
		const { buttons, text } = slip(docket(lines, { messages: 4_820 }));
		expect(text).toContain('Carry out 2 decisions on 4,820 messages');
		expect(buttons.filter(({ text: label }) => label.startsWith('Discard line'))).toHaveLength(2);
	});

	it('shows what is sent to lists before it is sent', () => {
		const asks = [
			{
				listId: 4,
				list: 'Harbour Times',
				way: 'mail' as const,
				to: 'leave@times.example',
				subject: 'unsubscribe',
				text: ''
			}
		];
		const { text } = slip(docket([line('unsubscribe', { options: { asks } })]));
		expect(text).toContain('What Kovrel sends: 1');
		expect(text).toContain('leave@times.example');
	});
});

describe('a docket that needs a second person', () => {
	const demanded = () => (frame.page.data = { person: { name: 'Ylva' }, approvalDemanded: true });

	it.each<[string, Partial<Docket>, string, boolean]>([
		['its author waits', {}, 'a second administrator has to approve it', false],
		['somebody else approves', { draftedBy: 'Jonas', draftedById: 2 }, 'Prepared by Jonas', true],
		['approved, it can be confirmed', { approvedBy: 'Tove', approvedAt: '2026-11-25T12:30:00Z' }, 'by Tove', false]
	])('%s', (_what, also, says, canApprove) => {
		demanded();
		const { text, buttons } = slip(docket([line('destroy')], also));
		expect(text).toContain(says);
		expect(buttons.some(({ text: label }) => label === 'Approve: destroy 4,812 messages')).toBe(canApprove);
		expect(buttons.find(({ text: label }) => label.startsWith('Carry out'))?.isDisabled).toBe(true);
		expect(text.includes('To destroy')).toBe(also.approvedBy !== undefined);
	});

	it('only where something is destroyed', () => {
		demanded();
		const { buttons } = slip(docket([line('archive')]));
		expect(buttons.find(({ text: label }) => label.startsWith('Carry out'))?.isDisabled).toBe(false);
	});
});

describe('the result of a docket on the slip', () => {
	it.each(DECISIONS)('of %s can be taken back exactly where the decision says so', (decision) => {
		const { buttons, text } = slip(done(docket([line(decision)])));
		expect(buttons.some(({ text: label }) => label.startsWith('Take back'))).toBe(
			ruleOf(decision).takenBack !== 'never'
		);
		expect(text.includes('Destroyed mail cannot be restored.')).toBe(
			ruleOf(decision).takenBack === 'never' && ruleOf(decision).confirmation === 'typed'
		);
		expect(buttons.map(({ text: label }) => label)).toContain('Dismiss the result of docket 12');
	});

	it.each<[string, Partial<Docket>, string[]]>([
		['stopped while it was carried out', { state: 'carrying-out' }, ['Continue', 'Take back what it has done']],
		['stopped while it was taken back', { state: 'taking-back' }, ['Continue']]
	])('%s can go on', (_what, also, expected) => {
		const { text, buttons } = slip(docket([line('archive')], also));
		expect(text).toContain('stopped on the way. What it has done so far is kept.');
		expect(buttons.map(({ text: label }) => label)).toEqual(expected);
	});

	it('that destroys is not taken back on the way', () => {
		const { buttons } = slip(docket([line('destroy')], { state: 'carrying-out' }));
		expect(buttons.map(({ text: label }) => label)).toEqual(['Continue']);
	});

	it('taken back says how many are as before, and how many had been changed since', () => {
		const back = { state: 'taken-back' as const, takenBackAt: '2026-11-25T14:00:00Z', takenBackMessages: 4_800 };
		const { text, buttons } = slip(done(docket([line('archive')]), back));
		expect(text).toContain('4,800 messages are as before; 12 had been changed since');
		expect(buttons.map(({ text: label }) => label)).toEqual(['Dismiss the result of docket 12']);
	});
});

describe('an empty slip', () => {
	it('says what belongs there and how it gets there, and lists other dockets apart', () => {
		const others = [
			{ id: 3, name: 'Emptying the bin', messages: 12, state: 'drafted' as const, draftedBy: 'Kovrel' },
			{ id: 4, name: '', messages: 1, state: 'carrying-out' as const, draftedBy: 'Ylva' }
		];
		const { body } = render(DocketSlip, { props: { docket: null, mailbox: MAILBOX, others: others as never } });
		const text = plain(body);
		expect(text).toContain('Your decisions are collected here.');
		expect(text).toContain('Docket 3 (Emptying the bin) : 12 messages, drafted, prepared by Kovrel');
		expect(text).toContain('Docket 4 : 1 message, carrying out');
		expect(body).not.toMatch(/action="[^"]*carryOut/);
	});
});
