import { type CalendarDate, daysAfter, showDate } from '../calendar.ts';
import type { WayKind } from './ways.ts';

/** The state of an attempt to unsubscribe. */
export type AttemptState =
	/** Not yet sent. */
	| 'waiting'
	/** Being sent; the result is not known yet. */
	| 'sending'
	/** Sent; not confirmed. */
	| 'asked'
	/** The list's operator confirms it. */
	| 'confirmed'
	/** The request failed or was refused. */
	| 'failed'
	/** Interrupted while being sent: it may have arrived, so it is not repeated automatically. */
	| 'unknown'
	/** Only a person can use that way. */
	| 'by-hand';

/** The last attempt to unsubscribe. */
export interface Attempt {
	state: AttemptState;
	way: WayKind;
	/** Its day. */
	on: CalendarDate;
	/** The answer. */
	answer: string;
}

/** The standing of a list. */
export type Standing = 'subscribed' | AttemptState | 'still-writing' | 'silent';

/** Days for which a list may go on writing after a request (common practice). */
export const USUAL_GRACE_DAYS = 10;

/**
 * The standing of a list: it confirmed, is silent since, or still writes after the days of grace.
 *
 * @param newest the day on which it last wrote
 */
export function standingOf(
	attempt: Attempt | undefined,
	newest: CalendarDate | undefined,
	today: CalendarDate,
	graceDays: number
): Standing {
	if (!attempt) return 'subscribed';
	const { state, on } = attempt;
	if (state !== 'asked' && state !== 'confirmed') return state;
	const border = daysAfter(on, graceDays);
	if (newest !== undefined && newest > border) return 'still-writing';
	return today > border ? 'silent' : state;
}

/** The standing of a list, in words. */
export function standingSentence(standing: Standing, attempt: Attempt | undefined, graceDays: number): string {
	const day = attempt ? showDate(attempt.on) : '';
	switch (standing) {
		case 'subscribed':
			return '';
		case 'waiting':
			return 'will be asked to stop';
		case 'sending':
			return 'is being asked to stop';
		case 'asked':
			return `asked to stop on ${day}`;
		case 'confirmed':
			return `left on ${day}, as it says`;
		case 'silent':
			return `left: silent since ${day}`;
		case 'still-writing':
			return `still writes, ${graceDays} days after it was asked on ${day}`;
		case 'failed':
			return `could not be left on ${day}: ${attempt?.answer ?? ''}`;
		case 'unknown':
			return `asked on ${day}, but cut off: it may have been heard`;
		case 'by-hand':
			return 'waits for you to open its link';
	}
}
