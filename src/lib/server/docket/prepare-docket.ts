import type { Layout } from '../../../core/archive/layout.ts';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import { ruleOf, treeOf } from '../../../core/docket/decisions.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { inTransaction } from '../database/index.ts';
import { claimedSums, claimedTotal, claimItems, conflictsOf, NOTHING_CLAIMED, settleClaims } from './claims-store.ts';
import {
	addDocket,
	addDocketLines,
	type Docket,
	discardDocketLine,
	putDocketLayout,
	putChanger,
	putDocketName,
	putDocketState,
	putDocketSums,
	putLineOptions,
	putLineScope,
	putLineSums
} from './dockets-store.ts';
import { checkedQuery, itemsById, type Mailbox, pathAsWritten, requireMailboxId } from '../mail/index.ts';
import { holdsOfMailbox, type Paused, pausedOn, refreshHolds, requireApplied } from '../standing/index.ts';
import { putOnSlip, slipDockets } from './slips-store.ts';
import { workOf } from './decision-work.ts';
import type { Decided, LineSums } from './scope.ts';
import { countSelected, countSelections, reachOf } from './selection-store.ts';
import { type Context, defineUseCase, id, protection, text, today } from '../context/index.ts';
import { Refusal } from '../refusal.ts';
import { type DocketView, requireDocket, viewDocket } from './show-docket.ts';
import Joi from 'joi';

/* A draft that this person may still change. */
async function requireDraft(context: Context, id: number): Promise<Docket> {
	const docket = await requireDocket(context, id);
	if (docket.state !== 'drafted')
		throw new Refusal('not-possible', `Docket ${docket.id} is no draft any more. Nothing was done.`);
	return docket;
}

/** Applies current holds to a docket's items: they may have been moved or tagged into a hold's scope. */
export async function applyHolds({ db }: Context, docket: Docket, paused: Paused): Promise<void> {
	const barred = docket.lines.filter(({ decision }) => ruleOf(decision).isBarredByHold);
	for (const within of reachOf(docket.mailboxId, barred, paused)) await refreshHolds(db, within);
}

/** Brings classes and due dates up to date. @throws Refusal if that is not done yet */
export async function requireSettled(context: Context, { mailboxId, lines }: Docket): Promise<void> {
	if (lines.some(({ decision, scope }) => scope.kind === 'due' || ruleOf(decision).isBarredByHold))
		await requireApplied(context, mailboxId);
}

const sumOf = (sums: readonly Weight[]): Weight => ({
	messages: sums.reduce((sum, { messages }) => sum + messages, 0),
	bytes: sums.reduce((sum, { bytes }) => sum + bytes, 0)
});

/** Counts a draft again: the items of each line, and conflicts between lines. Needs a transaction. */
export async function recount(context: Context, docket: Docket): Promise<Weight> {
	const { db } = context;
	const paused = await pausedOn(db, docket.mailboxId, today(context));
	await applyHolds(context, docket, paused);
	const holds = await holdsOfMailbox(db, docket.mailboxId);
	const several = docket.lines.length > 1;
	if (several) await claimItems(db, docket, paused);
	const { conflicts, needed, areShared } = several
		? await settleClaims(db, 'temp.claim', docket)
		: { conflicts: [], needed: new Map<number, number>(), areShared: false };
	const counted = await countSelections(db, docket.mailboxId, docket.lines, paused);
	// what no two lines share is counted already
	const isSettled = !areShared && needed.size === 0;
	const claimed = isSettled ? undefined : await claimedSums(db, 'temp.claim', docket);
	const sums = docket.lines.map((line) => {
		const { left, ...alone } = counted.get(line) as LineSums;
		const lost = conflicts
			.filter(({ loses }) => loses === line.position)
			.reduce((sum, { messages }) => sum + messages, 0);
		return {
			...alone,
			...(claimed ? (claimed.get(line.id) ?? NOTHING_CLAIMED) : {}),
			id: line.id,
			left: [
				...left.map((one) => (one.reason === 'held' ? { ...one, holds } : one)),
				...(lost > 0 ? [{ reason: 'outranked' as const, messages: lost }] : []),
				...(needed.has(line.id) ? [{ reason: 'needed' as const, messages: needed.get(line.id) as number }] : [])
			],
			conflicts: conflictsOf(line, conflicts)
		};
	});
	await putLineSums(db, sums);
	const total = isSettled ? sumOf(sums) : await claimedTotal(db, 'temp.claim', docket);
	await putDocketSums(db, docket.id, total);
	return total;
}

