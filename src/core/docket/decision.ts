import type { Layout } from '../archive/layout.ts';
import type { CalendarDate } from '../calendar.ts';
import type { ClassWord } from '../retention/classes.ts';
import { showCount } from '../weigh/units.ts';

/** The states of an item (invariant 1). */
export type ItemState = 'live' | 'archived' | 'binned' | 'destroyed';

/**
 * A protection of an item: against being deleted, or against being archived (invariant 16). A decision has to name it to
 * override it.
 */
export const PROTECTIONS = ['flagged', 'kept', 'paused', 'never-archived'] as const;
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

/** The options of a decision, beside the items it applies to. */
export interface DecisionOptions {
	/**
	 * Path of the folder to move or restore to. For mail that is archived, or stays so, a folder of the archive; without
	 * it, the layout decides.
	 */
	folder?: string | undefined;
	/** Name of the tag. */
	tag?: string | undefined;
	/** A pause ends on this day. */
	until?: CalendarDate | undefined;
	/** The reason for a pause or a change of class. */
	because?: string | undefined;
	/** This many of the newest messages of each lot stay. */
	keepNewest?: number | undefined;
	/** A decision that overrides a protection: it applies only to items under that protection. */
	only?: Protection | undefined;
	/** Flagged mail is left, though the decision would take it. */
	leavesFlagged?: boolean | undefined;
	/** How many of the lists can be unsubscribed from only by a person. */
	byHand?: number | undefined;
	/** The messages to be sent for it, list by list: exactly what is shown is sent (invariant 19). */
	asks?: readonly ListAsk[] | undefined;
	/** The senders that blocking marked, each with its mark before, for taking it back. */
	marks?: { kind: string; value: string; before: string | undefined }[] | undefined;
	/** The class to be set; null: the folder's class applies again. */
	class?: ClassWord | null | undefined;
	/**
	 * The series by its code, or a plain period by its terms (core/retention/terms); neither: the folder's applies
	 * again.
	 */
	series?: string | undefined;
	terms?: string | undefined;
	/** Numbers of the tag, the pause and the retention; known once carrying out has begun. */
	tagId?: number | undefined;
	pauseId?: number | undefined;
	retentionId?: number | null | undefined;
}

/** The facts from which a docket's line is put into words. */
export interface LineFacts {
	options?: DecisionOptions | undefined;
	/** The name of the class that is set. */
	className?: string | undefined;
	messages: number;
	bytes: number;
	folders: number;
	/** Only for archiving by date. */
	cutoff?: CalendarDate | undefined;
	/** Path of the folder it is limited to, with its subfolders; undefined: all folders. */
	folderPath?: string | undefined;
	/** Paths of the folders that are left out of all. */
	withoutPaths?: readonly string[] | undefined;
	/** The lots or the search, in words: `of the list Harbour Times`. */
	label?: string | undefined;
	/** Where archived items go. */
	layout?: Layout | undefined;
	/** How many lists a decision on lists applies to. */
	lists?: number | undefined;
}

/** What a form asks before a decision can be put on a docket. */
export type Asked = 'folder' | 'tag' | 'pause' | 'class' | 'period' | 'series';

/** A button that decides. */
export interface DecisionButton {
	label: string;
	/** What is asked first; undefined: the button decides at once. */
	asks?: Asked;
	/** What it does to `them`, if that differs from its label. */
	says?: (them: string) => string;
}

/** The places of the interface that offer decisions. */
export type Screen =
	/** Messages in folders, and their lots. */
	| 'sheet'
	/** Mail that is due by the retention schedule. */
	| 'due'
	| 'archive'
	| 'bin'
	| 'lists'
	/** An owner's own mailbox. */
	| 'own'
	/** Mail that a colleague has found. */
	| 'found';

/** Who decides: roles of people, and the owner of a mailbox. */
export type Decider = 'administrator' | 'auditor' | 'owner' | 'colleague';

/**
 * The rule and the words of a decision: everything that needs neither the database nor the interface. Its effect on
 * items stands in the room of its capability (`DecisionWork` in lib/server/docket/decision-work).
 */
export interface DecisionRule {
	/** Messages, or the lists that send them. */
	about: 'messages' | 'lists';

	/* ---- its effect ---- */

