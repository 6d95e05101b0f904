import type { JobAbout } from '../../../core/jobs/about.ts';
import { type Decision, ruleOf } from '../../../core/docket/decisions.ts';
import type { Left } from '../../../core/docket/left.ts';
import { changesOnServer } from '../../../core/sources/operations.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { type Context, defineJob, id, text, today } from '../context/index.ts';
import { type Db, inTransaction, refreshStatistics, sql } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { addFreed, keepArchiveFoldersInUse, noteForServer, requireMailboxId, reviveFolders } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { appliedSettings, refreshDue } from '../standing/index.ts';
import {
	addTakenBack,
	type Batch,
	type Changed,
	countLeftSince,
	type Direction,
	formerFolders,
	nextBatch,
	putProgress,
	UNCHANGED
} from './batches-store.ts';
import { begin, type CarryOutInput } from './begin-docket.ts';
import { closeCertificate } from './certificates.ts';
import { truncateLog } from './changes/destroying-store.ts';
import { itemWorkOf, workOf } from './decision-work.ts';
import { type Docket, type DocketLine, getDocket, putDocketState } from './dockets-store.ts';
import { requireDocket, viewDocket } from './show-docket.ts';
import Joi from 'joi';
import { isConfirmedBy } from '../../../core/docket/confirmation.ts';

/** The result of carrying out or taking back. */
export interface DocketOutcome extends Weight {
	docket: number;
	/** The part of it that this call changed: another process may have changed the rest. */
	byThisCall: Weight;
	left: Left[];
	/** False if it was stopped; it can be continued. */
	finished: boolean;
	/** How many of its lists have still to be asked (lists/leave-lists). */
	toAsk: number;
}

/* ---- batches ---- */

interface Step extends Weight {
	items: number;
	more: boolean;
}

const batchItemsOf = ({ decision }: DocketLine) => {
	const work = workOf(decision);
	return work.about === 'messages' ? work.change.batchItems : 0;
};

/*
 * Moved items, and items with another class or period, have another due date; without any settings, nothing is due.
 */
async function refreshBatch(db: Db, mailboxId: number, { line, after, last }: Batch): Promise<void> {
	if ((await appliedSettings(db, mailboxId)).settings === 0) return;
	await refreshDue(
		db,
		mailboxId,
		sql`item.id IN (SELECT item_id FROM docket_item WHERE line_id = ${line.id} AND item_id > ${after} AND item_id <= ${last})`
	);
}

/* The server of a live mailbox has to show what was changed: noted with the change, done by a job of its own. */
async function noteOnServer(context: Context, { id: docketId, mailboxId }: Docket, { line, after, last }: Batch) {
	const kind = changesOnServer(ruleOf(line.decision), line.options);
	if (!kind) return;
	const isNoted = await noteForServer(context.db, {
		mailboxId,
		docketId,
		items: sql`SELECT item_id AS id FROM docket_item WHERE line_id = ${line.id} AND item_id > ${after} AND item_id <= ${last}`,
		places: kind === 'place',
		at: context.now()
	});
	if (!isNoted) return;
	const { name: mailbox } = await requireMailboxId(context, mailboxId);
	// where another mailbox's is noted already, the look of the minute finds it
	const about = { kind: 'live mailboxes' as const, mailbox };
	await context.follow(context.db, { useCase: 'followSources', input: { mailbox }, about, once: true });
}

async function changeOne(context: Context, docket: Docket, batch: Batch, direction: Direction): Promise<Changed> {
	const { change } = itemWorkOf(batch.line.decision);
	const sums = await (direction === 'carry-out' ? change.carryOut : change.takeBack)(context, docket, batch);
	if (change.changesDue) await refreshBatch(context.db, docket.mailboxId, batch);
	await noteOnServer(context, docket, batch);
	return sums;
}

