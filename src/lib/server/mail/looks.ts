import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { addLooks } from './looks-store.ts';
import { getItem } from './messages-store.ts';
import { ownMailboxes } from '../access/index.ts';
import { type Context, defineUseCase, id, today } from '../context/index.ts';
import Joi from 'joi';

/** What somebody did with a message without changing anything. */
export type Look = 'read' | 'opened a file of' | 'kept a copy of';

/* More than anybody asks for one by one; those of a whole mailbox have a line in the ledger. */
const MOST_COPIES = 10_000;

/** Notes that copies of messages were taken, for the owners of their mailboxes; the ledger has one line for all of them. */
export async function noteCopies(context: Context, ids: readonly number[]): Promise<void> {
	const looks = {
		who: context.actor.name,
		what: 'kept a copy of' satisfies Look,
		on: today(context),
		at: context.now().toISOString()
	};
	await inTransaction(context.db, (db) => addLooks(db, { ...looks, itemIds: ids.slice(0, MOST_COPIES) }));
}

/**
 * Notes that somebody looked at a message that is not in a mailbox of their own: once a day, in the ledger, by its number.
 * Its subject is not kept there: it would outlive the message.
 */
export async function noteLook(context: Context, input: { id: number; what: Look }): Promise<void> {
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
		if ((await addLooks(trx, look)) === 0) return;
		await appendLedger(trx, {
			at,
			by: context.actor,
			action: 'looked',
			details: { mailbox: item.mailbox, folder: item.origin ?? item.folder, item: item.id, what: input.what }
		});
	});
}

/** The use cases of this file. */
export const looksUseCases = [
	defineUseCase({
		name: 'noteLook',
		input: () =>
			Joi.object({
				id: id.required(),
				what: Joi.valid('read', 'opened a file of', 'kept a copy of').required()
			}).required(),
		thread: 'writer',
		right: 'finder',
		run: noteLook
	})
] as const;
