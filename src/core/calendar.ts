import { Temporal } from 'temporal-polyfill';
import type { Instant } from './message/date.ts';

/** A calendar date in the office's own time zone, `YYYY-MM-DD`; sorts as text. */
export type CalendarDate = string;

function fourDigits(date: Temporal.PlainDate): CalendarDate {
	const year = Math.max(0, Math.min(9999, date.year));
	const two = (n: number) => String(n).padStart(2, '0');
	return `${String(year).padStart(4, '0')}-${two(date.month)}-${two(date.day)}`;
}

const DAY = 86_400;

/**
 * Returns a function from an instant to its calendar date.
 *
 * @param timeZone IANA name of the office's time zone
 * @throws RangeError where there is no such zone
 */
export function calendarIn(timeZone: string): (instant: Instant) => CalendarDate {
	Temporal.Instant.fromEpochMilliseconds(0).toZonedDateTimeISO(timeZone);
	const zonedAt = (instant: Instant) =>
		Temporal.Instant.fromEpochMilliseconds(instant * 1000).toZonedDateTimeISO(timeZone);
	// seconds ahead of UTC, for each day in UTC; undefined on days on which the clocks change
	const offsets = new Map<number, number | undefined>();
	const offsetOn = (day: number) => {
		if (!offsets.has(day)) {
			if (offsets.size > 50_000) offsets.clear();
			const [first, last] = [day * DAY, (day + 1) * DAY].map((instant) => zonedAt(instant).offsetNanoseconds / 1e9);
			offsets.set(day, first === last ? first : undefined);
		}
		return offsets.get(day);
	};
	return (instant) => {
		const offset = offsetOn(Math.floor(instant / DAY));
		const shown = offset === undefined ? '' : new Date((instant + offset) * 1000).toISOString();
		return /^\d{4}-/.test(shown) ? shown.slice(0, 10) : fourDigits(zonedAt(instant).toPlainDate());
	};
}

/**
 * The date so many months before another; the day is held to the month's last (ECMA-262 Temporal, `constrain`).
 */
export function monthsBefore(date: CalendarDate, months: number): CalendarDate {
	return fourDigits(Temporal.PlainDate.from(date).subtract({ months }, { overflow: 'constrain' }));
}

/** The date so many days after another. */
export function daysAfter(date: CalendarDate, days: number): CalendarDate {
	return fourDigits(Temporal.PlainDate.from(date).add({ days }));
}

/**
 * The date so many years, months and days after another: years and months first, held to the month's last day, then days
 * (ECMA-262 Temporal, `constrain`).
 */
export function dateAfter(date: CalendarDate, period: { years: number; months: number; days: number }): CalendarDate {
	return fourDigits(Temporal.PlainDate.from(date).add(period, { overflow: 'constrain' }));
}

/** How many days lie between two dates; negative where the second is the earlier. */
export function daysBetween(from: CalendarDate, to: CalendarDate): number {
	return Temporal.PlainDate.from(from).until(to, { largestUnit: 'days' }).days;
}

/**
 * Reads a date as people type it: `2024-03-01`, or a month or year, which stand for their first day.
 *
 * @returns undefined where it is no date of the calendar
 */
export function readDate(text: string): CalendarDate | undefined {
	const found = /^(\d{4})(?:-(\d{2})(?:-(\d{2}))?)?$/.exec(text.trim());
	if (!found) return undefined;
	try {
		const [, year, month = '01', day = '01'] = found;
		return fourDigits(
			Temporal.PlainDate.from({ year: Number(year), month: Number(month), day: Number(day) }, { overflow: 'reject' })
		);
	} catch {
		return undefined;
	}
}

/** The months, in full. */
export const MONTH_NAMES = [
	'January',
	'February',
	'March',
	'April',
	'May',
	'June',
	'July',
	'August',
	'September',
	'October',
	'November',
	'December'
];
const shortName = (month: string) => MONTH_NAMES[Number(month) - 1]?.slice(0, 3) ?? month;

/** A month `YYYY-MM` as it is shown: `Mar 2024`. */
export function showMonth(month: string): string {
	return `${shortName(month.slice(5, 7))} ${month.slice(0, 4)}`;
}

/** A date as it is shown: `4 Mar 2024`. */
export function showDate(date: CalendarDate): string {
	const [year = '', month = '', day = ''] = date.split('-');
	return `${Number(day)} ${shortName(month)} ${year}`;
}