/* The line, with the folder that it names as that folder is written. @throws Refusal for missing options, and for items it cannot apply to */
async function checkedLine(context: Context, mailbox: Mailbox, line: Decided): Promise<Decided> {
	const { options, scope } = line;
	const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was done.`);
	if (options.keepNewest !== undefined) {
		if (!Number.isInteger(options.keepNewest) || options.keepNewest < 1)
			throw refuse('The newest that stay are a whole number from 1 on.');
		if (scope.kind !== 'lots' || scope.by === 'attachment' || scope.by === 'tag')
			throw refuse('The newest of each can be kept only where each message lies in one lot.');
	}
	if (scope.kind === 'query' || scope.kind === 'lots') checkedQuery(scope.query, { today: today(context) });
	await workOf(line.decision).check?.(context, mailbox, line);
	if (!options.folder) return line;
	const tree = treeOf(line.decision);
	return {
		...line,
		options: { ...options, folder: await pathAsWritten(context.db, mailbox.id, tree, options.folder) }
	};
}

/** Drafts a docket with given lines. @throws Refusal */
export async function draftOf(
	context: Context,
	mailbox: Mailbox,
	{
		lines,
		layout,
		name,
		byItself,
		onSlip = false
	}: { lines: readonly Decided[]; layout?: Layout | undefined; name?: string; byItself?: boolean; onSlip?: boolean }
): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const checked: Decided[] = [];
		for (const line of lines) checked.push(await checkedLine(within, mailbox, line));
		const id = await addDocket(db, {
			mailboxId: mailbox.id,
			at: context.now(),
			by: context.actor,
			layout: layout ?? mailbox.layout,
			...(name === undefined ? {} : { name }),
			...(byItself === undefined ? {} : { byItself })
		});
		await addDocketLines(db, id, checked);
		if (onSlip) await putOnSlip(db, context.actor, id);
		await recount(within, await requireDocket(within, id));
		return viewDocket(await requireDocket(within, id), mailbox);
	});
}

/*
 * The draft for this person's next decision: the one last shown on their slip that can take it. It becomes the one
 * shown. A destruction gets a docket of its own.
 */
async function draftOnSlip(context: Context, mailboxId: number): Promise<Docket | undefined> {
	for (const id of await slipDockets(context.db, context.actor, mailboxId)) {
		const docket = await requireDocket(context, id);
		if (docket.state === 'drafted' && docket.lines.every(({ decision }) => ruleOf(decision).takenBack !== 'never'))
			return docket;
	}
	return undefined;
}

/* A new decision with another date on the same part of a mailbox replaces the earlier one. */
function replaces(line: Decided, former: Decided): boolean {
	const [a, b] = [line.scope, former.scope];
	if (line.decision !== former.decision) return false;
	if (a.kind === 'before' && b.kind === 'before') return a.folderPath === b.folderPath;
	return (
		JSON.stringify([a, line.options]) === JSON.stringify([b, former.options]) ||
		(a.kind === 'archived' &&
			b.kind === 'archived' &&
			line.options.folder === undefined &&
			former.options.folder === undefined)
	);
}

/**
 * Adds a decision to this person's open docket in a mailbox, creating one if there is none. Nothing is carried out
 * yet.
 *
 * @throws Refusal
 */
export async function decide(
	context: Context,
	input: { mailboxId: number; line: Decided; layout?: Layout | undefined }
): Promise<DocketView> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const { layout } = input;
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const open = await draftOnSlip(within, mailbox.id);
		if (!open) return draftOf(within, mailbox, { lines: [input.line], layout, onSlip: true });
		await putOnSlip(db, context.actor, open.id);
		const line = await checkedLine(within, mailbox, input.line);
		for (const former of open.lines) if (replaces(line, former)) await discardDocketLine(db, open.id, former.id);
		await addDocketLines(db, open.id, [line]);
		if (layout) await putDocketLayout(db, open.id, layout);
		await recount(within, await requireDocket(within, open.id));
		return viewDocket(await requireDocket(within, open.id), mailbox);
	});
}

const isSameDecision = (a: Decided, b: Decided | undefined) =>
	b !== undefined && a.decision === b.decision && JSON.stringify(a.options) === JSON.stringify(b.options);

/**
 * Replaces the lines of a draft that nobody has changed; it keeps its number.
 *
 * @throws Refusal where it is no draft any more
 */
export async function updateDraft(context: Context, input: { id: number; lines: readonly Decided[] }): Promise<Docket> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const draft = await requireDraft(within, input.id);
		const { lines } = input;
		const isAlike =
			draft.lines.length === lines.length && draft.lines.every((line, at) => isSameDecision(line, lines[at]));
		if (isAlike)
			for (const [at, line] of draft.lines.entries()) await putLineScope(db, line.id, (lines[at] as Decided).scope);
		else {
			for (const line of draft.lines) await discardDocketLine(db, draft.id, line.id);
			await addDocketLines(db, draft.id, lines);
		}
		await recount(within, await requireDocket(within, draft.id));
		return requireDocket(within, draft.id);
	});
}

/** Adds decisions to a given draft of anybody. @throws Refusal */
export async function decideOn(
	context: Context,
	input: { id: number; lines: readonly Decided[] }
): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const docket = await requireDraft(within, input.id);
		const mailbox = await requireMailboxId(within, docket.mailboxId);
		const checked: Decided[] = [];
		for (const line of input.lines) checked.push(await checkedLine(within, mailbox, line));
		await addDocketLines(db, docket.id, checked);
		await putChanger(db, docket.id, context.actor);
		await recount(within, await requireDocket(within, docket.id));
		return viewDocket(await requireDocket(within, docket.id), mailbox);
	});
}

/** Removes a line from a draft; a draft without lines is discarded. @throws Refusal */
async function dropLine(context: Context, input: { id: number; lineId: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const docket = await requireDraft(within, input.id);
		if (!(await discardDocketLine(db, docket.id, input.lineId)))
			throw new Refusal('not-found', `Docket ${docket.id} has no such line any more. Nothing was done.`);
		await putChanger(db, docket.id, context.actor);
		if (docket.lines.length === 1) await putDocketState(db, docket.id, 'dropped');
		else await recount(within, await requireDocket(within, docket.id));
	});
}

/** Leaves flagged mail out of a line that would take it. @throws Refusal */
async function leaveFlagged(context: Context, input: { id: number; lineId: number }): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const docket = await requireDraft(within, input.id);
		const line = docket.lines.find(({ id }) => id === input.lineId);
		if (!line) throw new Refusal('not-found', `Docket ${docket.id} has no such line any more. Nothing was done.`);
		await putLineOptions(db, line.id, { ...line.options, leavesFlagged: true });
		await putChanger(db, docket.id, context.actor);
		await recount(within, await requireDocket(within, docket.id));
		return viewDocket(await requireDocket(within, docket.id), await requireMailboxId(within, docket.mailboxId));
	});
}

/**
 * Includes protected items that a line left, by a decision of its own that names the protection.
 *
 * @throws Refusal
 */
async function includeProtected(
	context: Context,
	input: { id: number; lineId: number; only: NonNullable<DecisionOptions['only']> }
): Promise<DocketView> {
	const docket = await requireDraft(context, input.id);
	const line = docket.lines.find(({ id }) => id === input.lineId);
	if (!line) throw new Refusal('not-found', `Docket ${docket.id} has no such line any more. Nothing was done.`);
	const { decision, options, scope } = line;
	return decideOn(context, {
		id: docket.id,
		lines: [{ decision, scope, options: { ...options, leavesFlagged: undefined, only: input.only } }]
	});
}

/** Gives a docket a name. @throws Refusal */
async function nameDocket(context: Context, input: { id: number; name: string }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ db }, input.id);
		await putDocketName(db, docket.id, input.name.trim().slice(0, 200));
	});
}

/** Counts a draft again and returns it. @throws Refusal */
async function recountDocket(context: Context, input: { id: number }): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		await recount(within, await requireDraft(within, input.id));
		const docket = await requireDocket(within, input.id);
		return viewDocket(docket, await requireMailboxId(within, docket.mailboxId));
	});
}

/** Counts what decisions would do, each by itself; leaves no draft. @throws Refusal */
export async function tryDecisions<L extends Decided>(
	context: Context,
	mailbox: Mailbox,
	lines: readonly L[],
	{ ahead = false } = {}
): Promise<(L & LineSums)[]> {
	// mail that falls due later can be shown, but not destroyed yet
	if (!ahead) for (const line of lines) await checkedLine(context, mailbox, line);
	const paused = await pausedOn(context.db, mailbox.id, today(context));
	const counted = await countSelections(context.db, mailbox.id, lines, paused);
	return lines.map((line) => ({ ...line, ...(counted.get(line) as LineSums) }));
}

/** How many messages each decision would change; one that would change none is left out. Leaves no draft. */
export async function countDecisions<L extends Decided>(
	context: Context,
	mailbox: Mailbox,
	lines: readonly L[]
): Promise<Map<L, number>> {
	return countSelected(context.db, mailbox.id, lines, await pausedOn(context.db, mailbox.id, today(context)));
}

/** Counts what one decision would do; leaves no draft. @throws Refusal */
export async function tryDecision(context: Context, mailbox: Mailbox, line: Decided): Promise<Decided & LineSums> {
	const [tried] = await tryDecisions(context, mailbox, [line]);
	return tried as Decided & LineSums;
}

/** Drafts a docket with one decision. @throws Refusal */
export async function prepareDocket(
	context: Context,
	{
		mailboxId,
		...draft
	}: { mailboxId: number; lines: readonly Decided[]; name?: string; byItself?: boolean; onSlip?: boolean }
): Promise<DocketView> {
	return draftOf(context, await requireMailboxId(context, mailboxId), draft);
}

/** The items of a request to restore, by mailbox; unknown ids are counted. */
export async function itemsByMailbox(
	context: Context,
	ids: readonly number[]
): Promise<{ mailboxes: Map<number, number[]>; unknown: number }> {
	const found = await itemsById(context.db, ids);
	const mailboxes = new Map<number, number[]>();
	for (const { id, mailboxId } of found) mailboxes.set(mailboxId, [...(mailboxes.get(mailboxId) ?? []), id]);
	return { mailboxes, unknown: new Set(ids).size - found.length };
}

/** Discards a draft. @throws Refusal if it is none any more */
export async function discardDocket(context: Context, input: { id: number }): Promise<{ mailboxId: number }> {
	return inTransaction(context.db, async (db) => {
		const { id, mailboxId } = await requireDraft({ ...context, db }, input.id);
		await putDocketState(db, id, 'dropped');
		return { mailboxId };
	});
}

/** The use cases of this file. */
export const prepareDocketUseCases = [
	defineUseCase({
		name: 'includeProtected',
		input: () =>
			Joi.object({
				id: id.required(),
				lineId: id.required(),
				only: protection.required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: includeProtected
	}),
	defineUseCase({
		name: 'leaveFlagged',
		input: () => Joi.object({ id: id.required(), lineId: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: leaveFlagged
	}),
	defineUseCase({
		name: 'nameDocket',
		input: () => Joi.object({ id: id.required(), name: text.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: nameDocket
	}),
	defineUseCase({
		name: 'recountDocket',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: recountDocket
	}),
	defineUseCase({
		name: 'dropLine',
		input: () => Joi.object({ id: id.required(), lineId: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: dropLine
	}),
	defineUseCase({
		name: 'discardDocket',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: discardDocket
	})
] as const;