/* One batch with its ledger line, in one transaction. */
async function step(outer: Context, id: number, direction: Direction): Promise<Step> {
	return inTransaction(outer.db, async (db) => {
		const context = { ...outer, db };
		const docket = await requireDocket(context, id);
		const under = direction === 'carry-out' ? 'carrying-out' : 'taking-back';
		if (docket.state !== under) return { messages: 0, bytes: 0, items: 0, more: false };
		const batch = await nextBatch(db, docket, batchItemsOf);
		const sums = batch ? await changeOne(context, docket, batch, direction) : UNCHANGED;
		if (batch) await putProgress(db, direction, batch, sums);
		await addFreed(db, docket.mailboxId, today(context), sums);
		const moved = (await getDocket(db, id)) as Docket;
		const more = batch !== undefined && (await nextBatch(db, moved, () => 1)) !== undefined;
		if (!more) await putDocketState(db, id, direction === 'carry-out' ? 'carried-out' : 'taken-back');
		const certificateHash = more || direction === 'take-back' ? undefined : await closeCertificate(db, id);
		if (!more && direction === 'carry-out') await noteFollowing(context, moved);
		await noteStep(context, moved, { ...sums.once, direction, more, certificateHash });
		return { ...sums.once, items: batch ? batchItemsOf(batch.line) : 0, more };
	});
}

async function noteStep(
	context: Context,
	docket: Docket,
	{
		messages,
		bytes,
		direction,
		more,
		certificateHash
	}: Weight & { direction: Direction; more: boolean; certificateHash: string | undefined }
): Promise<void> {
	const mailbox = await requireMailboxId(context, docket.mailboxId);
	const isDone = { state: direction === 'carry-out' ? ('carried-out' as const) : ('taken-back' as const) };
	const { lines, destroys } = viewDocket({ ...docket, ...(more ? {} : isDone) }, mailbox);
	const touching = lines.filter(({ decision, messages }) => messages > 0 || ruleOf(decision).about === 'lists');
	const said = touching.length > 0 ? touching : lines;
	await appendLedger(context.db, {
		at: context.now(),
		by: context.actor,
		action: direction === 'carry-out' ? 'docket-carried-out' : 'docket-taken-back',
		details: {
			docket: docket.id,
			...(docket.name ? { name: docket.name } : {}),
			mailbox: mailbox.name,
			what: said.map(({ sentence }) => sentence).join(' '),
			messages,
			bytes,
			...(destroys && direction === 'carry-out' ? { certificate: docket.id } : {}),
			...(certificateHash ? { certificateHash } : {}),
			...(more ? { continues: true } : {})
		}
	});
}

/* How many items were frozen in the lines before one. */
const frozenBefore = (docket: Docket, position: number) =>
	docket.lines.filter((line) => line.position < position).reduce((sum, { messages }) => sum + messages, 0);

async function prepareLines(context: Context, { lines, progressPosition }: Docket): Promise<void> {
	const items = new Map<Decision, number>();
	for (const { position, decision, messages } of lines)
		if (position >= progressPosition) items.set(decision, (items.get(decision) ?? 0) + messages);
	for (const [decision, count] of items) {
		const work = workOf(decision);
		if (work.about === 'messages') await work.change.prepare?.(context, count);
	}
}

/* @returns whether none is left, and what was changed here */
async function steps(
	context: Context,
	id: number,
	direction: Direction
): Promise<{ finished: boolean; changed: Weight }> {
	const changed: Weight = { messages: 0, bytes: 0 };
	const docket = await requireDocket(context, id);
	const total = frozenBefore(docket, Infinity);
	if (direction === 'carry-out') await prepareLines(context, docket);
	let done = frozenBefore(docket, docket.progressPosition);
	let more = true;
	while (more && !context.signal.aborted) {
		const stepped = await step(context, id, direction);
		more = stepped.more;
		changed.messages += stepped.messages;
		changed.bytes += stepped.bytes;
		done = more ? Math.min(total, done + stepped.items) : total;
		context.report({ done, total, note: `${showCount(done)} of ${showMessages(total)}` });
	}
	if (!more) await tidy(context, docket);
	return { finished: !more, changed };
}

/* Requests to the outside are jobs of their own: a server that does not answer delays no docket. */
async function noteFollowing(context: Context, { id, lines }: Docket): Promise<void> {
	for (const decision of new Set(lines.map((line) => line.decision))) {
		const work = workOf(decision);
		if (work.about === 'lists' && work.following && (await work.waiting?.(context, id)))
			await context.follow(context.db, work.following(id));
	}
}

