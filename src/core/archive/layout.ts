/** Whether archived mail keeps the paths of the folders it came from. */
export const LAYOUT_PATHS = ['keep', 'flat'] as const;
/** What the archive is divided by. */
export const LAYOUT_DIVISIONS = ['none', 'year', 'month', 'financial-year'] as const;

/** How the archive of a mailbox is laid out. */
export interface Layout {
	paths: (typeof LAYOUT_PATHS)[number];
	divide: (typeof LAYOUT_DIVISIONS)[number];
}

/** The archive shows the folder tree that people know. */
export const USUAL_LAYOUT: Layout = { paths: 'keep', divide: 'none' };

/* The folder for undivided mail in a flat archive, and for mail without a date in a divided one. */
const UNDIVIDED = 'All mail';
const UNDATED = 'Undated';

/** A calendar month, `YYYY-MM`; empty where the date is missing or in doubt. */
export type Month = string;

/**
 * The path that a division gives to a month.
 *
 * @param firstMonth of the financial year, 1 to 12; a financial year that is not the calendar year is called
 *   `2023-24`
 */
function divisionNames(month: Month, divide: Layout['divide'], firstMonth: number): string[] {
	if (divide === 'none') return [];
	if (month === '') return [UNDATED];
	const year = Number(month.slice(0, 4));
	if (divide === 'year') return [String(year)];
	if (divide === 'month') return [String(year), month];
	if (firstMonth === 1) return [String(year)];
	const began = Number(month.slice(5, 7)) >= firstMonth ? year : year - 1;
	return [`${began}-${String((began + 1) % 100).padStart(2, '0')}`];
}

/**
 * The path of an item in the archive's tree.
 *
 * @param folderPath of the folder in the mailbox
 * @param month in which it was received
 */
export function archivePath(folderPath: string, month: Month, layout: Layout, firstMonth: number): string {
	const names = divisionNames(month, layout.divide, firstMonth);
	if (layout.paths === 'flat') return names.length > 0 ? names.join('/') : UNDIVIDED;
	return [folderPath, ...names].join('/');
}

const IN_WORDS: Record<Layout['divide'], string> = {
	none: '',
	year: 'by year',
	month: 'by month',
	'financial-year': 'by financial year'
};

/** A layout in words: `in the same folders, by year`. */
export function layoutWords({ paths, divide }: Layout): string {
	return [paths === 'keep' ? 'in the same folders' : 'without folder paths', IN_WORDS[divide]]
		.filter(Boolean)
		.join(', ');
}
