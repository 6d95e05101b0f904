import { type CalendarDate, dateAfter, daysAfter, MONTH_NAMES } from '../calendar.ts';

/** A meaning of words for a time, as a query. */
export interface DateMeaning {
	/** As the person wrote it, corrected. */
	words: string;
	since: CalendarDate;
	/** The day after its last. */
	before: CalendarDate;
}

const SEASONS: Record<string, number> = { spring: 3, summer: 6, autumn: 9, fall: 9, winter: 12 };
const UNITS = { day: { days: 1 }, week: { days: 7 }, month: { months: 1 }, year: { years: 1 } } as const;
const NONE = { years: 0, months: 0, days: 0 };

const pad = (n: number, digits = 2) => String(n).padStart(digits, '0');
const dateOf = (year: number, month: number, day = 1): CalendarDate => `${pad(year, 4)}-${pad(month)}-${pad(day)}`;

function monthNumber(word: string): number | undefined {
	if (word.length < 3) return undefined;
	const at = MONTH_NAMES.findIndex((name) => name.toLowerCase().startsWith(word));
	return at === -1 ? undefined : at + 1;
}

const aMonth = (year: number, month: number) => ({
	since: dateOf(year, month),
	before: dateAfter(dateOf(year, month), { ...NONE, months: 1 })
});
/* Whole months, as weather services count seasons in the north; a winter belongs to the year in which it begins. */
const aSeason = (year: number, season: string) => {
	const since = dateOf(year, SEASONS[season] as number);
	return { since, before: dateAfter(since, { ...NONE, months: 3 }) };
};
const aYear = (year: number) => ({ since: dateOf(year, 1), before: dateOf(year + 1, 1) });

/* The last one that has ended, or at least begun. */
function lastOf(today: CalendarDate, of: (year: number) => { since: CalendarDate; before: CalendarDate }) {
	const year = Number(today.slice(0, 4));
	return [year, year - 1, year - 2].map(of).find(({ before }) => before <= today) ?? of(year - 1);
}

/* The Monday of a week (ISO 8601). */
function monday(date: CalendarDate): CalendarDate {
	const day = new Date(`${date}T00:00:00Z`).getUTCDay();
	return daysAfter(date, -((day + 6) % 7));
}

type Reader = (found: RegExpExecArray, today: CalendarDate) => Omit<DateMeaning, 'words'> | undefined;

const READERS: [RegExp, Reader][] = [
	[/^today$/, (_, today) => ({ since: today, before: daysAfter(today, 1) })],
	[/^yesterday$/, (_, today) => ({ since: daysAfter(today, -1), before: today })],
	[/^this week$/, (_, today) => ({ since: monday(today), before: daysAfter(monday(today), 7) })],
	[/^last week$/, (_, today) => ({ since: daysAfter(monday(today), -7), before: monday(today) })],
	[/^this month$/, (_, today) => aMonth(Number(today.slice(0, 4)), Number(today.slice(5, 7)))],
	[
		/^last month$/,
		(_, today) => {
			const since = dateAfter(`${today.slice(0, 7)}-01`, { ...NONE, months: -1 });
			return { since, before: `${today.slice(0, 7)}-01` };
		}
	],
	[/^this year$/, (_, today) => aYear(Number(today.slice(0, 4)))],
	[/^last year$/, (_, today) => aYear(Number(today.slice(0, 4)) - 1)],
	[
		/^(?:the )?(?:last|past) (\d{1,3}) (day|week|month|year)s?$/,
		([, n, unit], today) => {
			const step = UNITS[unit as keyof typeof UNITS];
			const back = Object.fromEntries(Object.entries(step).map(([key, value]) => [key, -value * Number(n)]));
			return { since: dateAfter(today, { ...NONE, ...back }), before: daysAfter(today, 1) };
		}
	],
	[
		/^last (spring|summer|autumn|fall|winter)$/,
		([, season = ''], today) => lastOf(today, (year) => aSeason(year, season))
	],
	[
		/^(?:in )?(spring|summer|autumn|fall|winter) (?:of )?(\d{4})$/,
		([, season = '', year]) => aSeason(Number(year), season)
	],
	[
		/^last (\p{L}+)$/u,
		([, word = ''], today) => {
			const month = monthNumber(word);
			return month === undefined ? undefined : lastOf(today, (year) => aMonth(year, month));
		}
	],
	[
		/^(?:in )?(\p{L}+) (?:of )?(\d{4})$/u,
		([, word = '', year]) => {
			const month = monthNumber(word);
			return month === undefined ? undefined : aMonth(Number(year), month);
		}
	],
	[/^(?:in )?((?:19|20)\d{2})$/, ([, year]) => aYear(Number(year))]
];

/**
 * Reads the last words of a text as a time: "last winter", "March 2021". Only ever a suggestion: "may" is a word,
 * too.
 *
 * @param today the office's
 * @returns the words before it and the meaning; undefined if they name no time
 */
export function dateInWords(text: string, today: CalendarDate): { rest: string; meaning: DateMeaning } | undefined {
	const words = text.trim().split(/\s+/);
	for (let from = Math.max(0, words.length - 4); from < words.length; from++) {
		const said = words.slice(from).join(' ');
		for (const [pattern, read] of READERS) {
			const found = pattern.exec(said.toLowerCase());
			const meaning = found && read(found, today);
			if (meaning) return { rest: words.slice(0, from).join(' '), meaning: { words: said, ...meaning } };
		}
	}
	return undefined;
}
