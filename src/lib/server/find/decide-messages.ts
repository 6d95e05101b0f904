import type { DecisionOptions } from '../../../core/docket/decision.ts';
import {
	type Decision,
	DECISIONS,
	isAboutLists,
	isReversible,
	type ListDecision,
	ruleOf
} from '../../../core/docket/decisions.ts';
import type { Gathered } from '../../../core/search/narrowing.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { atOnceFor } from '../access/index.ts';
import { type Context, decisionOptions, defineUseCase, id, text, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import {
	carryOutAtOnce,
	collect,
	type Decided,
	type DecisionResult,
	itemsByMailbox,
	recentOptions,
	type Scope
} from '../docket/index.ts';
import { decideLists, isJunkMark, JUNK_MARKS, type JunkMark, markLines } from '../lists/index.ts';
import { listsOfItems, type Mailbox, requireMailbox, requireMailboxId } from '../mail/index.ts';
import { holdMessages, type HoldMessages } from '../retention/index.ts';
import { listHolds } from '../standing/index.ts';
import { Refusal } from '../refusal.ts';
import { countFound, findAllIds, type FindSelection, searchFields } from './find.ts';
import { gatheredScope } from './gathered.ts';
import Joi from 'joi';

/** A decision on messages in any folder, the archive or the bin. */
export interface MessagesDecision {
	/** Undefined: everything found by the search. */
	ids?: number[] | undefined;
	/** The search whose messages the sheet shows. */
	search?: FindSelection | undefined;
	/** Left out of everything. */
	without?: number[] | undefined;
	decision: Decision | JunkMark | 'hold';
	options: DecisionOptions;
	/** For a decision on tags: these instead of the one in the options. */
	tags?: string[] | undefined;
	/** The hold to put them under. */
	hold?: Omit<HoldMessages, 'ids'> | undefined;
}

async function idsOf(context: Context, { ids, search, without = [] }: MessagesDecision): Promise<number[]> {
	if (ids || !search) return ids ?? [];
	const left = new Set(without);
	const found: number[] = [];
	for await (const some of findAllIds(context, search)) found.push(...some.filter((id) => !left.has(id)));
	return found;
}

/* Many messages of what another page gathers are found by the docket itself; undefined: they go by their numbers. */
async function scopeOfMany(
	context: Context,
	{ ids, search, without = [] }: MessagesDecision,
	atOnce: number
): Promise<{ mailbox: Mailbox; scope: Scope } | undefined> {
	if (ids || search?.gathered === undefined || search.mailbox === undefined || search.typing) return undefined;
	// a page of one mailbox names it in its filters too
	const { mailbox: only = search.mailbox, ...narrowed } = search.narrowing ?? {};
	if (only !== search.mailbox || Object.values(narrowed).some((value) => value !== undefined)) return undefined;
	if ((await countFound(context, search)) - without.length <= atOnce) return undefined;
	const mailbox = await requireMailbox(context, search.mailbox);
	const scope = await gatheredScope(context, mailbox, search.gathered, search.query, without);
	return scope && { mailbox, scope };
}

/* Mail whose period has ended is destroyed only out of a row of due mail. */
function endedScope(context: Context, scope: Scope, gathered: Gathered | undefined): Scope {
	if (scope.kind === 'due') return scope;
	if (gathered?.of !== 'due' || scope.kind !== 'items')
		throw new Refusal('bad-input', 'That is decided where mail is due. Nothing was drafted.');
	return { kind: 'due', action: gathered.action, by: today(context), ids: scope.ids, label: 'whose period has ended' };
}

async function linesOf(
	context: Context,
	mailbox: Mailbox,
	scope: Scope,
	{ decision, options, tags, search }: MessagesDecision & { decision: Decision | JunkMark }
): Promise<Decided[]> {
	if (isJunkMark(decision)) return markLines(context, mailbox, scope, decision);
	if ((decision === 'tag' || decision === 'untag') && tags)
		return tags.map((tag) => ({ decision, options: { tag }, scope }));
	const { needsEndedPeriod } = ruleOf(decision);
	return [{ decision, options, scope: needsEndedPeriod ? endedScope(context, scope, search?.gathered) : scope }];
}

/* The lists that the messages are from, on the docket: what is sent to them is shown there first (invariant 19). */
async function decideTheirLists(
	context: Context,
	mailbox: Mailbox,
	ids: readonly number[],
	decision: ListDecision
): Promise<DecisionResult> {
	const lists = await listsOfItems(context.db, ids);
	if (lists.length === 0)
		throw new Refusal('not-possible', 'None of these messages is from a list. Nothing was drafted.');
	const docket = await decideLists(context, { mailboxId: mailbox.id, ids: lists, decision, backIssues: 'leave' });
	return {
		mailbox: mailbox.name,
		docket: docket.id,
		isDone: false,
		messages: 0,
		flagged: 0,
		sentences: [
			`${showCount(lists.length)} ${lists.length === 1 ? 'list is' : 'lists are'} on the docket: nothing is sent until it is carried out.`
		],
		left: []
	};
}

async function holdThem(context: Context, ids: number[], hold: MessagesDecision['hold']): Promise<DecisionResult[]> {
	if (!hold) throw new Refusal('bad-input', 'Name the hold. Nothing was held.');
	const { hold: name, messages } = await holdMessages(context, { ...hold, ids });
	const sentence =
		messages === 0
			? `All of them are under the hold ${name} already.`
			: `${showMessages(messages)} came under the hold ${name}. Only releasing it on the page Holds ends that.`;
	return [{ mailbox: '', docket: undefined, isDone: true, messages, flagged: 0, sentences: [sentence], left: [] }];
}

/**
 * Decides on messages from any screen. A reversible decision on up to as many messages as the person has set is carried
 * out at once by a docket of its own; any other is collected on the person's docket.
 *
 * @returns the result, mailbox by mailbox
 * @throws Refusal
 */
export async function decideMessages(context: Context, input: MessagesDecision): Promise<DecisionResult[]> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { decision } = input;
		const most = await atOnceFor(within);
		const many = await scopeOfMany(within, input, most);
		if (many && decision !== 'hold' && !isAboutLists(decision)) {
			const lines = await linesOf(within, many.mailbox, many.scope, { ...input, decision });
			return [await collect(within, many.mailbox, lines)];
		}
		const ids = await idsOf(within, input);
		const { mailboxes } = await itemsByMailbox(within, ids);
		if (mailboxes.size === 0) throw new Refusal('not-found', 'There are no such messages any more. Nothing was done.');
		if (decision === 'hold') return holdThem(within, ids, input.hold);
		const isDoneNow = ids.length <= most && (isJunkMark(decision) || isReversible(decision));
		const decided: DecisionResult[] = [];
		for (const [mailboxId, theirs] of mailboxes) {
			const mailbox = await requireMailboxId(within, mailboxId);
			if (isAboutLists(decision)) {
				decided.push(await decideTheirLists(within, mailbox, theirs, decision));
				continue;
			}
			const lines = await linesOf(within, mailbox, { kind: 'items', ids: theirs }, { ...input, decision });
			decided.push(await (isDoneNow ? carryOutAtOnce : collect)(within, mailbox, lines));
		}
		return decided;
	});
}

