import { type CalendarDate, readDate } from '../../../core/calendar.ts';
import { type Context, defineUseCase, id, text, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import type { DecisionResult } from '../docket/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { ensureFolder, foldersById, requireMailboxId } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { decideAtDesk } from './desk.ts';
import { listPiles, type Pile, putOnPileNotes, putPile, removePile } from './piles-store.ts';
import Joi from 'joi';

const LONGEST_REASON = 500;

/** A message put on a pile. */
interface PileGiven {
	mailboxId: number;
	ids: number[];
	/** The path of its folder, which is made when it is first needed. */
	pile: string;
	/** Why it waits, and until which day; then it stands on the desk again. */
	because?: string | undefined;
	until?: CalendarDate | undefined;
}

const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was done.`);

/** Puts messages on a pile: a move, with a note of why they wait. @throws Refusal */
export async function putOnPile(context: Context, input: PileGiven): Promise<DecisionResult[]> {
	const pile = input.pile.trim();
	const because = (input.because ?? '').trim().slice(0, LONGEST_REASON);
	if (pile === '') throw refuse('Name the pile.');
	if (input.until !== undefined && (readDate(input.until) !== input.until || input.until <= today(context)))
		throw refuse('A message waits until a day that is still to come.');
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const mailbox = await requireMailboxId(within, input.mailboxId);
		const folder = await ensureFolder(db, mailbox.id, 'mailbox', pile);
		if (folder.role !== null) throw refuse(`${folder.path} is no pile: it is the ${folder.role} folder.`);
		await putPile(db, { folderId: folder.id, mailboxId: mailbox.id, at: context.now(), by: context.actor.name });
		const decided = await decideAtDesk(within, { ids: input.ids, decision: 'move', options: { folder: folder.path } });
		await putOnPileNotes(db, {
			itemIds: input.ids,
			folderId: folder.id,
			because,
			until: input.until,
			on: today(context),
			by: context.actor.name
		});
		return decided;
	});
}

/** The piles of a mailbox. @throws Refusal */
export async function showPiles(context: Context, input: { mailboxId: number }): Promise<Pile[]> {
	const { id: mailboxId } = await requireMailboxId(context, input.mailboxId);
	return listPiles(context.db, mailboxId, today(context));
}

/** Makes a pile an ordinary folder again. @throws Refusal */
export async function endPile(context: Context, input: { folderId: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const [folder] = await foldersById(db, [input.folderId]);
		if (!folder) throw new Refusal('not-found', 'There is no such folder any more. Nothing was changed.');
		await removePile(db, input.folderId);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'pile-ended',
			details: { mailbox: folder.mailbox, folder: folder.path }
		});
	});
}

/** The use cases of this file. */
export const pilesUseCases = [
	defineUseCase({
		name: 'showPiles',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: showPiles
	}),
	defineUseCase({
		name: 'putOnPile',
		input: () =>
			Joi.object({
				mailboxId: id.required(),
				ids: Joi.array().items(id).min(1).max(10_000).required(),
				pile: Joi.string().allow('').max(2_000).required(),
				because: text,
				until: Joi.string().max(10)
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: putOnPile
	}),
	defineUseCase({
		name: 'endPile',
		input: () => Joi.object({ folderId: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: endPile
	})
] as const;
