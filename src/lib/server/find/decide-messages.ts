import type { DecisionOptions } from '../../../core/docket/decision.ts';
import { AT_ONCE, type Decision, DECISIONS, isReversible, ruleOf } from '../../../core/docket/decisions.ts';
import type { Left } from '../../../core/docket/left.ts';
import { type Context, decisionOptions, defineUseCase, id } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { carryOut, decide, type Decided, draftOf, itemsByMailbox, recentOptions, showDocket } from '../docket/index.ts';
import { isJunkMark, JUNK_MARKS, type JunkMark, markLines } from '../lists/index.ts';
import { type Mailbox, requireMailboxId } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { findAllIds, type FindInput, searchFields } from './find.ts';
import Joi from 'joi';

/** A decision on messages in any folder, the archive or the bin. */
export interface MessagesDecision {
	ids?: number[] | undefined;
	/** Instead of ids: everything found by this search. */
	search?: Omit<FindInput, 'limit'> | undefined;
	decision: Decision | JunkMark;
	options: DecisionOptions;
	/** For a decision on tags: these instead of the one in the options. */
	tags?: string[] | undefined;
}

/** The result of a decision in one mailbox. */
export interface MessagesDecided {
	mailbox: string;
	/** The docket that did it, or collects it; undefined: there was nothing to do. */
	docket: number | undefined;
	isDone: boolean;
	messages: number;
	/** How many of them are flagged; only for archiving (invariant 16). */
	flagged: number;
	/** The result in words. */
	sentences: string[];
	left: Left[];
}

async function idsOf(context: Context, { ids, search }: MessagesDecision): Promise<number[]> {
	if (!search) return ids ?? [];
	const found: number[] = [];
	for await (const some of findAllIds(context, search)) found.push(...some);
	return found;
}

async function linesOf(
	context: Context,
	mailbox: Mailbox,
	ids: number[],
	{ decision, options, tags }: MessagesDecision
): Promise<Decided[]> {
	const scope = { kind: 'items' as const, ids };
	if (isJunkMark(decision)) return markLines(context, mailbox, scope, decision);
	if ((decision === 'tag' || decision === 'untag') && tags)
		return tags.map((tag) => ({ decision, options: { tag }, scope }));
	return [{ decision, options, scope }];
}

/* Drafted and carried out in one transaction: a refusal leaves no draft. */
async function atOnce(context: Context, mailbox: Mailbox, lines: Decided[]): Promise<MessagesDecided> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const draft = await draftOf(within, mailbox, { lines });
		const outcome = await carryOut(within, { id: draft.id });
		const { sentences, lines: done } = await showDocket(within, { id: draft.id });
		const archived = done.filter(({ decision }) => ruleOf(decision).to === 'archived');
		return {
			mailbox: mailbox.name,
			docket: draft.id,
			isDone: outcome.finished,
			messages: outcome.messages,
			flagged: archived.reduce((sum, line) => sum + line.flagged, 0),
			sentences,
			left: outcome.left
		};
	});
}

async function collected(context: Context, mailbox: Mailbox, lines: Decided[]): Promise<MessagesDecided> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		let docket: Awaited<ReturnType<typeof decide>> | undefined;
		for (const line of lines) docket = await decide(within, { mailboxId: mailbox.id, line });
		return {
			mailbox: mailbox.name,
			docket: docket?.id,
			isDone: false,
			messages: docket?.lines.slice(-lines.length).reduce((most, line) => Math.max(most, line.messages), 0) ?? 0,
			flagged: 0,
			sentences: [],
			left: []
		};
	});
}

/**
 * Decides on messages from any screen. A reversible decision on up to {@link AT_ONCE} messages is carried out at once
 * by a docket of its own; any other is collected on the person's docket.
 *
 * @returns what became of it, mailbox by mailbox
 * @throws Refusal
 */
export async function decideMessages(context: Context, input: MessagesDecision): Promise<MessagesDecided[]> {
	const ids = await idsOf(context, input);
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { mailboxes } = await itemsByMailbox(within, ids);
		if (mailboxes.size === 0) throw new Refusal('not-found', 'There are no such messages any more. Nothing was done.');
		const isDoneNow = ids.length <= AT_ONCE && (isJunkMark(input.decision) || isReversible(input.decision));
		const decided: MessagesDecided[] = [];
		for (const [mailboxId, theirs] of mailboxes) {
			const mailbox = await requireMailboxId(within, mailboxId);
			const lines = await linesOf(within, mailbox, theirs, input);
			decided.push(await (isDoneNow ? atOnce : collected)(within, mailbox, lines));
		}
		return decided;
	});
}

/** The folders and tags that somebody used last, the latest first. */
async function recentPlaces(context: Context): Promise<{ folders: string[]; tags: string[] }> {
	return recentOptions(context.db, context.actor, 5);
}

/** The use cases of this file. */
export const decideMessagesUseCases = [
	defineUseCase({
		name: 'decideMessages',
		input: () =>
			Joi.object({
				ids: Joi.array().items(id).min(1).max(10_000),
				search: Joi.object(searchFields()),
				decision: Joi.valid(...DECISIONS.filter(isReversible), ...JUNK_MARKS).required(),
				options: decisionOptions.required(),
				tags: Joi.array().items(Joi.string().max(200)).min(1).max(20)
			})
				.xor('ids', 'search')
				.required(),
		thread: 'writer',
		right: 'administrator',
		run: decideMessages
	}),
	defineUseCase({
		name: 'recentPlaces',
		thread: 'reader',
		right: 'administrator',
		run: recentPlaces
	})
] as const;