/* How many requests of a docket are pending. */
async function countPendingAttempts(context: Context, { id, lines }: Docket): Promise<number> {
	let waiting = 0;
	for (const decision of new Set(lines.map((line) => line.decision))) {
		const work = workOf(decision);
		if (work.about === 'lists') waiting += (await work.waiting?.(context, id)) ?? 0;
	}
	return waiting;
}

/* Undoes the decisions of lines on lists. @returns how many lists */
async function undoOnLists(context: Context, { lines }: Docket): Promise<number> {
	let undone = 0;
	for (const line of lines) {
		const work = workOf(line.decision);
		if (work.about === 'lists') undone += await work.undo(context, line);
	}
	return undone;
}

async function tidy(context: Context, docket: Docket): Promise<void> {
	const rules = docket.lines.map(({ decision }) => ruleOf(decision));
	if (rules.some(({ to }) => to !== undefined))
		await inTransaction(context.db, async (db) => {
			await keepArchiveFoldersInUse(db, docket.mailboxId, context.now().toISOString());
			await refreshStatistics(db);
		});
	if (rules.some(({ to }) => to === 'destroyed')) await truncateLog(context.db);
}

/* ---- the use cases ---- */

/**
 * Carries out a docket, or continues one that was stopped or interrupted: the only way to change an item's state.
 *
 * @param input.expected the counts the person saw, else those of the draft; if the docket's counts differ now,
 *   nothing is done
 * @param input.confirm what the person typed to confirm that something is destroyed (core/docket/confirmation)
 * @throws Refusal
 */
export async function carryOut(context: Context, input: CarryOutInput): Promise<DocketOutcome> {
	await begin(context, input);
	const { finished, changed: byThisCall } = await steps(context, input.id, 'carry-out');
	const docket = await requireDocket(context, input.id);
	const changed = finished ? await countLeftSince(context.db, docket) : 0;
	const left = docket.lines.flatMap((line) => line.left);
	return {
		docket: docket.id,
		messages: docket.messages,
		bytes: docket.bytes,
		byThisCall,
		left: changed > 0 ? [...left, { reason: 'changed', messages: changed }] : left,
		finished,
		toAsk: await countPendingAttempts(context, docket)
	};
}

/**
 * Takes a docket back: items that it left unchanged since become what they were; the others are counted and stay.
 *
 * @throws Refusal
 */
export async function takeBack(context: Context, input: { id: number }): Promise<DocketOutcome> {
	await inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ db }, input.id);
		if (docket.state === 'taking-back' || (context.resumes && docket.state === 'taken-back')) return;
		if (docket.state !== 'carried-out' && docket.state !== 'carrying-out')
			throw new Refusal('not-possible', `Docket ${docket.id} was not carried out, so there is nothing to take back.`);
		const rules = docket.lines.map(({ decision }) => ruleOf(decision));
		if (rules.every(({ takenBack }) => takenBack === 'never'))
			throw new Refusal('not-possible', `Docket ${docket.id} destroyed what it was about; that cannot be taken back.`);
		const undone = await undoOnLists({ ...context, db }, docket);
		if (undone === 0 && rules.every(({ takenBack }) => takenBack !== 'always'))
			throw new Refusal(
				'not-possible',
				`Docket ${docket.id} asked lists to stop; what was said to them cannot be taken back. Nothing was changed.`
			);
		await reviveFolders(db, await formerFolders(db, docket.id));
		await putDocketState(db, docket.id, 'taking-back', { at: context.now(), by: context.actor });
	});
	const { finished, changed: byThisCall } = await steps(context, input.id, 'take-back');
	const docket = await requireDocket(context, input.id);
	const stay = docket.messages - docket.takenBackMessages;
	return {
		docket: docket.id,
		messages: docket.takenBackMessages,
		bytes: docket.bytes,
		byThisCall,
		left: finished && stay > 0 ? [{ reason: 'changed', messages: stay }] : [],
		finished,
		toAsk: await countPendingAttempts(context, docket)
	};
}