	/** The states of items that it applies to; none for decisions on lists. */
	from: readonly ItemState[];
	/** The state after it; undefined: the state does not change. */
	to?: ItemState;
	/** The aspect of an item that it changes: of two decisions on the same aspect, one is carried out. */
	aspect: (options: DecisionOptions) => string;
	/** Of two decisions on an item's place, the one with the higher number is carried out: it keeps more. */
	keeps?: number;
	/** Other decisions of the same docket from which it protects an item. */
	shieldsFrom?: (other: DecisionRule) => boolean;
	/** What it frees of the quota, and when (invariant 2). */
	frees: 'nothing' | 'at once' | 'when the bin is emptied';
	/** Whether items leave the folder in which people look for them. */
	takesAway: boolean;
	/** Whether it can be taken back; a request to a list only until it is sent. */
	takenBack: 'always' | 'until sent' | 'never';

	/* ---- what forbids it ---- */

	/** The protections that keep an item from it (invariant 16). */
	protections: readonly Protection[];
	/** Whether a hold forbids it (invariant 8). */
	isBarredByHold: boolean;
	/** Whether it leaves records. */
	isBarredForRecords: (options: DecisionOptions) => boolean;
	/** Whether it applies only to mail whose retention period has ended. */
	needsEndedPeriod: boolean;
	/** Whether it leaves recently restored mail when a period has ended. */
	sparesRestored: boolean;

	/* ---- what it asks of people ---- */

	/** What a person types before it is carried out (invariant 21). */
	confirmation: 'none' | 'typed';
	/** Whether a second administrator approves it, if the office's policy demands that. */
	approval: 'none' | 'where demanded';
	/** Who may make it. */
	deciders: readonly Decider[];
	/** Places in the interface that offer it. */
	screens: readonly Screen[];
	/** The key for it, the same on every screen; undefined: it is selected by name. */
	digit?: number;
	/** Whether the newest messages of each lot can be left out. */
	canSpareNewest: boolean;

	/* ---- its words ---- */

	/** The verb, as in "to archive keeps more than to delete". */
	verb: string;
	/** Its buttons. */
	buttons: readonly DecisionButton[];
	/** What it does or did to `them`, without the full stop. */
	sentence: (them: string, said: LineFacts, tense: Tense) => string;
	/** What a standing decision does with mail ("archived"); undefined: none may do it by itself. */
	standing?: (options: DecisionOptions) => string;
	/** Its consequence, if that is not obvious. */
	follows: (about: { binDays: number }) => string;
}

/** The rule of a decision on lists. */
export type ListRule = DecisionRule & { about: 'lists' };

/** Whether something is still to be done, or was done. */
export type Tense = 'to come' | 'past';

/** Two forms of a verb, by tense. */
export const tensed = (tense: Tense, toCome: string, past: string): string => (tense === 'past' ? past : toCome);

type Usual = Omit<DecisionRule, 'verb' | 'buttons' | 'sentence' | 'aspect'>;

const never = () => false;
const nothing = () => '';

/** The common part of decisions on a mark of an item, which stays in its place. */
export const ON_ITEM = {
	about: 'messages',
	from: ['live', 'archived'],
	frees: 'nothing',
	takesAway: false,
	takenBack: 'always',
	protections: [],
	isBarredByHold: false,
	isBarredForRecords: never,
	needsEndedPeriod: false,
	sparesRestored: false,
	confirmation: 'none',
	approval: 'none',
	deciders: ['administrator'],
	screens: ['sheet'],
	canSpareNewest: false,
	follows: nothing
} as const satisfies Usual;

/** The common part of decisions on an item's place. */
export const ON_PLACE = { ...ON_ITEM, aspect: () => 'place' } as const;

/** The common part of decisions that destroy: they cannot be taken back. */
export const DESTROYS = {
	...ON_PLACE,
	to: 'destroyed',
	frees: 'at once',
	takesAway: true,
	takenBack: 'never',
	protections: ['kept', 'paused'],
	isBarredByHold: true,
	confirmation: 'typed',
	approval: 'where demanded',
	follows: () => 'This cannot be undone: nobody can restore them, not even an administrator.'
} as const;

/** The common part of decisions on lists: a request that was sent cannot be taken back. */
export const ON_LISTS = { ...ON_ITEM, about: 'lists', from: [], screens: ['lists'] } as const;

/** The lists of a line: "2 lists: Harbour Times, Quay News". */
export function listsInWords({ lists = 0, label = '' }: LineFacts): string {
	return `${showCount(lists)} ${lists === 1 ? 'list' : 'lists'}${label ? `: ${label}` : ''}`;
}
