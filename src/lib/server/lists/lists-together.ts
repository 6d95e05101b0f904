import { inTransaction } from '../database/index.ts';
import type { DocketView } from '../docket/index.ts';
import { requireMailboxes } from '../mail/index.ts';
import { type Context, count, defineUseCase, id, mailboxIds, text } from '../context/index.ts';
import { Refusal } from '../refusal.ts';
import { listsDecisionFields, type ListsWish, putLines, wishLines } from './decide-lists.ts';
import {
	byOrganisation,
	filterLists,
	inFull,
	type ListBase,
	type ListRow,
	type ListsAsked,
	type ListsPart,
	sumsOf,
	weightOf
} from './lists.ts';
import { mailboxesOfLists } from './lists-store.ts';
import { trustLists } from './senders.ts';
import Joi from 'joi';

/** A selection of mailboxes; undefined: all. */
interface Several {
	mailboxIds?: number[] | undefined;
}

/* The standing that needs a person most is shown; the rest can wait. */
const URGENCY: Record<ListBase['standing'], number> = {
	'still-writing': 0,
	failed: 1,
	unknown: 2,
	'by-hand': 3,
	subscribed: 4,
	waiting: 5,
	sending: 6,
	asked: 7,
	confirmed: 8,
	silent: 9
};

const earlier = <T extends string | undefined>(a: T, b: T) => (b === undefined || (a !== undefined && a <= b) ? a : b);
const later = <T extends string | undefined>(a: T, b: T) => (b === undefined || (a !== undefined && a >= b) ? a : b);

/* What two mailboxes have of one list. */
function bothOf<T extends ListBase>(a: T, b: T): T {
	const [told, other] = URGENCY[a.standing] <= URGENCY[b.standing] ? [a, b] : [b, a];
	return {
		...told,
		messages: a.messages + b.messages,
		bytes: a.bytes + b.bytes,
		first: earlier(a.first, b.first),
		last: later(a.last, b.last),
		inNewest: a.inNewest + b.inNewest,
		askedOn: later(told.askedOn, other.askedOn),
		inDigest: a.inDigest || b.inDigest
	};
}

function rowOfBoth(a: ListRow, b: ListRow): ListRow {
	const newest = (b.last ?? '') > (a.last ?? '') ? b : a;
	return {
		...bothOf(a, b),
		mailboxId: b.messages > a.messages ? b.mailboxId : a.mailboxId,
		live: a.live + b.live,
		read: a.read + b.read,
		readKnown: a.readKnown + b.readKnown,
		lastRead: later(a.lastRead, b.lastRead),
		known: a.known || b.known,
		months: a.months.map((messages, at) => messages + (b.months[at] ?? 0)),
		addresses: Math.max(a.addresses, b.addresses),
		ways: newest.ways
	};
}

/* One entry a list, from the entries of each mailbox. */
function merged<T extends ListBase>(ofEach: readonly (readonly T[])[], both: (a: T, b: T) => T): T[] {
	const lists = new Map<number, T>();
	for (const some of ofEach)
		for (const one of some) {
			const known = lists.get(one.id);
			lists.set(one.id, known ? both(known, one) : one);
		}
	return [...lists.values()];
}

/**
 * The lists of several mailboxes as one sheet; with `newest`, those among the newest messages of each. Of a list that
 * stands differently in them, the standing that needs a person most is told.
 *
 * @throws Refusal
 */
