import { type CalendarDate, daysAfter, daysBetween } from '../calendar.ts';

/** Messages of a list on a day. */
export interface ListDay {
	listId: number;
	day: CalendarDate;
	messages: number;
}

/** A list with an unsubscribe request, and its day. */
export interface UnsubscribedList {
	listId: number;
	on: CalendarDate;
}

/** Mail from lists in a week. */
interface Week {
	/** Its first day. */
	from: CalendarDate;
	/** From lists with an unsubscribe request, before and after it. */
	left: number;
	others: number;
}

/** The decrease in mail since lists were unsubscribed from. */
export interface Inflow {
	weeks: Week[];
	/** Lists with an unsubscribe request. */
	lists: number;
	/** Messages a week from these before and since; only lists asked at least a week ago. */
	before: number;
	since: number;
	/** The days of the requests, each with the week in which it lies and how many lists were asked. */
	asked: { on: CalendarDate; week: number; lists: number }[];
}

/* The weeks before a request from which the earlier rate is taken. */
const WEEKS_BEFORE = 8;

/**
 * Computes how much less mail comes in since unsubscribing.
 *
 * @param days all mail from lists in the last `weeks` weeks and the eight before
 * @param today the weeks end on this day
 */
export function inflowOf(
	days: readonly ListDay[],
	left: readonly UnsubscribedList[],
	today: CalendarDate,
	weeks: number
): Inflow {
	const askedOn = new Map(left.map(({ listId, on }) => [listId, on]));
	const shown: Week[] = Array.from({ length: weeks }, (_, at) => ({
		from: daysAfter(today, -7 * (weeks - at) + 1),
		left: 0,
		others: 0
	}));
	const written = new Map<number, { before: number; since: number }>();
	for (const { listId, day, messages } of days) {
		const ago = daysBetween(day, today);
		const week = ago < 0 ? undefined : shown[weeks - 1 - Math.floor(ago / 7)];
		const asked = askedOn.get(listId);
		if (week) week[asked === undefined ? 'others' : 'left'] += messages;
		if (asked === undefined) continue;
		const counts = written.get(listId) ?? { before: 0, since: 0 };
		const before = daysBetween(day, asked);
		if (before > 0 && before <= 7 * WEEKS_BEFORE) counts.before += messages;
		// mail of the day of the request counts neither as before nor as after
		if (before < 0) counts.since += messages;
		written.set(listId, counts);
	}
	let before = 0;
	let since = 0;
	for (const { listId, on } of left) {
		const daysSince = daysBetween(on, today);
		const counts = written.get(listId);
		if (daysSince < 7 || !counts) continue;
		before += counts.before / WEEKS_BEFORE;
		since += (7 * counts.since) / daysSince;
	}
	return { weeks: shown, lists: left.length, before, since, asked: askedIn(shown, left) };
}

function askedIn(weeks: readonly Week[], left: readonly UnsubscribedList[]): Inflow['asked'] {
	const days = new Map<CalendarDate, number>();
	for (const { on } of left) days.set(on, (days.get(on) ?? 0) + 1);
	return [...days]
		.sort(([a], [b]) => (a < b ? -1 : 1))
		.map(([on, lists]) => ({ on, lists, week: weeks.findLastIndex(({ from }) => from <= on) }))
		.filter(({ week }) => week >= 0);
}
