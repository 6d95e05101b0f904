import { type CalendarDate, showDate } from '../calendar.ts';
import { showCount } from '../weigh/units.ts';
import type { Governed, Source } from './folders.ts';
import { periodWords } from './periods.ts';
import type { Disposition, DueAction, Terms, Trigger } from './terms.ts';

/** The trigger of a period, as shown in a sheet. */
export const TRIGGER_WORDS: Record<Trigger, string> = {
	received: 'received',
	thread: 'last message of the thread',
	'calendar-year': 'end of the calendar year',
	'financial-year': 'end of the financial year',
	closed: 'folder closed'
};

/** The disposition, as shown in a sheet. */
export const DISPOSITION_WORDS: Record<Disposition, string> = {
	archive: 'archive',
	destroy: 'destroy',
	'archive-destroy': 'archive, later destroy',
	review: 'review by a person',
	keep: 'keep for good'
};

/** The due disposition, as shown in a sheet. */
export const ACTION_WORDS: Record<DueAction, string> = {
	archive: 'archive',
	destroy: 'destroy',
	review: 'review'
};

/* What the period counts from. `isSecond`: receipt was mentioned before. */
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

/**
 * Terms in words: "archived 24 months after it was received and destroyed 7 years after the end of that financial
 * year".
 */
export function termsWords(terms: Terms, closedOn?: CalendarDate): string {
	const { trigger, disposition, period, archiveAfter } = terms;
	if (disposition === 'keep' || !period) return 'kept for good';
	const after = (isSecond: boolean) => `${periodWords(period)} after ${since(trigger, closedOn, isSecond)}`;
	if (disposition === 'archive-destroy' && archiveAfter)
		return `archived ${periodWords(archiveAfter)} after it was received and destroyed ${after(true)}`;
	if (disposition === 'review') return `reviewed by a person ${after(false)}`;
	return `${disposition === 'archive' ? 'archived' : 'destroyed'} ${after(false)}`;
}

/** Where terms are set, in words. */
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
			return `the period of the class “${source.name}”`;
	}
}

/** Mail of a folder that falls due on a day. */
export interface NextDue {
	action: DueAction;
	on: CalendarDate;
	/** Without mail that stays under a hold or a pause, or because it is kept. */
	messages: number;
}

/** All upcoming dispositions in a folder, and mail that stays though it is due. */
export interface Coming {
	/** For each action what is due now, and the next day with its count. */
	actions: readonly NextDue[];
	/** Messages under a hold, due or not, with the names of the holds. */
	held: { messages: number; holds: readonly string[] };
	/** Messages due to be destroyed that stay, because they are kept or paused. */
	kept: number;
	paused: number;
	/** The pause of the folder, its own or inherited. */
	pause: { until: CalendarDate; because: string } | undefined;
}

const DONE: Record<DueAction, string> = { destroy: 'destroyed', archive: 'archived', review: 'reviewed' };
const ORDER = Object.keys(DONE);

const joined = (parts: readonly string[]) =>
	parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;

/* "60 messages are to be destroyed and 55 to be archived": noun and verb stand once. */
function counted(actions: readonly NextDue[], toBe: string, when: (next: NextDue) => string): string {
	return joined(
		actions.map((next, at) => {
			const are = next.messages === 1 ? 'message is' : 'messages are';
			return `${showCount(next.messages)} ${at === 0 ? `${are} ` : ''}${toBe}${DONE[next.action]}${when(next)}`;
		})
	);
}

/** Upcoming dispositions of a folder, in words: "Due now: 60 messages are to be destroyed and 55 to be archived." */
function comingWords({ actions, held, kept, paused, pause }: Coming, today: CalendarDate, isOff: boolean): string {
	const inOrder = actions
		.filter(({ messages }) => messages > 0)
		.sort((a, b) => ORDER.indexOf(a.action) - ORDER.indexOf(b.action));
	const now = inOrder.filter(({ on }) => on <= today);
	const next = inOrder.filter(({ on }) => on > today).sort((a, b) => (a.on < b.on ? -1 : a.on > b.on ? 1 : 0));
	const stays = (messages: number, why: string) =>
		messages === 0 ? [] : [`${showCount(messages)} due to be destroyed ${messages === 1 ? 'stays' : 'stay'}: ${why}.`];
	return [
		...(now.length > 0 ? [`Due now: ${counted(now, 'to be ', () => '')}.`] : []),
		...(next.length > 0 ? [`Next: ${counted(next, isOff ? 'to be ' : '', ({ on }) => ` on ${showDate(on)}`)}.`] : []),
		...(pause ? [`Paused: nothing here is destroyed before ${showDate(pause.until)}, because ${pause.because}.`] : []),
		...(held.messages > 0
			? [
					`${showCount(held.messages)} ${held.messages === 1 ? 'message is' : 'messages are'} under the ${
						held.holds.length === 1 ? 'hold' : 'holds'
					} ${joined(held.holds.map((name) => `“${name}”`))} and ${held.messages === 1 ? 'is' : 'are'} not destroyed.`
				]
			: []),
		...stays(kept, 'kept'),
		...stays(paused, 'under a pause')
	].join(' ');
}

