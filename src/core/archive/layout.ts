/** What a level of the archive's tree can be made of; own words are a level too ({@link ownWords}). */
export const LAYOUT_PARTS = ['folder', 'organisation', 'series', 'year', 'financial-year', 'quarter', 'month'] as const;
export type LayoutPart = (typeof LAYOUT_PARTS)[number];

/** A level of the archive's tree: a part, or own words behind the sign of {@link ownWords}. */
export type LayoutLevel = LayoutPart | `“${string}`;

/** How the archive of a mailbox is laid out: from the top of its tree down. Empty: all mail in one folder. */
export type Layout = readonly LayoutLevel[];

/** The archive shows the folder tree that people know. */
export const USUAL_LAYOUT: Layout = ['folder'];

/** The most levels that a layout has, and the longest own words. */
export const MOST_LEVELS = 6;
export const LONGEST_WORDS = 60;

/* The folder for mail of a layout without levels, and for mail without a date, a series or a sender. */
const UNDIVIDED = 'All mail';
const UNDATED = 'Undated';
const NO_SERIES = 'No series';
const NO_SENDER = 'No sender';

const DATED: readonly LayoutLevel[] = ['year', 'financial-year', 'quarter', 'month'];

/** A level of own words. Slashes make no further levels. */
export function ownWords(words: string): LayoutLevel {
	return `“${words.replaceAll('/', '-').trim().slice(0, LONGEST_WORDS)}`;
}

/** The own words of a level; undefined for a part. */
export function wordsOfLevel(level: string): string | undefined {
	return level.startsWith('“') ? level.slice(1) : undefined;
}

/** Whether a text is a level. */
export function isLevel(text: string): text is LayoutLevel {
	const words = wordsOfLevel(text);
	return words === undefined
		? (LAYOUT_PARTS as readonly string[]).includes(text)
		: ownWords(words) === text && words !== '';
}

/** A calendar month, `YYYY-MM`; empty where the date is missing or in doubt. */
type Month = string;

/** The facts of an item that decide where it goes in the archive. */
export interface ArchivedFacts {
	/** Path of its folder in the mailbox. */
	folder: string;
	/** Domain of the organisation that wrote it; empty: none. */
	organisation: string;
	/** Code of its series; empty: none. */
	series: string;
	month: Month;
}

/** Which facts a layout asks for. */
export function factsOf(layout: Layout): { [F in keyof ArchivedFacts]: boolean } {
	return {
		folder: layout.includes('folder'),
		organisation: layout.includes('organisation'),
		series: layout.includes('series'),
		month: layout.some((level) => DATED.includes(level))
	};
}

function financialYear(month: Month, firstMonth: number): string {
	const year = Number(month.slice(0, 4));
	if (firstMonth === 1) return String(year);
	const began = Number(month.slice(5, 7)) >= firstMonth ? year : year - 1;
	return `${began}-${String((began + 1) % 100).padStart(2, '0')}`;
}

function nameOf(
	level: LayoutLevel,
	{ folder, organisation, series, month }: ArchivedFacts,
	firstMonth: number
): string {
	switch (level) {
		case 'folder':
			return folder;
		case 'organisation':
			return organisation || NO_SENDER;
		case 'series':
			return series || NO_SERIES;
	}
	const words = wordsOfLevel(level);
	if (words !== undefined) return words;
	if (month === '') return UNDATED;
	switch (level) {
		case 'month':
			return month;
		case 'quarter':
			return `${month.slice(0, 4)} Q${Math.ceil(Number(month.slice(5, 7)) / 3)}`;
		case 'financial-year':
			return financialYear(month, firstMonth);
		default:
			return month.slice(0, 4);
	}
}

/**
 * The path of an item in the archive's tree.
 *
 * @param firstMonth of the financial year, 1 to 12; a financial year that is not the calendar year is called
 *   `2023-24`
 */
export function archivePath(facts: ArchivedFacts, layout: Layout, firstMonth: number): string {
	const names = layout.map((level) => nameOf(level, facts, firstMonth));
	// mail without a date lies in one such folder, however many levels are dates
	const once = names.filter((name, at) => name !== UNDATED || names[at - 1] !== UNDATED);
	return once.length > 0 ? once.join('/') : UNDIVIDED;
}

/** Each part in words. */
export const LEVEL_WORDS: Record<LayoutPart, string> = {
	folder: 'folder',
	organisation: 'organisation',
	series: 'series',
	year: 'year',
	'financial-year': 'financial year',
	quarter: 'quarter',
	month: 'month'
};

/** A layout in words: `in the same folders`, `by organisation, then year`. */
export function layoutWords(layout: Layout): string {
	const said = layout.map((level) => {
		const words = wordsOfLevel(level);
		return words === undefined ? LEVEL_WORDS[level as LayoutPart] : `“${words}”`;
	});
	if (layout.length === 0) return 'without folders';
	if (layout[0] !== 'folder') return `by ${said.join(', then ')}`;
	const rest = said.slice(1);
	return rest.length > 0 ? `in the same folders, by ${rest.join(', then ')}` : 'in the same folders';
}

/** Whether two layouts are the same. */
export const isSameLayout = (a: Layout, b: Layout): boolean =>
	a.length === b.length && a.every((level, at) => level === b[at]);

/**
 * A layout by the two settings that the terminal knew before there were levels.
 *
 * @param paths whether folder paths are kept
 * @param divide what the archive is divided by
 */
export function layoutBy(paths: 'keep' | 'flat', divide: 'none' | 'year' | 'month' | 'financial-year'): Layout {
	return [
		...(paths === 'keep' ? (['folder'] as const) : []),
		...(divide === 'month' ? (['year', 'month'] as const) : divide === 'none' ? [] : [divide])
	];
}
