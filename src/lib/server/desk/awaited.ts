import Joi from 'joi';
import { type CalendarDate, readDate, showDate } from '../../../core/calendar.ts';
import { KOVREL } from '../../../core/access/roles.ts';
import { actingAs, type Context, defineJob, defineUseCase, id, text, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { carryOutAtOnce, type DecisionResult } from '../docket/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { getItem, listMailboxes, requireMailbox, requireMailboxId } from '../mail/index.ts';
import { rulesOnMessage } from '../rules/index.ts';
import { Refusal } from '../refusal.ts';
import {
	addAwaited,
	answeredThreads,
	archivedOfThread,
	type Awaited,
	type AwaitedEnd,
	endAwaited,
	endedWaits,
	itemsAwaited,
	lastFromOthers,
	mailboxesAwaiting,
	mailboxesOfItems,
	openAwaited,
	putReturnedThrough,
	putReturnsAnswered,
	returnsAnswered,
	returnsOf,
	waitOf
} from './awaited-store.ts';
import { decideAtDesk } from './desk.ts';

const LONGEST_REASON = 500;

/** A thread that is to come back when it is answered. */
interface AwaitGiven {
	/** Its messages: live ones are archived; of an archived one, all that is archived of its thread comes back. */
	ids: number[];
	because?: string | undefined;
	/** The day on which it comes back without an answer. */
	until?: CalendarDate | undefined;
}

/** Archives messages of a thread until it is answered. @throws Refusal */
export async function awaitAnswer(context: Context, input: AwaitGiven): Promise<DecisionResult[]> {
	const since = today(context);
	if (input.until !== undefined && (readDate(input.until) !== input.until || input.until <= since))
		throw new Refusal('bad-input', 'A thread comes back on a day that is still to come. Nothing was done.');
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const named = input.ids[0] === undefined ? undefined : await getItem(db, input.ids[0]);
		const own = named ? (await requireMailboxId(within, named.mailboxId)).addresses : [];
		const lastId = await lastFromOthers(db, input.ids, own);
		const first = lastId === undefined ? undefined : await getItem(db, lastId);
		const mailboxes = await mailboxesOfItems(db, input.ids);
		if (!first || mailboxes.length !== 1)
			throw new Refusal('bad-input', 'Messages of one thread are awaited together. Nothing was done.');
		const isArchived = first.state === 'archived';
		const itemIds = isArchived ? await archivedOfThread(db, first.id) : input.ids;
		const decided = isArchived ? [] : await decideAtDesk(within, { ids: input.ids, decision: 'archive', options: {} });
		await addAwaited(db, {
			mailboxId: first.mailboxId,
			itemId: first.id,
			itemIds: itemIds.length > 0 ? itemIds : [first.id],
			because: (input.because ?? '').trim().slice(0, LONGEST_REASON),
			since,
			until: input.until,
			by: context.actor.name
		});
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'answer-awaited',
			details: { mailbox: first.mailbox, messages: itemIds.length, until: input.until ?? '' }
		});
		return decided;
	});
}

/** The threads of a mailbox whose answers are awaited. @throws Refusal */
async function showAwaited(
	context: Context,
	input: { mailboxId: number }
): Promise<{ mailbox: { id: number; name: string }; returnsAnswered: boolean; awaited: Awaited[] }> {
	const { id: mailboxId, name } = await requireMailboxId(context, input.mailboxId);
	return {
		mailbox: { id: mailboxId, name },
		returnsAnswered: await returnsAnswered(context.db, mailboxId),
		awaited: await openAwaited(context.db, mailboxId)
	};
}

/** The threads whose answers are awaited, of a mailbox or of all. @throws Refusal */
export async function listAwaited(
	context: Context,
	input: { mailbox?: string | undefined }
): Promise<(Awaited & { mailbox: string })[]> {
	const meant =
		input.mailbox === undefined ? await listMailboxes(context.db) : [await requireMailbox(context, input.mailbox)];
	const found: (Awaited & { mailbox: string })[] = [];
	for (const { id: mailboxId, name } of meant)
		for (const awaited of await openAwaited(context.db, mailboxId)) found.push({ ...awaited, mailbox: name });
	return found;
}

async function requireAwaited(context: Context, input: { mailboxId: number; id: number }): Promise<Awaited> {
	const found = (await openAwaited(context.db, input.mailboxId)).find((one) => one.id === input.id);
	if (!found) throw new Refusal('not-found', 'This thread is not awaited any more. Nothing was changed.');
	return found;
}

/** Ends a wait: the thread stays archived, or is restored now. @throws Refusal */
async function stopAwaiting(
	context: Context,
	input: { mailboxId: number; id: number; restores: boolean }
): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const awaited = await requireAwaited(within, input);
		if (input.restores) await bringBack(within, input.mailboxId, awaited.id, 'person', undefined);
		else await endAwaited(db, awaited.id, { on: today(context), by: 'person' });
	});
}

/** Sets whether every archived thread of a mailbox comes back when it is answered. @throws Refusal */
async function setReturning(context: Context, input: { mailboxId: number; returns: boolean }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const mailbox = await requireMailboxId({ ...context, db }, input.mailboxId);
		await putReturnsAnswered(db, mailbox.id, input.returns);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'answer-awaited',
			details: { mailbox: mailbox.name, all: input.returns }
		});
	});
}

