import type { CalendarDate } from '../calendar.ts';
import { type Decision, type DecisionOptions, isForGood, type Protection, protectionsFrom } from './decisions.ts';

/** The states of an item (invariant 1). */
export type ItemState = 'live' | 'archived' | 'binned' | 'destroyed';

/** Why a decision leaves an item as it is. */
export const LEFT_REASONS = {
	newer: 'received on or after the cutoff date',
	'date-in-doubt': 'date missing or cannot be true: a person decides',
	binned: 'in the bin',
	archived: 'already archived',
	live: 'in a folder already',
	destroyed: 'destroyed',
	held: 'under a hold',
	record: 'a record: it goes at the end of its period, unless its class is changed first',
	'not-due': 'its period has not ended',
	'had-back': 'restored within the last 30 days',
	flagged: 'flagged',
	kept: 'kept',
	paused: 'under a pause',
	newest: 'among the newest of their lot',
	already: 'as the decision would make them already',
	needed: 'the message that repeats them is gone, or goes too',
	outranked: 'another line decides on them',
	changed: 'changed since'
} as const;
export type LeftReason = keyof typeof LEFT_REASONS;

/** Messages left out of a docket for one reason. */
export interface Left {
	reason: LeftReason;
	messages: number;
	/** Of those under a hold, the names of the holds. */
	holds?: string[] | undefined;
}

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
	/** Under a legal hold. */
	held: boolean;
	/** Of the class record. */
	record: boolean;
	/** Its retention period has ended, and its end is to be destroyed or looked at. */
	ended: boolean;
}

/** What a decision does to one item: it changes it, or leaves it for a reason. */
export type Effect = 'changes' | LeftReason;

/** In which states a decision reaches an item. */
export function statesOf(decision: Decision): readonly ItemState[] {
	switch (decision) {
		case 'archive':
		case 'move':
		case 'delete':
			return ['live'];
		case 'arrange':
			return ['archived'];
		case 'restore':
			return ['archived', 'binned'];
		case 'dispose':
			return ['live', 'archived'];
		case 'destroy':
			return ['binned'];
		default:
			return ['live', 'archived'];
	}
}

/** Whether a decision takes items away. */
export function endsItems(decision: Decision): boolean {
	return decision === 'delete' || isForGood(decision);
}

/** Whether a hold stands against a decision: also against classing otherwise what it covers. */
export function isBarredByHold(decision: Decision): boolean {
	return endsItems(decision) || decision === 'classify';
}

/** Whether a record is left by a decision: nobody deletes it, and a period of its own would not be followed. */
export function isBarredForRecords(decision: Decision, { terms }: Pick<DecisionOptions, 'terms'>): boolean {
	return decision === 'delete' || (decision === 'retain' && terms !== undefined);
}

function isAlready(decision: Decision, item: DecidedItem): boolean {
	switch (decision) {
		case 'flag':
			return item.flagged;
		case 'unflag':
			return !item.flagged;
		case 'read':
			return item.seen === true;
		case 'unread':
			return item.seen === false;
		case 'keep':
			return item.kept;
		case 'release':
			return !item.kept;
		default:
			return false;
	}
}

/**
 * What a decision does to an item that is within its reach. This is the rule; the store has the same as SQL over sets
 * (docket/scopes-store), and a test holds the two together.
 *
 * @param about.cutoff items received before it are meant; undefined: dates do not decide
 * @param about.dated whether dates decide otherwise, as in a search
 */
export function effectOf(
	decision: Decision,
	item: DecidedItem,
	{ only, terms }: Pick<DecisionOptions, 'only' | 'terms'> = {},
	about: { cutoff?: CalendarDate | undefined; dated?: boolean } = {}
): Effect {
	if (!statesOf(decision).includes(item.state)) return item.state;
	// a hold outranks every other reason, and no decision takes it in (invariant 8)
	if (item.held && isBarredByHold(decision)) return 'held';
	if (item.record && isBarredForRecords(decision, { terms })) return 'record';
	if (decision === 'dispose' && !item.ended) return 'not-due';
	const datesDecide = about.cutoff !== undefined || about.dated === true;
	if (datesDecide && (item.dateInDoubt || item.receivedOn === undefined)) return 'date-in-doubt';
	if (about.cutoff !== undefined && (item.receivedOn as string) >= about.cutoff) return 'newer';
	for (const protection of protectionsFrom(decision)) if (protection !== only && item[protection]) return protection;
	if (only !== undefined && !item[only]) return 'already';
	return isAlready(decision, item) ? 'already' : 'changes';
}

/** The protection that is in the way, where a line leaves items for it. */
export function protectionOf(reason: LeftReason): Protection | undefined {
	return reason === 'flagged' || reason === 'kept' || reason === 'paused' ? reason : undefined;
}
