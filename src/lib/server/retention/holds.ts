import { readDate } from '../../../core/calendar.ts';
import { holdSentence, type HoldScope } from '../../../core/retention/holds.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { all, inTransaction, sql } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import {
	addHold,
	appliedSettings,
	applySmall,
	dueUnder,
	findHold,
	heldBy,
	holdWeights,
	listHolds,
	mailboxesUnder,
	noteSettings,
	refreshHolds,
	putHoldRelease,
	putUnderHold,
	type StoredHold
} from '../standing/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { checkedQuery, listMailboxes, requireFolder, requireMailbox, weighItems } from '../mail/index.ts';
import { type Context, defineUseCase, id, text, today } from '../context/index.ts';
import Joi from 'joi';

/** A hold with its scope in words. */
export interface HoldView extends StoredHold, Weight {
	/** Its scope, in words. */
	sentence: string;
}

/** All holds with their counts; released ones on request. */
export async function listedHolds({ db }: Pick<Context, 'db'>, input: { released: boolean }): Promise<HoldView[]> {
	const names = new Map((await listMailboxes(db)).map(({ id, name }) => [id, name]));
	const weights = await holdWeights(db);
	return (await listHolds(db, input)).map((hold) => ({
		...hold,
		...(weights.get(hold.id) ?? { messages: 0, bytes: 0 }),
		sentence: holdSentence(
			hold.scope,
			hold.scope.mailboxId === undefined ? undefined : (names.get(hold.scope.mailboxId) ?? 'a mailbox')
		)
	}));
}

/** A hold to be placed. */
export interface HoldInput extends Omit<HoldScope, 'mailboxId'> {
	name: string;
	because: string;
	/** Who requested it. */
	from: string;
	/** Name of a mailbox; undefined: all. */
	mailbox?: string | undefined;
}