export async function listListsTogether(
	context: Context,
	input: Omit<ListsAsked, 'mailboxId'> & Several
): Promise<ListsPart> {
	const mailboxes = await requireMailboxes(context, input.mailboxIds);
	const ofEach = new Map<number, ListBase[]>();
	const everything: ListBase[][] = [];
	for (const { id } of mailboxes) {
		const found = await filterLists(context, id, input);
		ofEach.set(id, found.selected);
		everything.push(found.everything);
	}
	const { offset = 0, limit } = input;
	const sorted = byOrganisation(merged([...ofEach.values()], bothOf), weightOf(input));
	const shown = sorted.slice(offset, offset + limit);
	const ids = new Set(shown.map(({ id }) => id));
	const rows: ListRow[][] = [];
	for (const [mailboxId, lists] of ofEach)
		rows.push(
			await inFull(
				context,
				mailboxId,
				lists.filter(({ id }) => ids.has(id))
			)
		);
	const inRows = new Map(merged(rows, rowOfBoth).map((row) => [row.id, row]));
	return {
		lists: shown.flatMap(({ id }) => inRows.get(id) ?? []),
		offset,
		...(await sumsOf(context, sorted, merged(everything, bothOf)))
	};
}

/* Which of some lists write to each of the selected mailboxes. */
async function perMailbox(context: Context, wish: Several, ids: readonly number[]): Promise<Map<number, Set<number>>> {
	const selected = new Set((await requireMailboxes(context, wish.mailboxIds)).map(({ id }) => id));
	const found = new Map<number, Set<number>>();
	for (const { mailboxId, listId } of await mailboxesOfLists(context.db, ids))
		if (selected.has(mailboxId)) found.set(mailboxId, (found.get(mailboxId) ?? new Set()).add(listId));
	return found;
}

/**
 * Puts a decision on lists on the docket of each mailbox that gets them: each is subscribed with its own address.
 * Nothing is carried out yet.
 *
 * @throws Refusal, and then nothing is drafted
 */
export async function decideListsTogether(
	context: Context,
	input: Omit<ListsWish, 'mailboxId'> & Several
): Promise<DocketView[]> {
	const { mailboxIds: several, ids, blocked = [], ...wish } = input;
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const dockets: DocketView[] = [];
		let settled: Refusal | undefined;
		for (const [mailboxId, here] of await perMailbox(within, { mailboxIds: several }, [...ids, ...blocked])) {
			const inMailbox = (list: number) => here.has(list);
			const lines = await wishLines(within, {
				...wish,
				mailboxId,
				ids: ids.filter(inMailbox),
				blocked: blocked.filter(inMailbox)
			}).catch((error: unknown) => {
				// in this mailbox they were asked already, and nothing is written for it; the others go on
				if (!(error instanceof Refusal) || error.code !== 'not-possible') throw error;
				settled = error;
				return [];
			});
			if (lines.length > 0) dockets.push(await putLines(within, mailboxId, lines));
		}
		if (dockets.length === 0) throw settled ?? new Refusal('bad-input', 'Select lists first. Nothing was done.');
		return dockets;
	});
}

/** Trusts lists from now on, in all mailboxes. @throws Refusal */
async function trustListsTogether(context: Context, input: Several & { ids: number[] }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const trusted = new Set<number>();
		for (const [mailboxId, here] of await perMailbox(within, input, input.ids)) {
			const ids = input.ids.filter((list) => here.has(list) && !trusted.has(list));
			if (ids.length > 0) await trustLists(within, { mailboxId, ids });
			for (const list of ids) trusted.add(list);
		}
		if (trusted.size === 0) throw new Refusal('bad-input', 'Select lists first. Nothing was changed.');
	});
}

/** The use cases of this file. */
export const listsTogetherUseCases = [
	defineUseCase({
		name: 'listListsTogether',
		input: () =>
			Joi.object({
				mailboxIds,
				newest: count,
				text,
				show: Joi.valid('all', 'known', 'strangers', 'never-read', 'still-writing', 'blocked', 'digest'),
				offset: count,
				limit: count.required()
			}).required(),
		thread: 'heavy',
		right: 'administrator',
		run: listListsTogether
	}),
	defineUseCase({
		name: 'decideListsTogether',
		input: () => Joi.object({ mailboxIds, ...listsDecisionFields }).required(),
		thread: 'writer',
		right: 'administrator',
		run: decideListsTogether
	}),
	defineUseCase({
		name: 'trustListsTogether',
		input: () => Joi.object({ mailboxIds, ids: Joi.array().items(id).required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: trustListsTogether
	})
] as const;