/* One batch of a line that is taken back by itself. @returns the last item of it; undefined: there was none */
async function takeBackBatch(
	outer: Context,
	id: number,
	lineId: number,
	after: number
): Promise<{ last: number; sums: Changed } | undefined> {
	return inTransaction(outer.db, async (db) => {
		const context = { ...outer, db };
		const docket = await requireDocket(context, id);
		const line = docket.lines.find((one) => one.id === lineId);
		if (!line) return undefined;
		const only = { ...docket, lines: [line], progressPosition: line.position, progressItemId: after };
		const found = await nextBatch(db, only, batchItemsOf);
		if (!found) return undefined;
		const otherLines = docket.lines.flatMap((one) => (one.id === lineId ? [] : [one.id]));
		const sums = await changeOne(context, docket, { ...found, otherLines }, 'take-back');
		await addTakenBack(db, id, sums.once.messages);
		await addFreed(db, docket.mailboxId, today(context), sums);
		const mailbox = await requireMailboxId(context, docket.mailboxId);
		const { lines } = viewDocket(docket, mailbox);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'docket-taken-back',
			details: {
				docket: id,
				...(docket.name ? { name: docket.name } : {}),
				mailbox: mailbox.name,
				what: lines.find((one) => one.id === lineId)?.sentence ?? '',
				messages: sums.messages,
				bytes: sums.bytes
			}
		});
		return { last: found.last, sums };
	});
}

/**
 * Takes back single lines of a docket that was carried out; its other lines stay carried out. Only items that are still
 * as the docket left them change, so it can be repeated after an interruption.
 *
 * @throws Refusal
 */
export async function takeBackLines(
	context: Context,
	{ id, lineIds }: { id: number; lineIds: readonly number[] }
): Promise<Weight> {
	const docket = await requireDocket(context, id);
	if (docket.state !== 'carried-out')
		throw new Refusal('not-possible', `Docket ${id} was not carried out, so there is nothing to take back.`);
	const whole = { messages: 0, bytes: 0 };
	await inTransaction(context.db, async (db) => reviveFolders(db, await formerFolders(db, id)));
	for (const lineId of lineIds) {
		let after: number | undefined = 0;
		while (after !== undefined && !context.signal.aborted) {
			const done: Awaited<ReturnType<typeof takeBackBatch>> = await takeBackBatch(context, id, lineId, after);
			whole.messages += done?.sums.messages ?? 0;
			whole.bytes += done?.sums.bytes ?? 0;
			after = done?.last;
		}
	}
	await tidy(context, docket);
	return whole;
}

async function aboutDocket(context: Context, docket: Docket, does: 'carry out' | 'take back'): Promise<JobAbout> {
	const { sentences } = viewDocket(docket, await requireMailboxId(context, docket.mailboxId));
	return { kind: 'docket', docket: docket.id, does, what: sentences.join(' ') };
}

/* Refused at once, on the slip, if that is known beforehand; begin-docket checks again after freezing. */
async function aboutCarryingOut(context: Context, { id, confirm }: CarryOutInput): Promise<JobAbout> {
	const docket = await requireDocket(context, id);
	if (docket.state !== 'drafted' && docket.state !== 'carrying-out')
		throw new Refusal('not-possible', `Docket ${id} was ${docket.state.replace('-', ' ')} already. Nothing was done.`);
	const { confirmation } = viewDocket(docket, await requireMailboxId(context, docket.mailboxId));
	if (docket.state === 'drafted' && confirmation && !isConfirmedBy(confirmation, confirm ?? ''))
		throw new Refusal('bad-input', `Type “${confirmation.text}” to confirm it. Nothing was done.`);
	return aboutDocket(context, docket, 'carry out');
}

/** The use cases of this file. */
export const carryOutUseCases = [
	defineJob(
		{
			name: 'carryOut',
			input: () =>
				Joi.object({
					id: id.required(),
					expected: Joi.object({ messages: Joi.number().required(), bytes: Joi.number().required() }),
					confirm: text,
					byItself: Joi.boolean()
				}).required(),
			thread: 'writer',
			right: 'administrator',
			run: carryOut
		},
		{ lane: 'docket', about: aboutCarryingOut }
	),
	defineJob(
		{
			name: 'takeBack',
			input: () => Joi.object({ id: id.required() }).required(),
			thread: 'writer',
			right: 'administrator',
			run: takeBack
		},
		{
			lane: 'docket',
			about: async (context, { id }) => aboutDocket(context, await requireDocket(context, id), 'take back')
		}
	)
] as const;
