import { type CalendarDate, showDate } from '../calendar.ts';
import { showCount } from '../weigh/units.ts';
import { CLASS_WORDS } from './classes.ts';
import type { Governed, Source } from './folders.ts';
import { periodWords } from './periods.ts';
import type { Disposition, DueAction, Terms, Trigger } from './terms.ts';

/** What starts the period, as it stands in a sheet. */
export const TRIGGER_WORDS: Record<Trigger, string> = {
	received: 'received',
	thread: 'last message of the thread',
	'calendar-year': 'end of the calendar year',
	'financial-year': 'end of the financial year',
	closed: 'folder closed'
};

/** What happens at the end, as it stands in a sheet. */
export const DISPOSITION_WORDS: Record<Disposition, string> = {
	archive: 'archive',
	destroy: 'destroy',
	'archive-destroy': 'archive, later destroy',
	review: 'review by a person',
	keep: 'keep for good'
};

/** What is due, as it stands in a sheet. */
export const ACTION_WORDS: Record<DueAction, string> = {
	archive: 'archive',
	destroy: 'destroy',
	review: 'look at'
};

/* What the period counts from. `isSecond`: receiving has been spoken of. */
function since(trigger: Trigger, closedOn: CalendarDate | undefined, isSecond: boolean): string {
	switch (trigger) {
		case 'received':
			return 'it was received';
		case 'thread':
			return 'the last message of its thread';
		case 'calendar-year':
			return isSecond ? 'the end of that calendar year' : 'the end of the calendar year in which it was received';
		case 'financial-year':
			return isSecond ? 'the end of that financial year' : 'the end of the financial year in which it was received';
		case 'closed':
			return closedOn ? `the folder was closed (${showDate(closedOn)})` : 'the folder is closed';
	}
}

/** What terms say of mail: "archived 24 months after it was received and destroyed 7 years after the end of that financial year". */
export function termsWords(terms: Terms, closedOn?: CalendarDate): string {
	const { trigger, disposition, period, archiveAfter } = terms;
	if (disposition === 'keep' || !period) return 'kept for good';
	const after = (isSecond: boolean) => `${periodWords(period)} after ${since(trigger, closedOn, isSecond)}`;
	if (disposition === 'archive-destroy' && archiveAfter)
		return `archived ${periodWords(archiveAfter)} after it was received and destroyed ${after(true)}`;
	if (disposition === 'review') return `looked at by a person ${after(false)}`;
	return `${disposition === 'archive' ? 'archived' : 'destroyed'} ${after(false)}`;
}

/** Where it is set, in words. */
export function sourceWords(source: Source): string {
	switch (source.kind) {
		case 'own':
			return 'set here';
		case 'named':
			return `as every folder called “${source.name}”`;
		case 'inherited':
			return `set on ${source.path}`;
		case 'default':
			return 'the default of the mailbox';
		case 'class':
			return `the policy for ${CLASS_WORDS[source.class].words === 'record' ? 'records' : `${source.class} mail`}`;
	}
}

/** What falls due next in a folder. */
export interface NextDue {
	action: DueAction;
	on: CalendarDate;
	messages: number;
}

const DONE: Record<DueAction, string> = { archive: 'archived', destroy: 'destroyed', review: 'looked at' };

/** What falls due next: "Next: 214 messages are destroyed on 1 Dec 2026." */
export function nextWords({ action, on, messages }: NextDue, today: CalendarDate): string {
	const are = messages === 1 ? 'message is' : 'messages are';
	if (on <= today) return `Due now: ${showCount(messages)} ${are} to be ${DONE[action]}.`;
	return `Next: ${showCount(messages)} ${are} ${DONE[action]} on ${showDate(on)}.`;
}

/**
 * What happens to the mail of a folder, as one plain sentence: "Mail here is archived 24 months after it was received and
 * destroyed 7 years after the end of that financial year (series FIN-02, set on Accounts). Next: 214 messages are archived
 * on 1 Dec 2026."
 *
 * @param terms of what governs it; undefined where nothing does
 * @param code of the series
 */
export function folderSentence(
	governed: Pick<Governed, 'source' | 'closedOn'>,
	terms: Terms | undefined,
	{ code, next, today }: { code?: string | undefined; next?: NextDue | undefined; today: CalendarDate }
): string {
	const { source, closedOn } = governed;
	if (!terms || !source) return 'Mail here stays: no period is set, neither here, nor above, nor as a default.';
	const why = [code ? `series ${code}` : '', sourceWords(source)].filter(Boolean).join(', ');
	const open =
		terms.trigger === 'closed' && !closedOn && terms.disposition !== 'keep'
			? ' The folder is not closed yet, so its period has not begun.'
			: '';
	const after = next
		? ` ${nextWords(next, today)}`
		: open || terms.disposition === 'keep'
			? ''
			: ' Nothing is due yet.';
	return `Mail here is ${termsWords(terms, closedOn)} (${why}).${open}${after}`;
}
