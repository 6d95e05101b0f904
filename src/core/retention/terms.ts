import type { CalendarDate } from '../calendar.ts';
import { type Period, periodEnd, periodText, readPeriod } from './periods.ts';

/** What starts a retention period. */
export const TRIGGERS = ['received', 'thread', 'calendar-year', 'financial-year', 'closed'] as const;
export type Trigger = (typeof TRIGGERS)[number];

/** The disposition at its end. */
export const DISPOSITIONS = ['archive', 'destroy', 'archive-destroy', 'review', 'keep'] as const;
export type Disposition = (typeof DISPOSITIONS)[number];

/** The terms of a series or a plain period. */
export interface Terms {
	trigger: Trigger;
	disposition: Disposition;
	/** The period to the end; undefined only if mail is kept for good. */
	period?: Period | undefined;
	/** The period to archiving, from the day of receipt; only if mail is archived and later destroyed. */
	archiveAfter?: Period | undefined;
}

/** The fault of terms, in words; undefined: none. */
export function wrongTerms({ disposition, period, archiveAfter }: Terms): string | undefined {
	if (disposition === 'keep') return period || archiveAfter ? 'What is kept for good has no period' : undefined;
	if (!period) return 'A period is missing';
	if (disposition === 'archive-destroy' && !archiveAfter) return 'The period until it is archived is missing';
	if (disposition !== 'archive-destroy' && archiveAfter)
		return 'Only what is archived and later destroyed has a second period';
	return undefined;
}

/** Terms as one word, to be stored and compared; {@link readTerms} reads it. */
export function termsText({ trigger, disposition, period, archiveAfter }: Terms): string {
	return [trigger, disposition, period ? periodText(period) : '-', archiveAfter ? periodText(archiveAfter) : '-'].join(
		' '
	);
}

/** Reads the output of {@link termsText}. @throws Error for anything else */
export function readTerms(text: string): Terms {
	const [trigger, disposition, period = '-', archiveAfter = '-'] = text.split(' ');
	const terms = {
		trigger: trigger as Trigger,
		disposition: disposition as Disposition,
		period: readPeriod(period),
		archiveAfter: readPeriod(archiveAfter)
	};
	if (!TRIGGERS.includes(terms.trigger) || !DISPOSITIONS.includes(terms.disposition) || wrongTerms(terms))
		throw new Error(`These are no terms: "${text}"`);
	return terms;
}

const two = (n: number) => String(n).padStart(2, '0');
const firstOf = (year: number, month: number): CalendarDate => `${String(year).padStart(4, '0')}-${two(month)}-01`;

/**
 * The day on which the period starts. A period from a year's end starts on the next day, so that a period of whole
 * years consists of whole years.
 *
 * @param event the day of the trigger: received, last message of the thread, or folder closed
 * @param firstMonth of the financial year, 1 to 12
 */
export function periodStart(trigger: Trigger, event: CalendarDate, firstMonth: number): CalendarDate {
	const [year, month] = [Number(event.slice(0, 4)), Number(event.slice(5, 7))];
	if (trigger === 'calendar-year') return firstOf(year + 1, 1);
	if (trigger === 'financial-year') return firstOf(month >= firstMonth ? year + 1 : year, firstMonth);
	return event;
}

/** The next disposition of an item. */
export const DUE_ACTIONS = ['archive', 'destroy', 'review'] as const;
export type DueAction = (typeof DUE_ACTIONS)[number];
export interface DueStep {
	action: DueAction;
	on: CalendarDate;
}

/** The facts that decide an item's next disposition. */
export interface RetainedItem {
	state: 'live' | 'archived';
	receivedOn: CalendarDate;
	/** The day of the trigger; undefined: not yet, as the folder is not closed. */
	event: CalendarDate | undefined;
}

/**
 * The next disposition of an item, and its day; undefined: none. Items with a date in doubt are never passed in: they
 * are never due (invariant 6).
 */
export function nextStep(terms: Terms, item: RetainedItem, firstMonth: number): DueStep | undefined {
	const { trigger, disposition, period, archiveAfter } = terms;
	if (disposition === 'keep' || !period) return undefined;
	const end = item.event === undefined ? undefined : periodEnd(periodStart(trigger, item.event, firstMonth), period);
	if (disposition === 'archive')
		return item.state === 'archived' || end === undefined ? undefined : { action: 'archive', on: end };
	if (disposition === 'archive-destroy' && archiveAfter && item.state === 'live') {
		const on = periodEnd(item.receivedOn, archiveAfter);
		// if destroying comes first, there is nothing to archive
		if (end === undefined || on < end) return { action: 'archive', on };
	}
	if (end === undefined) return undefined;
	return { action: disposition === 'review' ? 'review' : 'destroy', on: end };
}