/** A thread that came back. */
export interface Returned {
	mailbox: string;
	by: AwaitedEnd;
	messages: number;
	docket: number | undefined;
}

/* Restores what is archived of a wait, and notes why. What a person has restored meanwhile stays where it is. */
async function bringBack(
	context: Context,
	mailboxId: number,
	awaitedId: number,
	by: AwaitedEnd,
	answerId: number | undefined
): Promise<Returned> {
	const mailbox = await requireMailboxId(context, mailboxId);
	const ids = await itemsAwaited(context.db, awaitedId);
	const done =
		ids.length === 0
			? undefined
			: await carryOutAtOnce(context, mailbox, [{ decision: 'restore', options: {}, scope: { kind: 'items', ids } }]);
	await endAwaited(context.db, awaitedId, { on: today(context), by, answerId, docketId: done?.docket });
	if (done)
		await appendLedger(context.db, {
			at: context.now(),
			by: context.actor,
			action: 'answer-returned',
			details: { mailbox: mailbox.name, docket: done.docket, by }
		});
	return { mailbox: mailbox.name, by, messages: done?.messages ?? 0, docket: done?.docket };
}

async function returnInMailbox(context: Context, mailboxId: number): Promise<Returned[]> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { addresses: own } = await requireMailboxId(within, mailboxId);
		const back: Returned[] = [];
		for (const { id: awaitedId, answerId } of await endedWaits(db, mailboxId, { own, today: today(context) }))
			back.push(
				await bringBack(within, mailboxId, awaitedId, answerId === null ? 'day' : 'answer', answerId ?? undefined)
			);
		if (await returnsAnswered(db, mailboxId)) {
			for (const { answerId, itemIds } of await answeredThreads(db, mailboxId, own)) {
				const [itemId] = itemIds;
				if (itemId === undefined) continue;
				const awaitedId = await addAwaited(db, {
					mailboxId,
					itemId,
					itemIds,
					because: '',
					since: today(context),
					until: undefined,
					by: context.actor.name
				});
				back.push(await bringBack(within, mailboxId, awaitedId, 'answer', answerId));
			}
			await putReturnedThrough(db, mailboxId);
		}
		return back.filter(({ messages }) => messages > 0);
	});
}

/** Brings back the threads that were answered, or whose day has come. */
export async function returnAwaited(context: Context): Promise<{ returned: Returned[] }> {
	const asKovrel = actingAs(context, { ...KOVREL, name: 'Kovrel, as it was awaited' });
	const returned: Returned[] = [];
	for (const mailboxId of await mailboxesAwaiting(context.db)) {
		if (context.signal.aborted) break;
		returned.push(...(await returnInMailbox(asKovrel, mailboxId)));
	}
	return { returned };
}

/** Whether a thread may have to come back. */
export async function someAwaited({ db }: Pick<Context, 'db'>): Promise<boolean> {
	return (await mailboxesAwaiting(db)).length > 0;
}

const ENDS: Record<AwaitedEnd, (who: string) => string> = {
	answer: (who) => `${who} answered`,
	day: () => 'its day had come',
	person: () => 'a person restored it'
};

/** What acted on a message by itself, in words: standing decisions, and what brought it back. */
async function actedOnMessage(context: Context, input: { itemId: number }): Promise<string[]> {
	const waits = await waitOf(context.db, input.itemId);
	const waiting = waits
		? [
				`It comes back when it is answered${waits.until ? `, or on ${showDate(waits.until)}` : ''}; awaited since ${showDate(waits.since)}${waits.because ? `: ${waits.because}` : ''}.`
			]
		: [];
	const back = (await returnsOf(context.db, input.itemId)).map(
		({ on, by, who, because, docketId }) =>
			`It came back on ${showDate(on)}, because ${ENDS[by](who ?? 'somebody')}${because ? ` (awaited: ${because})` : ''} (docket ${docketId}).`
	);
	return [...waiting, ...back, ...(await rulesOnMessage(context, input))];
}

/** The use cases of this file. */
export const awaitedUseCases = [
	defineUseCase({
		name: 'showAwaited',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: showAwaited
	}),
	defineUseCase({
		name: 'awaitAnswer',
		input: () =>
			Joi.object({
				ids: Joi.array().items(id).min(1).max(10_000).required(),
				because: text,
				until: Joi.string().max(10)
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: awaitAnswer
	}),
	defineUseCase({
		name: 'stopAwaiting',
		input: () =>
			Joi.object({ mailboxId: id.required(), id: id.required(), restores: Joi.boolean().required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: stopAwaiting
	}),
	defineUseCase({
		name: 'setReturning',
		input: () => Joi.object({ mailboxId: id.required(), returns: Joi.boolean().required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setReturning
	}),
	defineUseCase({
		name: 'actedOnMessage',
		input: () => Joi.object({ itemId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: actedOnMessage
	}),
	defineJob(
		{ name: 'returnAwaited', thread: 'writer', right: 'administrator', run: returnAwaited },
		{ lane: 'docket', about: () => ({ kind: 'awaited' }) }
	)
] as const;
