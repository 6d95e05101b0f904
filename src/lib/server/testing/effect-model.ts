import type { CalendarDate } from '../../../core/calendar.ts';
import type { DecisionOptions, ItemState } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import type { LeftReason } from '../../../core/docket/left.ts';

/* What a decision does to one item, written a second time, by hand and for one item: what the statements over sets do is held
   against it. It knows the decisions by name and reads none of their rules. */

/** What has to be known of an item to decide on it. */
export interface DecidedItem {
	state: ItemState;
	receivedOn: CalendarDate | undefined;
	dateInDoubt: boolean;
	flagged: boolean;
	seen: boolean | undefined;
	kept: boolean;
	/** Under a pause that has not ended, its own or its folder's. */
	paused: boolean;
	held: boolean;
	record: boolean;
	/** Its retention period has ended, and its end is to be destroyed or reviewed. */
	ended: boolean;
}

const REACHES: Partial<Record<Decision, readonly ItemState[]>> = {
	archive: ['live'],
	move: ['live'],
	delete: ['live'],
	arrange: ['archived'],
	restore: ['archived', 'binned'],
	destroy: ['binned']
};

const ALREADY: Partial<Record<Decision, (item: DecidedItem) => boolean>> = {
	flag: ({ flagged }) => flagged,
	unflag: ({ flagged }) => !flagged,
	read: ({ seen }) => seen === true,
	unread: ({ seen }) => seen === false,
	keep: ({ kept }) => kept,
	release: ({ kept }) => !kept,
	// nothing carries the tag beforehand
	untag: () => true
};

const PROTECTED: Partial<Record<Decision, readonly ('flagged' | 'kept' | 'paused')[]>> = {
	delete: ['kept', 'paused', 'flagged'],
	dispose: ['kept', 'paused'],
	destroy: ['kept', 'paused']
};

const BARRED_BY_HOLD: readonly Decision[] = ['delete', 'dispose', 'destroy', 'classify'];

/**
 * What a decision does to an item that is within its reach.
 *
 * @param about.cutoff items received before it are meant; undefined: dates do not decide
 * @param about.dated whether dates decide otherwise, as in a search
 */
export function effectOf(
	decision: Decision,
	item: DecidedItem,
	{ only, terms }: Pick<DecisionOptions, 'only' | 'terms'> = {},
	about: { cutoff?: CalendarDate | undefined; dated?: boolean } = {}
): 'changes' | LeftReason {
	if (!(REACHES[decision] ?? ['live', 'archived']).includes(item.state)) return item.state;
	// a hold outranks every other reason, and no decision takes it in (invariant 8)
	if (item.held && BARRED_BY_HOLD.includes(decision)) return 'held';
	if (item.record && (decision === 'delete' || (decision === 'retain' && terms !== undefined))) return 'record';
	if (decision === 'dispose' && !item.ended) return 'not-due';
	const datesDecide = about.cutoff !== undefined || about.dated === true;
	if (datesDecide && (item.dateInDoubt || item.receivedOn === undefined)) return 'date-in-doubt';
	if (about.cutoff !== undefined && (item.receivedOn as string) >= about.cutoff) return 'newer';
	for (const mark of PROTECTED[decision] ?? []) if (mark !== only && item[mark]) return mark;
	if (only !== undefined && !item[only]) return 'already';
	return ALREADY[decision]?.(item) ? 'already' : 'changes';
}
