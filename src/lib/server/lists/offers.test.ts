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
 * Labelled by hand: corpus messages with words of unsubscribing, and mail in the style of the demo in four languages.
 * Corpus messages are named by the beginning of their SHA-256.
 */

async function labelled(): Promise<Map<string, boolean>> {
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
			const { text, html } = await readBody(bytes, scanStructure(bytes));
			texts.set(JSON.stringify([divideText(text).own, html]), offers);
		}
	expect(texts.size).toBeGreaterThan(0.9 * wanted.size);
	for (const text of OFFERING) texts.set(JSON.stringify([text]), true);
	for (const text of NOT_OFFERING) texts.set(JSON.stringify([text]), false);
	return texts;
}

describe('the footer finder on labelled mail', () => {
	it('finds offers to leave: precision and recall', async () => {
		const counts = { right: 0, wrong: 0, missed: 0, none: 0 };
		const wrong: string[] = [];
		for (const [key, offers] of await labelled()) {
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
		expect(counts.right + counts.wrong + counts.missed + counts.none).toBeGreaterThan(150);
		expect(wrong.filter((line) => line.startsWith('WRONG'))).toEqual([]);
		expect(recall).toBeGreaterThan(0.9);
	});
});