/** What a sheet of messages has to know of the person who decides. */
interface DecidingHabits {
	/** Folders and tags used last, the latest first. */
	recent: { folders: string[]; tags: string[] };
	/** Up to this many messages, a reversible decision is carried out at once. */
	atOnce: number;
	/** The names of the holds in effect. */
	holds: string[];
}

async function decidingHabits(context: Context): Promise<DecidingHabits> {
	return {
		recent: await recentOptions(context.db, context.actor, 5),
		atOnce: await atOnceFor(context),
		holds: (await listHolds(context.db, { released: false })).map(({ name }) => name)
	};
}

/* Decisions that a sheet of messages offers: those that can be taken back, on their lists, and on ended periods. */
const ON_MESSAGES = DECISIONS.filter(
	(decision) => isReversible(decision) || isAboutLists(decision) || ruleOf(decision).needsEndedPeriod
);

/** The input of a decision on messages. */
export const decisionInput = () =>
	Joi.object({
		ids: Joi.array().items(id).min(1).max(10_000),
		search: Joi.object(searchFields()),
		without: Joi.array().items(id).max(10_000),
		decision: Joi.valid(...ON_MESSAGES, ...JUNK_MARKS, 'hold').required(),
		options: decisionOptions.required(),
		tags: Joi.array().items(Joi.string().max(200)).min(1).max(20),
		hold: Joi.object({ name: text.required(), because: text, from: text })
	})
		.or('ids', 'search')
		.required();

/** The use cases of this file. */
export const decideMessagesUseCases = [
	defineUseCase({
		name: 'decideMessages',
		input: decisionInput,
		thread: 'writer',
		right: 'administrator',
		run: decideMessages
	}),
	defineUseCase({
		name: 'decidingHabits',
		thread: 'reader',
		right: 'administrator',
		run: decidingHabits
	})
] as const;
