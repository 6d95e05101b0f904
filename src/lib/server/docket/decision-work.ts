import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision, ListDecision } from '../../../core/docket/decisions.ts';
import type { ClassWord } from '../../../core/retention/classes.ts';
import type { Context, Following } from '../context/index.ts';
import type { Condition, Sql } from '../database/index.ts';
import type { Mailbox } from '../mail/index.ts';
import type { Paused } from '../standing/index.ts';
import type { Batch, Changed } from './batches-store.ts';
import type { Docket, DocketLine } from './dockets-store.ts';
import type { Decided } from './scope.ts';

/** A line about to be carried out. */
export interface BeginningLine {
	docket: Docket;
	line: DocketLine;
	mailbox: Mailbox;
	paused: Paused;
}

/** The targets of a line's items, as SQL over `item`. */
export interface Destination {
	/** The target folder. */
	folder: Sql;
	/** The folder that the item counts as coming from. */
	origin: Sql;
	/** The joins that both need beside `item`. */
	join?: Sql;
}

/** How items change, and how that is reversed: over the frozen items of a batch, in one transaction. */
export interface Change {
	/** The value stored for each item when it is frozen, for restoring it. */
	keeps?: Sql;
	/** Saves time where many items are to be carried out, before the first of them and outside of their transactions. */
	prepare?: (context: Context, items: number) => Promise<void>;
	/** Items of one transaction. */
	batchItems: number;
	/** Whether it can change the due date of items. */
	changesDue: boolean;
	carryOut: (context: Context, docket: Docket, batch: Batch) => Promise<Changed>;
	takeBack: (context: Context, docket: Docket, batch: Batch) => Promise<Changed>;
}

interface Work {
	/** Its preconditions, checked when it is drafted and again when it is carried out. @throws Refusal */
	check?: (context: Context, mailbox: Mailbox, line: Decided) => Promise<void> | void;
}

/** The effect of a decision on messages: the other half of its rule in core/docket. */
export interface ItemWork extends Work {
	about: 'messages';
	/** Whether the decision has already taken effect on an item. */
	already?: (options: DecisionOptions) => Condition;
	/** Creates what the items need, and names their targets; undefined: they stay in their place. */
	begin?: (context: Context, beginning: BeginningLine) => Promise<Destination | undefined>;
	/** The class that its items come to, as classes may have quotas; and whether that is because of a folder. */
	classesAs?: (
		context: Context,
		beginning: BeginningLine
	) => Promise<{ word: ClassWord; byFolder: boolean } | undefined>;
	change: Change;
}

/** The effect of a decision on lists; requests to the outside are recorded, and sent by a job that follows. */
export interface ListWork extends Work {
	about: 'lists';
	begin: (context: Context, beginning: BeginningLine) => Promise<void>;
	/** Undoes it, as far as no request was sent. @returns how many lists */
	undo: (context: Context, line: DocketLine) => Promise<number>;
	/** The names of lists. */
	names: (context: Context, ids: readonly number[]) => Promise<string[]>;
	/** How many requests of a docket are pending. */
	waiting?: (context: Context, docketId: number) => Promise<number>;
	/** The job that sends them. */
	following?: (docketId: number) => Following;
}

/** The effect of each decision. A missing one does not compile. */
export type DecisionTable = { readonly [D in Decision]: D extends ListDecision ? ListWork : ItemWork };

let known: DecisionTable | undefined;

/**
 * Registers the effect of each decision with the engine, which knows none itself. Once in each thread
 * (process/open-context).
 */
export function provideDecisions(table: DecisionTable): void {
	known = table;
}

function table(): DecisionTable {
	if (!known) throw new Error('Nobody has said what decisions do');
	return known;
}

/** The effect of a decision on messages. @throws Error for one on lists */
export function itemWorkOf(decision: Decision): ItemWork {
	const work = table()[decision];
	if (work.about !== 'messages') throw new Error(`"${decision}" is not about messages`);
	return work;
}

/** The effect of a decision. */
export function workOf(decision: Decision): ItemWork | ListWork {
	return table()[decision];
}
