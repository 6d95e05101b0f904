import { type CalendarDate, daysAfter, daysBetween } from '../calendar.ts';

/** Messages of a list on a day. */
export interface ListDay {
	listId: number;
	day: CalendarDate;
	messages: number;
}

/** A list that was asked to stop, and when. */
export interface LeftList {
	listId: number;
	on: CalendarDate;
}

/** What lists wrote in a week. */
interface Week {
	/** Its first day. */
	from: CalendarDate;
	/** By lists that were asked to stop, before and after. */
	left: number;
	others: number;
}

/** How much less comes in since lists were left. */
export interface Inflow {
	weeks: Week[];
	/** Lists that were asked to stop. */
	lists: number;
	/** Messages a week that these wrote before, and since; from those that were asked a week ago or more. */
	before: number;
	since: number;
}

/* So many weeks before a list was asked tell how much it wrote. */
const WEEKS_BEFORE = 8;

/**
 * How much less comes in since lists were asked to stop.
 *
 * @param days all that lists wrote in the last `weeks` weeks and the eight before
 * @param today the weeks end on this day
 */
export function inflowOf(
	days: readonly ListDay[],
	left: readonly LeftList[],
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
		// what was on its way on the day it was asked is neither
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
	return { weeks: shown, lists: left.length, before, since };
}
