import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { addOpenings } from './openings-store.ts';
import { getItem } from './messages-store.ts';
import { ownMailboxes } from '../access/index.ts';
import { type Context, defineUseCase, id, today } from '../context/index.ts';
import Joi from 'joi';

/** Uses of a message that change nothing. */
export type Look = 'read' | 'opened a file of' | 'kept a copy of';

/* Above this number only the ledger records them: nobody requests so many one by one. */
const MOST_COPIES = 10_000;

/** Records for the owners of mailboxes that their messages were copied; the ledger has one line for all. */
export async function recordCopies(context: Context, ids: readonly number[]): Promise<void> {
	const looks = {
		who: context.actor.name,
		what: 'kept a copy of' satisfies Look,
		on: today(context),
		at: context.now().toISOString()
	};
	await inTransaction(context.db, (db) => addOpenings(db, { ...looks, itemIds: ids.slice(0, MOST_COPIES) }));
}

/**
 * Records that somebody opened a message outside their own mailboxes: once a day, in the ledger, by its number. Its
 * subject is left out, as it would outlive the message.
 */
export async function recordOpening(context: Context, input: { id: number; what: Look }): Promise<void> {
	const { db, actor } = context;
	const item = await getItem(db, input.id);
	if (!item) return;
	if (actor.personId !== null && (await ownMailboxes(db, actor.personId)).some(({ id }) => id === item.mailboxId))
		return;
	await inTransaction(db, async (trx) => {
		const at = context.now();
		const look = {
			itemIds: [item.id],
			who: context.actor.name,
			what: input.what,
			on: today(context),
			at: at.toISOString()
		};
		if ((await addOpenings(trx, look)) === 0) return;
		await appendLedger(trx, {
			at,
			by: context.actor,
			action: 'looked',
			details: { mailbox: item.mailbox, folder: item.origin ?? item.folder, item: item.id, what: input.what }
		});
	});
}

/** The use cases of this file. */
export const openingsUseCases = [
	defineUseCase({
		name: 'recordOpening',
		input: () =>
			Joi.object({
				id: id.required(),
				what: Joi.valid('read', 'opened a file of', 'kept a copy of').required()
			}).required(),
		thread: 'writer',
		right: 'finder',
		run: recordOpening
	})
] as const;
