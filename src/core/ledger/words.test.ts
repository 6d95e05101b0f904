import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { particularsOf } from './words.ts';

const said = (details: Record<string, unknown>) =>
	particularsOf(details)
		.map(({ name, value }) => `${name}: ${value}`)
		.join(' | ');

describe('the particulars of a ledger line', () => {
	it.each([
		[{ tag: 'Ramp', merged: 'Slipway', messages: 512 }, 'tag: Ramp | merged: Slipway | messages: 512'],
		[{ tag: 'Ramp', hidden: true, before: { hidden: false } }, 'tag: Ramp | hidden: yes | before: hidden no'],
		[
			{ binDays: 10, mailbox: 'Office', emptiesBin: false },
			'mailbox: Office | bin days: 10 | bin emptied by night: no'
		],
		[{ folders: ['A', 'B'], because: '' }, 'folders: A; B | reason: none'],
		[{ workingQuotaBytes: 5_000_000 }, 'quota of working papers: 5.00\u00a0MB'],
		[
			{ docket: 7, bytes: 1_900_000_000, certificateHash: 'ab' },
			'docket: 7 | bytes: 1.90\u00a0GB | SHA-256 of the certificate: ab'
		]
	])('%j', (details, expected) => expect(said(details)).toBe(expected));

	it('say what a step did apart from what its docket does, and numbers of things as they are', () =>
		expect(
			particularsOf({ docket: 1234, what: 'Destroy 1,504 messages.', messages: 1004 }, 'docket-carried-out')
		).toEqual([
			{ name: 'docket', value: '1234' },
			{ name: 'what', value: 'Destroy 1,504 messages.' },
			{ name: 'messages in this step', value: '1,004' }
		]));

	it('leave out nothing that is stored, whatever it is called', () => {
		const leaf = fc.string({ minLength: 1, maxLength: 12 });
		const value = fc.oneof(
			leaf,
			fc.array(leaf, { minLength: 1, maxLength: 4 }),
			fc.dictionary(leaf, leaf, { minKeys: 1, maxKeys: 3 })
		);
		fc.assert(
			fc.property(fc.dictionary(leaf, value, { maxKeys: 8 }), (details) => {
				const text = said(details);
				const leaves = Object.values(details).flatMap((one) => (typeof one === 'string' ? [one] : Object.values(one)));
				expect(particularsOf(details)).toHaveLength(Object.keys(details).length);
				for (const one of leaves) expect(text).toContain(one);
			})
		);
	});
});
