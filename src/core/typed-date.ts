import { type CalendarDate, dateAfter, daysAfter, MONTH_NAMES, monthsBefore, readDate } from './calendar.ts';

/** How a date field says what it takes. */
export const TYPED_DATE_HINT = 'Write a date such as 4 Mar 2024, 4/3/2024 (the day first), or 6 months ago';

const pad = (number: string | number) => String(number).padStart(2, '0');

/* The month whose name begins so; at least three letters. */
function monthNamed(word: string): number | undefined {
	const name = word.toLowerCase();
	const at = MONTH_NAMES.findIndex((month) => month.toLowerCase().startsWith(name));
	return name.length >= 3 && at >= 0 ? at + 1 : undefined;
}

const dateOf = (year: string | number, month: number | undefined, day: string | number) =>
	month === undefined ? undefined : readDate(`${year}-${pad(month)}-${pad(day)}`);

const lastDayOfYear = (year: number): CalendarDate => `${year}-12-31`;
const lastDayOfMonth = (date: CalendarDate, months: number): CalendarDate =>
	daysAfter(dateAfter(`${date.slice(0, 7)}-01`, { years: 0, months: months + 1, days: 0 }), -1);

type Unit = 'day' | 'week' | 'month' | 'year';

function aged(count: number, unit: Unit, back: boolean, today: CalendarDate): CalendarDate | undefined {
	if (count > 10_000) return undefined;
	const days = unit === 'day' ? count : unit === 'week' ? 7 * count : 0;
	if (days > 0) return daysAfter(today, back ? -days : days);
	const months = unit === 'year' ? 12 * count : count;
	return back ? monthsBefore(today, months) : dateAfter(today, { years: 0, months, days: 0 });
}

/* Ways to write a date; the first that gives one is taken. */
const WAYS: readonly [RegExp, (found: string[], today: CalendarDate) => CalendarDate | undefined][] = [
	[/^today$/, (_found, today) => today],
	[/^tomorrow$/, (_found, today) => daysAfter(today, 1)],
	[/^yesterday$/, (_found, today) => daysAfter(today, -1)],
	[
		/^(\d{1,2})(?:st|nd|rd|th)? ?([a-z]{3,9})\.? ?(\d{4})$/,
		([day = '', month = '', year = '']) => dateOf(year, monthNamed(month), day)
	],
	[
		/^([a-z]{3,9})\.? (\d{1,2})(?:st|nd|rd|th)?,? (\d{4})$/,
		([month = '', day = '', year = '']) => dateOf(year, monthNamed(month), day)
	],
	[
		/^(\d{1,2}) ?([a-z]{3,9})\.?$/,
		([day = '', month = ''], today) => dateOf(today.slice(0, 4), monthNamed(month), day)
	],
	[/^([a-z]{3,9})\.? (\d{4})$/, ([month = '', year = '']) => dateOf(year, monthNamed(month), 1)],
	[/^(\d{1,2})[./-](\d{1,2})[./-](\d{4})$/, ([day = '', month = '', year = '']) => dateOf(year, Number(month), day)],
	[
		/^end of (last|this|next) year$/,
		([which = ''], today) => lastDayOfYear(Number(today.slice(0, 4)) + STEPS[which as Which])
	],
	[/^end of (last|this|next) month$/, ([which = ''], today) => lastDayOfMonth(today, STEPS[which as Which])],
	[
		/^(?:in )?(\d{1,5}) (day|week|month|year)s?( ago| from now)?$/,
		([count = '', unit = '', where = ''], today) => aged(Number(count), unit as Unit, where === ' ago', today)
	]
];
const STEPS = { last: -1, this: 0, next: 1 };
type Which = keyof typeof STEPS;

/**
 * Reads a date as people type it: `2024-03-04`, `4 Mar 2024`, `4/3/2024` with the day first, `Mar 2024`, `today`,
 * `6 months ago`, `in 3 weeks`, `end of last year`. An age without `ago` or `in` counts in the direction that the field is
 * about.
 *
 * @param about whether the field is about days gone by or to come
 * @returns undefined where it is none of these, or no day of the calendar
 */
export function readTypedDate(
	text: string,
	today: CalendarDate,
	about: 'past' | 'future' = 'future'
): CalendarDate | undefined {
	const typed = text.trim().toLowerCase().replaceAll(/\s+/g, ' ');
	const age = about === 'past' && /^\d+ (day|week|month|year)s?$/.test(typed) ? `${typed} ago` : typed;
	const whole = readDate(typed);
	if (whole !== undefined) return whole;
	for (const [way, read] of WAYS) {
		const found = way.exec(age);
		const date = found && read(found.slice(1), today);
		if (date) return date;
	}
	return undefined;
}
