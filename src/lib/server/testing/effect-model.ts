import type { CalendarDate } from '../../../core/calendar.ts';
import type { DecisionOptions, ItemState } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import type { LeftReason } from '../../../core/docket/left.ts';

/*
 * The effect of a decision on one item, written a second time by hand: the set-based statements are compared with it.
 * It names the decisions and reads none of their rules.
 */

/** The facts of an item that decide. */
export interface DecidedItem {
	state: ItemState;
	receivedOn: CalendarDate | undefined;
	dateInDoubt: boolean;
	flagged: boolean;
	seen: boolean | undefined;
	kept: boolean;
	/** Itself, or by its folder. */
	neverArchived: boolean;
	/** Under a current pause, its own or its folder's. */
	paused: boolean;
	held: boolean;
	record: boolean;
	/** Its retention period has ended, and the disposition is destroy or review. */
	ended: boolean;
}

const REACHES: Partial<Record<Decision, readonly ItemState[]>> = {
	archive: ['live'],
	move: ['live'],
	'never-archive': ['live'],
	'allow-archiving': ['live'],
	fold: ['live'],
	unfold: ['live'],
	delete: ['live'],
	arrange: ['archived'],
	restore: ['archived', 'binned'],
	tag: ['live', 'archived', 'binned'],
	untag: ['live', 'archived', 'binned'],
	destroy: ['binned']
};

const ALREADY: Partial<Record<Decision, (item: DecidedItem) => boolean>> = {
	flag: ({ flagged }) => flagged,
	unflag: ({ flagged }) => !flagged,
	read: ({ seen }) => seen === true,
	unread: ({ seen }) => seen === false,
	keep: ({ kept }) => kept,
	release: ({ kept }) => !kept,
	'never-archive': ({ neverArchived }) => neverArchived,
	'allow-archiving': ({ neverArchived }) => !neverArchived,
	// no item has the tag before, or is in the digest
	untag: () => true,
	unfold: () => true
};

type Mark = 'flagged' | 'kept' | 'paused' | 'never-archived';
const isMarked = (item: DecidedItem, mark: Mark) => (mark === 'never-archived' ? item.neverArchived : item[mark]);

const PROTECTED: Partial<Record<Decision, readonly Mark[]>> = {
	archive: ['never-archived'],
	delete: ['kept', 'paused', 'flagged'],
	dispose: ['kept', 'paused'],
	destroy: ['kept', 'paused']
};

const BARRED_BY_HOLD: readonly Decision[] = ['delete', 'dispose', 'destroy', 'classify'];

/**
 * The effect of a decision on an item in its scope.
 *
 * @param about.cutoff only items received before it; undefined: any date
 * @param about.dated whether dates decide otherwise, as in a search
 */
export function effectOf(
	decision: Decision,
	item: DecidedItem,
	{ only, terms, leavesFlagged }: Pick<DecisionOptions, 'only' | 'terms' | 'leavesFlagged'> = {},
	about: { cutoff?: CalendarDate | undefined; dated?: boolean } = {}
): 'changes' | LeftReason {
	if (!(REACHES[decision] ?? ['live', 'archived']).includes(item.state)) return item.state;
	// a hold outranks every other reason, and no decision overrides it (invariant 8)
	if (item.held && BARRED_BY_HOLD.includes(decision)) return 'held';
	if (item.record && (decision === 'delete' || (decision === 'retain' && terms !== undefined))) return 'record';
	if (decision === 'dispose' && !item.ended) return 'not-due';
	const datesDecide = about.cutoff !== undefined || about.dated === true;
	if (datesDecide && (item.dateInDoubt || item.receivedOn === undefined)) return 'date-in-doubt';
	if (about.cutoff !== undefined && (item.receivedOn as string) >= about.cutoff) return 'newer';
	for (const mark of PROTECTED[decision] ?? []) if (mark !== only && isMarked(item, mark)) return mark;
	if (leavesFlagged && item.flagged) return 'flagged';
	if (only !== undefined && !isMarked(item, only)) return 'already';
	return ALREADY[decision]?.(item) ? 'already' : 'changes';
}
