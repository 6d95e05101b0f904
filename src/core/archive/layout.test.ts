import { describe, expect, it } from 'vitest';
import { archivePath, type Layout, layoutWords } from './layout.ts';

describe('where an archived item goes', () => {
	it.each<[Layout['paths'], Layout['divide'], string, number, string, string]>([
		['keep', 'none', '2023-04', 1, 'Vessels/MV Terne', 'in the same folders'],
		['keep', 'year', '2023-04', 1, 'Vessels/MV Terne/2023', 'in the same folders, by year'],
		['keep', 'month', '2023-04', 1, 'Vessels/MV Terne/2023/2023-04', 'in the same folders, by month'],
		['keep', 'financial-year', '2023-04', 1, 'Vessels/MV Terne/2023', 'in the same folders, by financial year'],
		['keep', 'financial-year', '2023-04', 4, 'Vessels/MV Terne/2023-24', 'in the same folders, by financial year'],
		['keep', 'financial-year', '2023-03', 4, 'Vessels/MV Terne/2022-23', 'in the same folders, by financial year'],
		['keep', 'financial-year', '1999-12', 7, 'Vessels/MV Terne/1999-00', 'in the same folders, by financial year'],
		['keep', 'year', '', 1, 'Vessels/MV Terne/Undated', 'in the same folders, by year'],
		['flat', 'none', '2023-04', 1, 'All mail', 'without folder paths'],
		['flat', 'year', '2023-04', 1, '2023', 'without folder paths, by year'],
		['flat', 'month', '2023-04', 1, '2023/2023-04', 'without folder paths, by month'],
		['flat', 'financial-year', '', 4, 'Undated', 'without folder paths, by financial year']
	])('%s, divided by %s: %s, financial year from month %i: %s', (paths, divide, month, firstMonth, place, words) => {
		expect(archivePath('Vessels/MV Terne', month, { paths, divide }, firstMonth)).toBe(place);
		expect(layoutWords({ paths, divide })).toBe(words);
	});
});