/** A message for which retention is put into words. */
export interface RetainedItem {
	state: 'live' | 'archived' | 'binned' | 'destroyed';
	/** When it was archived; undefined if that is not known. */
	archivedOn: CalendarDate | undefined;
	due: { action: DueAction; on: CalendarDate } | undefined;
	dateInDoubt: boolean;
}

/* Without the scheduled run, a person decides. */
const happening = ({ disposition }: Terms, isOff: boolean) => (isOff && disposition !== 'keep' ? 'due to be ' : '');

/**
 * The retention of a message, in words. Past events are told in the past tense with their day, future ones by the
 * terms: "It was archived on 4 Mar 2024. It is destroyed 7 years after it was received (series FIN-02). It is due on
 * 1 Dec 2030."
 *
 * @param source why, in words
 * @param about.isOff the scheduled run is off: nothing happens by itself
 */
export function itemSentence(
	item: RetainedItem,
	terms: Terms,
	source: string,
	{ closedOn, isOff = false }: { closedOn?: CalendarDate | undefined; isOff?: boolean } = {}
): string {
	const { state, archivedOn, due, dateInDoubt } = item;
	const isPast = state === 'archived' && terms.disposition !== 'keep';
	const rest: Terms | undefined =
		isPast && terms.disposition === 'archive'
			? undefined
			: isPast && terms.disposition === 'archive-destroy'
				? { ...terms, disposition: 'destroy', archiveAfter: undefined }
				: terms;
	return [
		...(state === 'archived' ? [archivedOn ? `It was archived on ${showDate(archivedOn)}.` : 'It was archived.'] : []),
		rest
			? `It is ${happening(rest, isOff)}${termsWords(rest, closedOn)} (${source}).`
			: `Nothing more happens to it (${source}).`,
		...(due ? [`It is due to be ${DONE[due.action]} on ${showDate(due.on)}.`] : []),
		...(!due && dateInDoubt ? ['Its date is in doubt, so it is never due by itself.'] : [])
	].join(' ');
}

/**
 * The retention of a folder, as one sentence: "Mail here is archived 24 months after it was received and destroyed 7
 * years after the end of that financial year (series FIN-02, set on Accounts). Next: 214 messages are archived on 1
 * Dec 2026."
 *
 * @param terms of what governs it; undefined where nothing does
 * @param about.code of the series
 * @param about.isOff the scheduled run is off: nothing happens by itself
 */
export function folderSentence(
	governed: Pick<Governed, 'source' | 'closedOn'>,
	terms: Terms | undefined,
	{
		code,
		coming,
		today,
		isOff = false
	}: { code?: string | undefined; coming?: Coming | undefined; today: CalendarDate; isOff?: boolean }
): string {
	const { source, closedOn } = governed;
	const come = coming ? comingWords(coming, today, isOff) : '';
	if (!terms || !source)
		return ['Mail here stays: no period is set here, above, or as the default.', come].filter(Boolean).join(' ');
	const why = [code ? `series ${code}` : '', sourceWords(source)].filter(Boolean).join(', ');
	const open =
		terms.trigger === 'closed' && !closedOn && terms.disposition !== 'keep'
			? ' The folder is not closed yet, so its period has not begun.'
			: '';
	const isDue = coming?.actions.some(({ messages }) => messages > 0) ?? false;
	const none = isDue || open || terms.disposition === 'keep' ? '' : ' Nothing is due yet.';
	const after = `${none}${come ? ` ${come}` : ''}`;
	return `Mail here is ${happening(terms, isOff)}${termsWords(terms, closedOn)} (${why}).${open}${after}`;
}
