import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { findOffer } from '../../../core/lists/offers.ts';
import { readBody } from '../../../core/message/body.ts';
import { divideText } from '../../../core/message/quoted.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { CORPORA, corpusFiles } from '../testing/corpora.ts';
import labels from '../testing/offers.json' with { type: 'json' };
import { NOT_OFFERING, OFFERING } from '../testing/offer-mail.ts';

/*
 * Labelled by hand: corpus messages with words of unsubscribing, 150 taken at even distances from all of them, and mail in the style of the demo in four languages.
 * Corpus messages are named by the beginning of their SHA-256.
 */

function labelled(): Map<string, boolean> {
	const wanted = new Map([
		...labels.offers.map((hash) => [hash, true] as const),
		...labels.none.map((hash) => [hash, false] as const)
	]);
	const texts = new Map<string, boolean>();
	for (const corpus of Object.keys(CORPORA) as (keyof typeof CORPORA)[])
		for (const file of corpusFiles(corpus)) {
			const bytes = new Uint8Array(readFileSync(file));
			const offers = wanted.get(createHash('sha256').update(bytes).digest('hex').slice(0, 12));
			if (offers === undefined) continue;
			const { text, html } = readBody(bytes, scanStructure(bytes));
			texts.set(JSON.stringify([divideText(text).own, html]), offers);
		}
	expect(texts.size).toBeGreaterThan(0.9 * wanted.size);
	for (const text of OFFERING) texts.set(JSON.stringify([text]), true);
	for (const text of NOT_OFFERING) texts.set(JSON.stringify([text]), false);
	return texts;
}

/* The footers of the corpora that occur most, read by eye: what stands in a message, and the target that its words belong to. */
const TARGETS: readonly [RegExp, string][] = [
	[/listinfo\/ilug for \(un\)subscription/, 'http://www.linux.ie/mailman/listinfo/ilug'],
	[/send an email to:\s+forteana-unsubscribe@egroups\.com/, 'forteana-unsubscribe@egroups.com'],
	[/To stop receiving this and other\s+messages from use Perl/, 'http://use.perl.org/my/messages/']
];

it('the target of a footer is the one its words belong to, in all of the corpora', () => {
	const found = new Map<string, number>();
	for (const file of corpusFiles('lists')) {
		const bytes = new Uint8Array(readFileSync(file));
		const { text, html } = readBody(bytes, scanStructure(bytes));
		const { own } = divideText(text);
		const [, target] = TARGETS.find(([words]) => words.test(own.slice(-900))) ?? [];
		if (target === undefined) continue;
		const said = findOffer(own, html)?.target;
		// somebody quotes a footer, and says something after it
		if (said === undefined) continue;
		expect(said, file).toBe(target);
		found.set(target, (found.get(target) ?? 0) + 1);
	}
	console.info(`footers of the corpora: ${JSON.stringify([...found])}`);
	for (const [, target] of TARGETS) expect(found.get(target)).toBeGreaterThan(45);
});

describe('the footer finder on labelled mail', () => {
	it('finds offers to leave: precision and recall', async () => {
		const counts = { right: 0, wrong: 0, missed: 0, none: 0 };
		const wrong: string[] = [];
		for (const [key, offers] of labelled()) {
			const [text, html] = JSON.parse(key) as [string, string | undefined];
			const found = findOffer(text, html ?? undefined);
			counts[found ? (offers ? 'right' : 'wrong') : offers ? 'missed' : 'none']++;
			if (Boolean(found) !== offers)
				wrong.push(`${found ? 'WRONG' : 'MISSED'} ${(found?.sentence ?? text.slice(-160)).replace(/\s+/g, ' ')}`);
		}
		const precision = counts.right / (counts.right + counts.wrong);
		const recall = counts.right / (counts.right + counts.missed);
		if (process.env.SHOW) console.info(wrong.join('\n'));
		console.info(
			`footer offers: ${JSON.stringify(counts)}, precision ${precision.toFixed(2)}, recall ${recall.toFixed(2)}`
		);
		expect(counts.wrong + counts.none).toBeGreaterThan(75);
		expect(counts.right + counts.wrong + counts.missed + counts.none).toBeGreaterThan(300);
		expect(wrong.filter((line) => line.startsWith('WRONG'))).toEqual([]);
		expect(recall).toBeGreaterThanOrEqual(0.97);
	});
});
