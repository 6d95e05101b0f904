import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision, ListDecision } from '../../../core/docket/decisions.ts';
import type { Context, Following } from '../context/index.ts';
import type { Condition, Sql } from '../database/index.ts';
import type { Mailbox } from '../mail/index.ts';
import type { Paused } from '../standing/index.ts';
import type { Batch, Changed } from './batches-store.ts';
import type { Docket, DocketLine } from './dockets-store.ts';
import type { Decided } from './scope.ts';

/** A line that is about to be carried out. */
export interface BeginningLine {
	docket: Docket;
	line: DocketLine;
	mailbox: Mailbox;
	paused: Paused;
}

/** Where the items of a line go, as SQL over `item`. */
export interface Destination {
	/** The folder of each. */
	folder: Sql;
	/** The folder that each counts as coming from there. */
	origin: Sql;
	/** What both need beside `item`. */
	join?: Sql;
}

/** How items change, and how they become again what they were: over the frozen items of a batch, in one transaction. */
export interface Change {
	/** What is noted of each item when it is frozen, to be restored. */
	keeps?: Sql;
	/** Items of one transaction. */
	batchItems: number;
	/** Whether other items may be due by it, or otherwise. */
	changesDue: boolean;
	carryOut: (context: Context, docket: Docket, batch: Batch) => Promise<Changed>;
	takeBack: (context: Context, docket: Docket, batch: Batch) => Promise<Changed>;
}

interface Work {
	/** What it cannot do without: asked when it is drafted, and again when it is carried out. @throws Refusal */
	check?: (context: Context, mailbox: Mailbox, line: Decided) => Promise<void> | void;
}

/** What a decision on messages does: the other half of its rule in core/docket. */
export interface ItemWork extends Work {
	about: 'messages';
	/** Whether an item is already as the decision makes them. */
	already?: (options: DecisionOptions) => Condition;
	/** Makes what the items need, and says where they go; without it, they stay where they are. */
	begin?: (context: Context, beginning: BeginningLine) => Promise<Destination | undefined>;
	/** Whether its items become working papers, which have a quota of their own. */
	makesWorking?: (context: Context, beginning: BeginningLine) => Promise<boolean>;
	change: Change;
}

/** What a decision on lists does; what is asked of the outside is only noted, and done by a job that follows. */
export interface ListWork extends Work {
	about: 'lists';
	begin: (context: Context, beginning: BeginningLine) => Promise<void>;
	/** Undoes it, as far as nothing was asked of anybody yet. @returns of how many lists */
	undo: (context: Context, line: DocketLine) => Promise<number>;
	/** What lists are called. */
	names: (context: Context, ids: readonly number[]) => Promise<string[]>;
	/** How much of a docket is still to be asked of the outside. */
	waiting?: (context: Context, docketId: number) => Promise<number>;
	/** The job that asks it. */
	following?: (docketId: number) => Following;
}

/** What each decision does. A decision that is missing does not compile. */
export type DecisionTable = { readonly [D in Decision]: D extends ListDecision ? ListWork : ItemWork };

let known: DecisionTable | undefined;

/** Tells the engine what each decision does: it knows none of them itself. Done once in each thread (process/open-context). */
export function provideDecisions(table: DecisionTable): void {
	known = table;
}

function table(): DecisionTable {
	if (!known) throw new Error('Nobody has said what decisions do');
	return known;
}

/** What a decision on messages does. @throws Error for one on lists */
export function itemWorkOf(decision: Decision): ItemWork {
	const work = table()[decision];
	if (work.about !== 'messages') throw new Error(`"${decision}" is not about messages`);
	return work;
}

/** What a decision does. */
export function workOf(decision: Decision): ItemWork | ListWork {
	return table()[decision];
}
