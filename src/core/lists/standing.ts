import { type CalendarDate, daysAfter, showDate } from '../calendar.ts';
import type { WayKind } from './ways.ts';

/** How far an attempt to unsubscribe from a list has come. */
export type AttemptState =
	/** Not yet sent. */
	| 'waiting'
	/** Being sent: what became of it is not known until it is answered. */
	| 'sending'
	/** Sent; nobody has said that it was heard. */
	| 'asked'
	/** Whoever runs the list says that it is left. */
	| 'confirmed'
	/** It could not be asked, or was refused. */
	| 'failed'
	/** Cut off while it was sent: it may have been heard or not, and is not tried again by itself. */
	| 'unknown'
	/** Only a person can take that way. */
	| 'by-hand';

/** The last attempt to unsubscribe from a list. */
export interface Attempt {
	state: AttemptState;
	way: WayKind;
	/** The day it was made. */
	on: CalendarDate;
	/** What was answered. */
	answer: string;
}

/** Where a list stands. */
export type Standing = 'subscribed' | AttemptState | 'still-writing' | 'silent';

/** Days for which a list may go on writing after it was asked to stop (common practice). */
export const USUAL_GRACE_DAYS = 10;

/**
 * Where a list stands: it has confirmed, is silent since, or still writes after the days of grace.
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

/** Where a list stands, in words. */
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
