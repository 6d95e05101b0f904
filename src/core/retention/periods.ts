import { type CalendarDate, dateAfter } from '../calendar.ts';

/** A length of time on the calendar. */
export interface Period {
	years: number;
	months: number;
	days: number;
}

/** The longest period; mail to be kept longer is kept for good. */
const MOST_YEARS = 200;

const FORM = /^P(?=\d)(?:(\d{1,4})Y)?(?:(\d{1,4})M)?(?:(\d{1,4})W)?(?:(\d{1,5})D)?$/;

/**
 * Reads a duration of whole days (ISO 8601-1:2019, 5.5.2.2): `P7Y`, `P1Y6M`, `P2W`, `P30D`.
 *
 * @returns undefined if it is none, is empty, or is longer than {@link MOST_YEARS}
 */
export function readPeriod(text: string): Period | undefined {
	const found = FORM.exec(text.trim().toUpperCase());
	if (!found) return undefined;
	const [years = 0, months = 0, weeks = 0, days = 0] = found.slice(1).map((part) => Number(part ?? 0));
	const period = { years, months, days: weeks * 7 + days };
	const inDays = years * 366 + months * 31 + period.days;
	return inDays > 0 && inDays <= MOST_YEARS * 366 ? period : undefined;
}

/** A period in ISO 8601; {@link readPeriod} reads it. */
export function periodText({ years, months, days }: Period): string {
	return `P${years ? `${years}Y` : ''}${months ? `${months}M` : ''}${days ? `${days}D` : ''}`;
}

/** A period in words: `7 years`, `1 year 6 months`. */
export function periodWords({ years, months, days }: Period): string {
	const said = (n: number, one: string) => (n === 0 ? '' : `${n} ${n === 1 ? one : `${one}s`}`);
	return [said(years, 'year'), said(months, 'month'), said(days, 'day')].filter(Boolean).join(' ');
}

/**
 * The day on which a period from a day has passed: years and months first, limited to the last day of a shorter month
 * (29 Feb + 1 year: 28 Feb), then days (ECMA-262 Temporal, `constrain`).
 */
export function periodEnd(start: CalendarDate, period: Period): CalendarDate {
	return dateAfter(start, period);
}
