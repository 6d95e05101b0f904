import Joi from 'joi';
import type { CalendarDate } from '../../../core/calendar.ts';
import { type Context, defineUseCase, id } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import type { DecisionResult } from '../docket/index.ts';
import { getItem } from '../mail/index.ts';
import { addRule } from '../rules/index.ts';
import { Refusal } from '../refusal.ts';
import { liveOfThread } from './awaited-store.ts';
import { decideAtDesk } from './desk.ts';

/** Where a closed thread goes. */
interface ClosingGiven {
	itemId: number;
	then: 'archive' | 'delete' | 'move';
	/** The folder to move to. */
	folder?: string | undefined;
	/** The day before which what still comes goes there; undefined: for good. */
	until?: CalendarDate | undefined;
}

/**
 * Closes a thread: it goes where a person says, and so does whatever still comes in it, by a standing decision.
 *
 * @throws Refusal
 */
export async function closeThread(
	context: Context,
	input: ClosingGiven
): Promise<{ rule: number; decided: DecisionResult[] }> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const item = await getItem(db, input.itemId);
		if (!item || item.threadId === null)
			throw new Refusal(
				'not-found',
				'The message stands in no thread, so that nothing can be closed. Nothing was done.'
			);
		const options = input.then === 'move' ? { folder: input.folder?.trim() ?? '' } : {};
		const { id: rule } = await addRule(within, {
			mailbox: item.mailboxId,
			rule: {
				// by its number: the name stays in the ledger when the thread's mail is destroyed
				name: `Closed thread ${item.threadId}`,
				query: `thread:${item.threadId}`,
				stay: {},
				then: input.then,
				options,
				until: input.until
			},
			threadItemId: item.id
		});
		const ids = await liveOfThread(db, item.id);
		const decided = ids.length === 0 ? [] : await decideAtDesk(within, { ids, decision: input.then, options });
		return { rule, decided };
	});
}

/** The use cases of this file. */
export const closeThreadUseCases = [
	defineUseCase({
		name: 'closeThread',
		input: () =>
			Joi.object({
				itemId: id.required(),
				then: Joi.valid('archive', 'delete', 'move').required(),
				folder: Joi.string().allow('').max(2_000),
				until: Joi.string().isoDate().max(10)
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: closeThread
	})
] as const;
