import type { Layout } from '../archive/layout.ts';
import type { CalendarDate } from '../calendar.ts';
import type { RecordClass } from '../retention/classes.ts';
import { showCount } from '../weigh/units.ts';

/** The states of an item (invariant 1). */
export type ItemState = 'live' | 'archived' | 'binned' | 'destroyed';

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
	/** The reason of a pause, or of a change of class. */
	because?: string | undefined;
	/** Of each lot, so many of the newest stay. */
	keepNewest?: number | undefined;
	/** A decision of its own on what is protected: only items under this protection are meant. */
	only?: Protection | undefined;
	/** Of lists to unsubscribe from, so many only a person can unsubscribe from. */
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

/** What is said of a line of a docket. */
export interface LineSaid {
	options?: DecisionOptions | undefined;
	messages: number;
	bytes: number;
	folders: number;
	/** Only for archiving by date. */
	cutoff?: CalendarDate | undefined;
	/** Path of the folder it is limited to, with its subfolders; undefined: the whole mailbox. */
	folderPath?: string | undefined;
	/** Which ones, in words, where a lot or a search chose them: `of the list Harbour Times`. */
	label?: string | undefined;
	/** Where archived items go. */
	layout?: Layout | undefined;
	/** How many lists a decision on lists is about. */
	lists?: number | undefined;
}

/** What a form has to ask before a decision can be put on a docket. */
export type Asked = 'folder' | 'tag' | 'pause' | 'class' | 'period' | 'series';

/** A button that decides. */
export interface DecisionButton {
	label: string;
	/** What is asked first; without it, the button decides at once. */
	asks?: Asked;
	/** What it does to `them`, where that is not its label. */
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
 * What is true of a decision, and how it is spoken of: everything that needs neither the database nor the interface. What it does
 * to items stands beside its capability (`DecisionWork` in lib/server/docket/decision-work).
 */
export interface DecisionRule {
	/** Messages, or the lists that send them. */
	about: 'messages' | 'lists';

	/* ---- what it reaches and what it does -------------------------------------------------------------------------- */

	/** The states of an item that it reaches; none for lists. */
	from: readonly ItemState[];
	/** The state that it leads to; undefined: items keep theirs. */
	to?: ItemState;
	/** What of an item it is about: of two decisions about the same, one is carried out. */
	aspect: (options: DecisionOptions) => string;
	/** Of two decisions about the place of an item, the one that keeps more is carried out. Only for places. */
	keeps?: number;
	/** Against which other decisions of the same docket it protects an item. */
	shieldsFrom?: (other: DecisionRule) => boolean;
	/** What it frees of the quota, and when (invariant 2). */
	frees: 'nothing' | 'at once' | 'when the bin is emptied';
	/** Whether it takes items away from where people look for them. */
	takesAway: boolean;
	/** Whether what it did can be taken back; what lists were asked, only until it was sent. */
	takenBack: 'always' | 'until sent' | 'never';

	/* ---- what stands against it ------------------------------------------------------------------------------------ */

	/** What keeps an item from it (invariant 16). */
	protections: readonly Protection[];
	/** Whether a hold stands against it (invariant 8). */
	isBarredByHold: boolean;
	/** Whether a record is left by it. */
	isBarredForRecords: (options: DecisionOptions) => boolean;
	/** Whether only mail is meant whose retention period has ended. */
	needsEndedPeriod: boolean;
	/** Whether it leaves what somebody restored lately, when it is done because a period has ended. */
	sparesRestored: boolean;

	/* ---- what it asks of people ------------------------------------------------------------------------------------ */

	/** What is typed before it is carried out (invariant 21). */
	confirmation: 'none' | 'typed';
	/** Whether a second administrator approves it, where the office demands that. */
	approval: 'none' | 'where demanded';
	/** Who may decide it. */
	deciders: readonly Decider[];
	/** Where it is offered. */
	screens: readonly Screen[];
	/** The key that decides it, the same on every screen; undefined: it is chosen by name. */
	digit?: number;
	/** Whether the newest of each lot can be left out of it. */
	canSpareNewest: boolean;

	/* ---- its words --------------------------------------------------------------------------------------------------- */

	/** As in "to archive keeps more than to delete". */
	verb: string;
	/** Its buttons. */
	buttons: readonly DecisionButton[];
	/** What it does, or did, to `them`, without the full stop. */
	sentence: (them: string, said: LineSaid, tense: Tense) => string;
	/** What follows from it that does not go without saying. */
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

/** What holds for a decision on something that stands on an item, and leaves it where it is. */
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

/** What holds for a decision on where an item is. */
export const ON_PLACE = { ...ON_ITEM, aspect: () => 'place' } as const;

/** What holds for a decision that destroys: it cannot be taken back. */
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

/** What holds for a decision on lists: what is asked of the outside cannot be taken back. */
export const ON_LISTS = { ...ON_ITEM, about: 'lists', from: [], screens: ['lists'] } as const;

/** The lists of a line: "2 lists: Harbour Times, Quay News". */
export function listsSaid({ lists = 0, label = '' }: LineSaid): string {
	return `${showCount(lists)} ${lists === 1 ? 'list' : 'lists'}${label ? `: ${label}` : ''}`;
}
