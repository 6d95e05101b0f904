import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	archivePath,
	type ArchivedFacts,
	isLevel,
	type Layout,
	LAYOUT_PARTS,
	layoutBy,
	layoutWords,
	LONGEST_WORDS,
	ownWords
} from './layout.ts';

const FACTS: ArchivedFacts = {
	folder: 'Vessels/MV Terne',
	organisation: 'slipworks.example',
	series: 'FIN-02',
	month: '2023-04'
};
const CLOSED = ownWords('Closed files');

describe('where an archived item goes', () => {
	it.each<[Layout, Partial<ArchivedFacts>, number, string, string]>([
		[['folder'], {}, 1, 'Vessels/MV Terne', 'in the same folders'],
		[['folder', 'year'], {}, 1, 'Vessels/MV Terne/2023', 'in the same folders, by year'],
		[['folder', 'year', 'month'], {}, 1, 'Vessels/MV Terne/2023/2023-04', 'in the same folders, by year, then month'],
		[['folder', 'financial-year'], {}, 4, 'Vessels/MV Terne/2023-24', 'in the same folders, by financial year'],
		[['financial-year'], { month: '2023-03' }, 4, '2022-23', 'by financial year'],
		[['financial-year'], { month: '1999-12' }, 7, '1999-00', 'by financial year'],
		[['financial-year'], {}, 1, '2023', 'by financial year'],
		[['quarter'], {}, 1, '2023 Q2', 'by quarter'],
		[['quarter'], { month: '2023-12' }, 1, '2023 Q4', 'by quarter'],
		[['organisation', 'year'], {}, 1, 'slipworks.example/2023', 'by organisation, then year'],
		[['organisation'], { organisation: '' }, 1, 'No sender', 'by organisation'],
		[['series', 'folder'], {}, 1, 'FIN-02/Vessels/MV Terne', 'by series, then folder'],
		[['series'], { series: '' }, 1, 'No series', 'by series'],
		[[CLOSED, 'year'], {}, 1, 'Closed files/2023', 'by “Closed files”, then year'],
		[['year', 'month'], { month: '' }, 1, 'Undated', 'by year, then month'],
		[
			['year', CLOSED, 'month'],
			{ month: '' },
			1,
			'Undated/Closed files/Undated',
			'by year, then “Closed files”, then month'
		],
		[[], {}, 1, 'All mail', 'without folders']
	])('%j of %j, financial year from month %i: %s', (layout, facts, firstMonth, place, words) => {
		expect(archivePath({ ...FACTS, ...facts }, layout, firstMonth)).toBe(place);
		expect(layoutWords(layout)).toBe(words);
	});

	it.each<[Parameters<typeof layoutBy>, Layout]>([
		[['keep', 'none'], ['folder']],
		[
			['keep', 'month'],
			['folder', 'year', 'month']
		],
		[['flat', 'financial-year'], ['financial-year']],
		[['flat', 'none'], []]
	])('the two settings of before, %j, are %j', ([paths, divide], layout) => {
		expect(layoutBy(paths, divide)).toEqual(layout);
	});

	it('takes any words for a level of one folder, and nothing else that is no part', () => {
		fc.assert(
			fc.property(fc.string({ maxLength: 100 }), (words) => {
				const level = ownWords(words);
				expect(isLevel(level)).toBe(words.trim() !== '');
				const path = archivePath(FACTS, [level], 1);
				expect(path).not.toContain('/');
				expect(path.length).toBeLessThanOrEqual(LONGEST_WORDS);
				expect(isLevel(words)).toBe(
					words !== '“' && (LAYOUT_PARTS as readonly string[]).concat(ownWords(words.slice(1))).includes(words)
				);
			})
		);
	});
});
