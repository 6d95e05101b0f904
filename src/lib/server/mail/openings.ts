import { type Db, inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { addOpenings, addSearch, placesOf } from './openings-store.ts';
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
	const itemIds = ids.slice(0, MOST_COPIES);
	await inTransaction(context.db, (db) => addOpenings(db, { ...looks, itemIds }), { isNote: true });
}

/* Searches that were noted a while ago: a page that is loaded again says nothing new. */
const MOST_RECENT = 5_000;
const recent = new Set<string>();

function remember(search: string): void {
	const [oldest] = recent;
	if (recent.size >= MOST_RECENT && oldest !== undefined) recent.delete(oldest);
	recent.add(search);
}

/**
 * Records that somebody saw mail outside their own mailboxes, in the ledger, by its numbers: an opened message once a day, a
 * search whose lines were read with what it showed. Subjects are left out, as they would outlive the message. `at` is the
 * time of a note that had to wait.
 */
export async function recordOpening(
	context: Context,
	input: { ids: readonly number[]; what: Look; query?: string | undefined; at?: string | undefined }
): Promise<void> {
	const { actor } = context;
	const record = async (db: Db) => {
		const own = actor.personId === null ? [] : (await ownMailboxes(db, actor.personId)).map(({ id }) => id);
		const places = await placesOf(db, input.ids, own);
		if (places.length === 0) return;
		const at = input.at ? new Date(input.at) : context.now();
		const on = context.dateOf(at.getTime() / 1000);
		const look = { who: actor.name, what: input.what, on, at: at.toISOString() };
		const items = places.map(({ item }) => item);
		const note = (action: 'looked' | 'searched', details: Record<string, unknown>) =>
			appendLedger(db, { at: context.now(), by: actor, action, details: { ...details, seen: input.at } });
		if (input.query === undefined) {
			if ((await addOpenings(db, { ...look, itemIds: items })) === 0) return;
			const [first] = places;
			await note('looked', { mailbox: first?.mailbox, folder: first?.folder, item: first?.item, what: input.what });
			return;
		}
		const search = JSON.stringify([context.dataFolder, actor.name, on, input.query, items]);
		if (recent.has(search)) return;
		await addSearch(db, { ...look, mailboxIds: [...new Set(places.map(({ mailboxId }) => mailboxId))] });
		await note('searched', { query: input.query, found: places.length, items });
		return search;
	};
	const noted = await inTransaction(context.db, record, { isNote: true });
	// one that could not be written has still to be noted
	if (noted !== undefined) remember(noted);
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
