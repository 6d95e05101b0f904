import type { CalendarDate } from '../../../core/calendar.ts';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import type { Left } from '../../../core/docket/left.ts';
import type { Grouping } from '../../../core/lots/lots.ts';
import type { DueAction } from '../../../core/retention/terms.ts';

/** Which items a line of a docket means. */
export type Scope =
	/** Live items received before a date, of one folder with its subfolders or of the whole mailbox. */
	| { kind: 'before'; before: string; folderIds: number[] | undefined; folderPath: string | undefined }
	/** What a search finds, in any folder of the mailbox; `label` says it in words. */
	| { kind: 'query'; query: string; label: string }
	| LotsScope
	/** What was found safe to clear, of one kind; undefined: all of it. */
	| { kind: 'proposal'; proposal: string; ids: number[] | undefined; label: string }
	| DueScope
	/** What is in the bin; with a date, only what was put there by then. */
	| { kind: 'bin'; binnedBy: CalendarDate | undefined }
	/** What was destroyed before and has come back with an older state of the data: it goes again, whatever stands against it. */
	| { kind: 'again'; ids: number[]; label: string }
	| ArchivedScope
	| { kind: 'items'; ids: number[]; label?: string }
	/** Lists, rather than items. */
	| { kind: 'lists'; ids: number[]; label: string };

/** What is archived. */
export interface ArchivedScope {
	kind: 'archived';
	/** Folders of the archive; undefined: all of it. */
	folderIds?: number[] | undefined;
	/** Received in that year, beyond doubt. */
	year?: string | undefined;
	/** Which ones, in words, where it is not all of it. */
	label?: string | undefined;
}

/** Lots of a sheet. */
export interface LotsScope {
	kind: 'lots';
	by: Grouping;
	/** Undefined: all that match, those left out aside. */
	keys: string[] | undefined;
	/** Lots left out where all are meant. */
	withoutKeys: string[];
	/** Single items left out. */
	without: number[];
	/** The sheet's filter, as a search. */
	query: string;
	/** A folder with those below it; undefined: the whole mailbox. */
	folderIds: number[] | undefined;
	/** The day of the sheet, from which ages count. */
	on: CalendarDate;
	/** Which ones, in words. */
	label: string;
}

/** What is due by the retention schedule. */
interface DueScope {
	kind: 'due';
	/** For what; those that are to be looked at are decided on by a person. */
	action: DueAction;
	/** By which day, and from which day on. */
	by: CalendarDate;
	since?: CalendarDate | undefined;
	/** Only what lies in folders, or in the archive; undefined: both. */
	state?: 'live' | 'archived' | undefined;
	/** Only some of them; undefined: all. */
	ids?: number[] | undefined;
	folderIds?: number[] | undefined;
	retentionIds?: number[] | undefined;
	/** Which ones, in words. */
	label: string;
}

/** A decision with the items it is about. */
export interface Decided {
	decision: Decision;
	options: DecisionOptions;
	scope: Scope;
}

/** Sums of the items that a line means. */
export interface LineSums {
	messages: number;
	bytes: number;
	folders: number;
	oldest: string | undefined;
	newest: string | undefined;
	left: Left[];
	/** How many of the messages lie in another place too (invariant 4). */
	elsewhere: number;
}
