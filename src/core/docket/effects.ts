import { type Layout, layoutWords, USUAL_LAYOUT } from '../archive/layout.ts';
import { type CalendarDate, showDate } from '../calendar.ts';
import { showBytes, showCount, showMessages } from '../weigh/units.ts';

/** The states of an item (invariant 1). */
export type ItemState = 'live' | 'archived' | 'binned' | 'destroyed';

/** What a line of a docket does. */
export type Decision = 'archive' | 'restore' | 'arrange';

/** Why a decision leaves an item as it is. */
export const LEFT_REASONS = {
	newer: 'received on or after the cutoff date',
	'date-in-doubt': 'date missing or cannot be true: a person decides',
	binned: 'in the bin',
	archived: 'archived already',
	live: 'not archived: it is in its folder',
	destroyed: 'destroyed',
	changed: 'changed since'
} as const;
export type LeftReason = keyof typeof LEFT_REASONS;

/** What has to be known of an item to decide on it. */
export interface DecidedItem {
	state: ItemState;
	receivedOn: CalendarDate | undefined;
	dateInDoubt: boolean;
}

/** What a decision does to one item: the state it gets, or the reason why it stays. */
export type Effect = { to: ItemState } | { left: LeftReason };

/**
 * What archiving before a cutoff date does to an item. This is the rule; the store has the same as SQL over sets, and a
 * test holds the two together.
 */
export function archiveEffect(item: DecidedItem, cutoff: CalendarDate): Effect {
	if (item.state !== 'live') return { left: item.state };
	if (item.dateInDoubt || item.receivedOn === undefined) return { left: 'date-in-doubt' };
	return item.receivedOn < cutoff ? { to: 'archived' } : { left: 'newer' };
}

/** What arranging the archive anew does to an item: only what is archived is moved within it. */
export function arrangeEffect(item: Pick<DecidedItem, 'state'>): Effect {
	return item.state === 'archived' ? { to: 'archived' } : { left: item.state };
}

/** What restoring does to an item: archived and deleted ones come back. */
export function restoreEffect(item: Pick<DecidedItem, 'state'>): Effect {
	return item.state === 'archived' || item.state === 'binned' ? { to: 'live' } : { left: item.state };
}

/** Messages left out of a docket for one reason. */
export interface Left {
	reason: LeftReason;
	messages: number;
}

/** What is said of a docket. */
export interface DocketSums {
	decision: Decision;
	messages: number;
	bytes: number;
	folders: number;
	/** Only for archiving by date. */
	cutoff?: CalendarDate | undefined;
	/** Path of the folder it is limited to, with its subfolders; undefined: the whole mailbox. */
	folderPath?: string | undefined;
	/** Which ones, in words, where a search chose them. */
	label?: string | undefined;
	/** Where archived items go. */
	layout?: Layout | undefined;
}

/** A docket as a sentence: "Archive 4,812 messages from 37 folders received before 1 January 2024 (1.9 GB)." */
export function docketSentence(sums: DocketSums): string {
	const { decision, messages, bytes, folders, cutoff, folderPath, label, layout = USUAL_LAYOUT } = sums;
	const from = folderPath
		? ` from ${folderPath}${folders > 1 ? ` and its subfolders` : ''}`
		: ` from ${showCount(folders)} ${folders === 1 ? 'folder' : 'folders'}`;
	const which = label ? ` ${label}` : '';
	const when = cutoff ? ` received before ${showDate(cutoff)}` : '';
	if (decision === 'restore')
		return `Restore ${showMessages(messages)} to where ${messages === 1 ? 'it' : 'they'} came from (${showBytes(bytes)}).`;
	if (decision === 'arrange')
		return `Arrange the ${showMessages(messages)} in the archive anew, ${layoutWords(layout)} (${showBytes(bytes)}).`;
	const how = layout.paths === 'keep' && layout.divide === 'none' ? '' : `, ${layoutWords(layout)}`;
	return `Archive ${showMessages(messages)}${which}${messages > 0 ? from : ''}${when}${how} (${showBytes(bytes)}).`;
}

/** What stays, as a sentence; empty where nothing does. */
export function leftSentence(left: Left): string {
	const { reason, messages } = left;
	return `${showMessages(messages)} ${messages === 1 ? 'stays' : 'stay'}: ${LEFT_REASONS[reason]}.`;
}
