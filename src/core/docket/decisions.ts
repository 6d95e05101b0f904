import type { CalendarDate } from '../calendar.ts';
import type { RecordClass } from '../retention/classes.ts';
import { tagKey } from '../tags/names.ts';

/** What can be decided on items. */
export const DECISIONS = [
	'archive',
	'restore',
	'arrange',
	'move',
	'delete',
	'dispose',
	'destroy',
	'tag',
	'untag',
	'flag',
	'unflag',
	'read',
	'unread',
	'keep',
	'release',
	'pause',
	'resume',
	'classify',
	'retain'
] as const;

/** What can be decided on lists; they are not about items, and what is asked of the outside cannot be taken back. */
export const LIST_DECISIONS = ['unsubscribe', 'block', 'digest'] as const;
export type ListDecision = (typeof LIST_DECISIONS)[number];
export type Decision = (typeof DECISIONS)[number] | ListDecision;

/** Whether a decision is about lists rather than items. */
export function isOnLists(decision: Decision): decision is ListDecision {
	return (LIST_DECISIONS as readonly Decision[]).includes(decision);
}

/** What protects an item from being deleted, not from being archived (invariant 16): it takes a decision that names it. */
export const PROTECTIONS = ['flagged', 'kept', 'paused'] as const;
export type Protection = (typeof PROTECTIONS)[number];

/** What a list is sent so that it stops. */
export interface ListAsk {
	listId: number;
	list: string;
	way: 'one-click' | 'mail';
	/** A web address, or an address to write to. */
	to: string;
	subject: string;
	text: string;
}

/** What a decision needs beside the items it is about. */
export interface DecisionOptions {
	/** Path of the folder to move to; of what is arranged, in the archive: without it, each goes by the mailbox's layout. */
	folder?: string | undefined;
	/** Name of the tag. */
	tag?: string | undefined;
	/** A pause ends on this day. */
	until?: CalendarDate | undefined;
	/** Why there is a pause, or why something is classed otherwise. */
	because?: string | undefined;
	/** Of each lot, so many of the newest stay. */
	keepNewest?: number | undefined;
	/** A decision of its own on what is protected: only items under this protection are meant. */
	only?: Protection | undefined;
	/** Of lists to unsubscribe from, so many only a person can leave. */
	byHand?: number | undefined;
	/** What is sent to whom for that, list by list: what is shown here is sent, and nothing else (invariant 19). */
	asks?: readonly ListAsk[] | undefined;
	/** What was marked by blocking, with what each was before: to be undone. */
	marks?: { kind: string; value: string; before: string | undefined }[] | undefined;
	/** The class to be given; null: that of the folder again. */
	class?: RecordClass | null | undefined;
	/** The series to be given, by its code, or a plain period by its terms (core/retention/terms); neither: the folder's again. */
	series?: string | undefined;
	terms?: string | undefined;
	/** Numbers of the tag, the pause and the retention, known once carrying out has begun. */
	tagId?: number | undefined;
	pauseId?: number | undefined;
	retentionId?: number | null | undefined;
}

/* Those that say where an item is; of an item, one of them can be carried out. What keeps more stands first. */
const PLACES: readonly Decision[] = ['restore', 'archive', 'move', 'arrange', 'delete', 'dispose', 'destroy'];
const PAIRS: Partial<Record<Decision, string>> = {
	flag: 'flag',
	unflag: 'flag',
	read: 'read',
	unread: 'read',
	keep: 'keep',
	release: 'keep',
	pause: 'pause',
	resume: 'pause',
	classify: 'class',
	retain: 'retention'
};

/** Whether a decision says where an item is, rather than what is on it. */
export function isPlace(decision: Decision): boolean {
	return PLACES.includes(decision);
}

/** Whether a decision destroys: what it has done cannot be taken back. */
export function isForGood(decision: Decision): boolean {
	return decision === 'dispose' || decision === 'destroy';
}

/** What a decision is about: of two about the same of one item, one can be carried out. */
export function aspectOf(decision: Decision, { tag = '' }: DecisionOptions): string {
	if (isPlace(decision)) return 'place';
	if (isOnLists(decision)) return decision;
	return PAIRS[decision] ?? `tag ${tagKey(tag)}`;
}

/** A decision as lines are compared. */
export interface ComparedLine {
	decision: Decision;
	options: DecisionOptions;
}

/* A decision in this docket that keeps an item is a protection already. */
const KEEPS: Partial<Record<Decision, readonly Decision[]>> = {
	keep: ['delete', 'dispose', 'destroy'],
	pause: ['delete', 'dispose', 'destroy'],
	// what is classed or given a period in this docket was not what the decision to destroy went by
	classify: ['delete', 'dispose'],
	retain: ['delete', 'dispose']
};

/**
 * Which of two lines decides on an item that both claim: what keeps more; of two alike, the later one.
 *
 * @param earlier stands before the other on the docket
 * @returns undefined where both can be carried out
 */
export function winner(earlier: ComparedLine, later: ComparedLine): 'earlier' | 'later' | undefined {
	if (KEEPS[earlier.decision]?.includes(later.decision) && later.options.only === undefined) return 'earlier';
	if (KEEPS[later.decision]?.includes(earlier.decision) && earlier.options.only === undefined) return 'later';
	if (aspectOf(earlier.decision, earlier.options) !== aspectOf(later.decision, later.options)) return undefined;
	if (!isPlace(earlier.decision)) return 'later';
	return PLACES.indexOf(earlier.decision) < PLACES.indexOf(later.decision) ? 'earlier' : 'later';
}

/** What protects an item from a decision. */
export function protectionsFrom(decision: Decision): readonly Protection[] {
	switch (decision) {
		case 'delete':
			return ['kept', 'paused', 'flagged'];
		case 'dispose':
		case 'destroy':
			return ['kept', 'paused'];
		default:
			return [];
	}
}
