import type { CalendarDate } from '../../../core/calendar.ts';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import type { Left } from '../../../core/docket/left.ts';
import type { Grouping } from '../../../core/lots/lots.ts';
import type { DueAction } from '../../../core/retention/terms.ts';

/** The scope of a line: which items it applies to. */
export type Scope =
	/** Live items received before a date, in one folder with its subfolders or in all. */
	| {
			kind: 'before';
			before: string;
			folderIds: number[] | undefined;
			folderPath: string | undefined;
			/** Folders that are left out of all, with their subfolders. */
			without?: number[];
			withoutPaths?: string[];
	  }
	/** The items found by a search, in any folder of the mailbox; `label` is the search in words. */
	| { kind: 'query'; query: string; label: string }
	| LotsScope
	/** Proposals of one kind; undefined: all. */
	| { kind: 'proposal'; proposal: string; ids: number[] | undefined; label: string; folderIds?: number[] | undefined }
	| DueScope
	/** The bin; with a date, only items binned by then. */
	| { kind: 'bin'; binnedBy: CalendarDate | undefined }
	/**
	 * Items destroyed before that came back with an older state of the data: they are destroyed again without
	 * exception.
	 */
	| { kind: 'again'; ids: number[]; label: string }
	| ArchivedScope
	/** Single items; with `missingOnServer`, only those that their mail server still lacks. */
	| { kind: 'items'; ids: number[]; label?: string; missingOnServer?: boolean }
	/** What a run of the standing decisions gathered for one of them. */
	| { kind: 'rule'; ruleId: number; runId: number; label: string }
	/** Lists, not items. */
	| { kind: 'lists'; ids: number[]; label: string };

/** Archived items. */
export interface ArchivedScope {
	kind: 'archived';
	/** Folders of the archive; undefined: all. */
	folderIds?: number[] | undefined;
	/** Received in that year, with a certain date. */
	year?: string | undefined;
	/** The selection in words, if it is not all. */
	label?: string | undefined;
}

/** Lots of a sheet. */
export interface LotsScope {
	kind: 'lots';
	by: Grouping;
	/** Undefined: all matching lots, except those left out. */
	keys: string[] | undefined;
	/** Lots left out of all. */
	withoutKeys: string[];
	/** Single items left out. */
	without: number[];
	/** The sheet's filter, as a search. */
	query: string;
	/** A folder with its subfolders; undefined: all folders. */
	folderIds: number[] | undefined;
	/** The day of the sheet, from which ages count. */
	on: CalendarDate;
	/** The lots in words. */
	label: string;
}

/** Items due by the retention schedule. */
interface DueScope {
	kind: 'due';
	/** The disposition; a person decides on those to be reviewed. */
	action: DueAction;
	/** The last day of the range, and its first. */
	by: CalendarDate;
	since?: CalendarDate | undefined;
	/** Only live or only archived items; undefined: both. */
	state?: 'live' | 'archived' | undefined;
	/** Only some of them; undefined: all. */
	ids?: number[] | undefined;
	folderIds?: number[] | undefined;
	retentionIds?: number[] | undefined;
	/** The selection in words. */
	label: string;
}

/** A decision with its items. */
export interface Decided {
	decision: Decision;
	options: DecisionOptions;
	scope: Scope;
}

/** Sums of a line's items. */
export interface LineSums {
	messages: number;
	bytes: number;
	folders: number;
	oldest: string | undefined;
	newest: string | undefined;
	/** How many of the messages are flagged. */
	flagged: number;
	left: Left[];
	/** How many of the messages lie in another place too (invariant 4). */
	elsewhere: number;
}
