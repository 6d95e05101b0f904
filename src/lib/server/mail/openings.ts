import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { addOpenings, placesOf } from './openings-store.ts';
import { ownMailboxes } from '../access/index.ts';
import { type Context, defineUseCase, id, type Look, text, today } from '../context/index.ts';
import Joi from 'joi';

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
 * Records that somebody saw mail outside their own mailboxes: each message once a day, in the ledger, by its number. `at`
 * is the time of a note that had to wait.
 * Subjects are left out, as they would outlive the message; of a search its words are kept.
 */
export async function recordOpening(
	context: Context,
	input: { ids: readonly number[]; what: Look; query?: string | undefined; at?: string | undefined }
): Promise<void> {
	const { actor } = context;
	await inTransaction(context.db, async (db) => {
		const own = actor.personId === null ? [] : (await ownMailboxes(db, actor.personId)).map(({ id }) => id);
		const places = await placesOf(db, input.ids, own);
		const at = input.at ? new Date(input.at) : context.now();
		const on = context.dateOf(at.getTime() / 1000);
		const look = { who: actor.name, what: input.what, on, at: at.toISOString() };
		if ((await addOpenings(db, { ...look, itemIds: places.map(({ item }) => item) })) === 0) return;
		const [first] = places;
		await appendLedger(db, {
			at: context.now(),
			by: actor,
			action: input.query === undefined ? 'looked' : 'searched',
			details:
				input.query === undefined
					? { ...first, what: input.what, seen: input.at }
					: { query: input.query, found: places.length, items: places.map(({ item }) => item), seen: input.at }
		});
	});
}

/** The use cases of this file. */
export const openingsUseCases = [
	defineUseCase({
		name: 'recordOpening',
		input: () =>
			Joi.object({
				ids: Joi.array().items(id).max(1_000).required(),
				what: Joi.valid('read', 'opened a file of', 'kept a copy of', 'found words in').required(),
				query: text,
				at: Joi.string().isoDate()
			}).required(),
		thread: 'writer',
		right: 'finder',
		run: recordOpening
	})
] as const;