const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was held.`);

async function readScope(context: Context, wish: HoldInput): Promise<HoldScope> {
	const { mailbox: name, folder, correspondent, tag, since, before, query } = wish;
	const mailbox = name === undefined ? undefined : await requireMailbox(context, name);
	if (folder && !mailbox) throw refuse('A folder is that of one mailbox: choose the mailbox too.');
	for (const day of [since, before])
		if (day !== undefined && readDate(day) === undefined) throw refuse(`"${day}" is no date; write 2024-03-01.`);
	if (query) checkedQuery(query);
	const place = folder && mailbox ? await requireFolder(context, mailbox, folder) : undefined;
	return {
		mailboxId: mailbox?.id,
		folder: place?.path,
		folderId: place?.id,
		correspondent: correspondent?.trim().toLowerCase() || undefined,
		tag: tag?.trim() || undefined,
		since: since === undefined ? undefined : readDate(since),
		before: before === undefined ? undefined : readDate(before),
		query: query?.trim() || undefined
	};
}

/** The counts of a hold before it is placed. @throws Refusal */
export async function tryHold(context: Context, wish: HoldInput): Promise<Weight & { sentence: string }> {
	const scope = await readScope(context, wish);
	const covers = await heldBy(context.db, scope);
	return {
		...(await weighItems(context.db, all([sql`item.state <> 'destroyed'`, covers]))),
		sentence: holdSentence(scope, wish.mailbox)
	};
}

/* Stores a hold. */
async function addNamedHold(
	context: Context,
	{ name, because, from }: Pick<HoldInput, 'name' | 'because' | 'from'>,
	scope: HoldScope
): Promise<number> {
	if (name.trim() === '') throw refuse('A hold needs a name.');
	// the search key uses it: hold:"..."
	if (name.includes('"')) throw refuse('The name of a hold has no quotation marks.');
	if (because.trim() === '') throw refuse('A hold needs a reason.');
	if (from.trim() === '') throw refuse('Say who asked for the hold.');
	return addHold(context.db, {
		name: name.trim(),
		because: because.trim(),
		from: from.trim(),
		scope,
		placedOn: today(context),
		placedBy: context.actor.name
	});
}

/** Messages to be put under a hold of that name; a new one needs a reason and who asked for it. */
export interface HoldMessages {
	ids: number[];
	name: string;
	because?: string | undefined;
	from?: string | undefined;
}

/**
 * Puts messages under a hold, in all places where they lie.
 *
 * @returns the hold's name, and how many messages came under it
 * @throws Refusal
 */
export async function holdMessages(context: Context, wish: HoldMessages): Promise<{ hold: string; messages: number }> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { name, because = '', from = '' } = wish;
		const known = await findHold(db, name.trim());
		const id = known?.id ?? (await addNamedHold(within, { name, because, from }, { isNamed: true }));
		const messages = await putUnderHold(db, id, wish.ids);
		const hold = known?.name ?? name.trim();
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: known ? 'hold-extended' : 'hold-placed',
			details: { hold, ...(known ? {} : { because, from }), messages }
		});
		return { hold, messages };
	});
}

/**
 * Places a hold: from here on nothing in its scope is deleted or destroyed, future mail included.
 *
 * @throws Refusal
 */
export async function placeHold(context: Context, wish: HoldInput): Promise<HoldView> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		if (await findHold(db, wish.name.trim())) throw refuse(`There is a hold "${wish.name.trim()}" already.`);
		const id = await addNamedHold(within, wish, await readScope(within, wish));
		const messages = await refreshHolds(db, sql`1`, id);
		const placed = (await listedHolds(within, { released: false })).find((hold) => hold.id === id) as HoldView;
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'hold-placed',
			details: { hold: placed.name, because: placed.because, from: placed.from, what: placed.sentence, messages }
		});
		return placed;
	});
}

/**
 * Releases a hold, with a reason; mail under no other hold is free.
 *
 * @returns how many messages it covered, and how many of those are now due to be destroyed
 * @throws Refusal
 */
export async function releaseHold(
	context: Context,
	input: { name: string; because: string }
): Promise<{ messages: number; due: number }> {
	if (input.because.trim() === '')
		throw new Refusal('bad-input', 'Releasing a hold needs a reason. Nothing was released.');
	return inTransaction(context.db, async (db) => {
		const hold = await findHold(db, input.name);
		if (!hold) throw new Refusal('not-found', `There is no hold "${input.name}". Nothing was released.`);
		const mailboxes = await mailboxesUnder(db, hold.id);
		// counted before, so that the answer describes the state after
		const due = await dueUnder(db, hold.id, today(context));
		const messages = await putHoldRelease(db, hold.id, {
			on: today(context),
			by: context.actor.name,
			because: input.because.trim()
		});
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'hold-released',
			details: { hold: hold.name, because: input.because.trim(), messages, due }
		});
		for (const id of mailboxes) if ((await appliedSettings(db, id)).settings > 0) await noteSettings(db, id);
		await applySmall({ ...context, db });
		return { messages, due };
	});
}

/** How many holds are in effect. */
export async function countHolds({ db }: Context): Promise<number> {
	return (await listHolds(db, { released: false })).length;
}

/** The use cases of this file. */
export const holdsUseCases = [
	defineUseCase({
		name: 'countHolds',
		thread: 'reader',
		right: 'oversight',
		run: countHolds
	}),
	defineUseCase({
		name: 'tryHold',
		input: () =>
			Joi.object({
				name: text.required(),
				because: text.required(),
				from: text.required(),
				mailbox: text,
				correspondent: text,
				folder: text,
				tag: text,
				folderId: id,
				since: text,
				before: text,
				query: text
			}).required(),
		thread: 'heavy',
		right: 'administrator',
		run: tryHold
	}),
	defineUseCase({
		name: 'listedHolds',
		input: () => Joi.object({ released: Joi.boolean().required() }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: listedHolds
	}),
	defineUseCase({
		name: 'placeHold',
		input: () =>
			Joi.object({
				name: text.required(),
				because: text.required(),
				from: text.required(),
				mailbox: text,
				correspondent: text,
				folder: text,
				tag: text,
				folderId: id,
				since: text,
				before: text,
				query: text
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: placeHold
	}),
	defineUseCase({
		name: 'releaseHold',
		input: () => Joi.object({ name: text.required(), because: text.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: releaseHold
	})
] as const;
