import { hash } from 'node:crypto';
import { type Branch, conversationsOf } from '../../../core/threads/conversations.ts';
import {
	branchesOf,
	comparedId,
	type ThreadedMessage,
	type ThreadNode,
	threadsOf,
	walkThread
} from '../../../core/threads/thread.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { type Db, inTransaction } from '../database/index.ts';
import {
	itemsNotThreaded,
	itemsOfSets,
	itemsOfThreads,
	mailboxesNotThreaded,
	type NewThread,
	peopleOf,
	putAnswered,
	putIntoSets,
	putReferenceSets,
	putThreads,
	receivedOn,
	referenceSets,
	setsOfSubjects,
	subjectsWithLoose,
	threadIds,
	type ThreadItem,
	threadOf
} from './threads-store.ts';
import { type Context, defineJob, defineUseCase, id } from '../context/index.ts';
import { requireMailbox } from './mailboxes.ts';
import { getMailbox } from './mailboxes-store.ts';
import { requireReach, withinReach } from '../access/index.ts';
import Joi from 'joi';

/*
 * 48 bits: among ten million Message-IDs a collision is unlikely, and would only enlarge a set: threading compares
 * the ids themselves.
 */
function hashOf(messageId: string): number {
	return Number.parseInt(hash('sha1', comparedId(messageId)).slice(0, 12), 16);
}

/* Disjoint sets that are united, each named by its smallest number. */
class Union {
	#above = new Map<number, number>();

	find(set: number): number {
		let top = set;
		for (let next = this.#above.get(top); next !== undefined; next = this.#above.get(top)) top = next;
		return top;
	}

	join(a: number, b: number): number {
		const [low, high] = [this.find(a), this.find(b)].sort((x, y) => x - y) as [number, number];
		if (low !== high) this.#above.set(high, low);
		return low;
	}

	joined(): { from: number; into: number }[] {
		return [...this.#above.keys()].map((from) => ({ from, into: this.find(from) }));
	}
}

interface ReferenceSets {
	/** Sets of new items only. */
	fresh: Map<number, ThreadedMessage[]>;
	/** The set of each item in those. */
	freshSets: Map<number, number>;
	/** Existing sets with new items. */
	grown: number[];
}

/*
 * Finds the sets of the Message-IDs of new items, and stores those that belong to an existing one. A set is named by
 * an item in it.
 */
async function intoSets(db: Db, mailboxId: number, items: readonly ThreadedMessage[]): Promise<ReferenceSets> {
	const hashed = items.map(({ id, messageId, references }) => ({
		id,
		hashes: [...new Set([messageId, ...references].filter(Boolean).map(hashOf))]
	}));
	const known = await referenceSets(
		db,
		mailboxId,
		hashed.flatMap(({ hashes }) => hashes)
	);
	const stored = new Set(known.values());
	const union = new Union();
	for (const { id, hashes } of hashed) {
		let set = id;
		for (const hash of hashes) {
			const other = known.get(hash);
			if (other !== undefined) set = union.join(set, other);
		}
		for (const hash of hashes) known.set(hash, set);
	}
	await putReferenceSets(db, mailboxId, {
		merged: union.joined().filter(({ from }) => stored.has(from)),
		ids: [...known].map(([hash, set]) => [hash, union.find(set)])
	});
	const grown = new Set([...stored].map((set) => union.find(set)));
	const fresh = new Map<number, ThreadedMessage[]>();
	const freshSets = new Map<number, number>();
	const growing: [number, number][] = [];
	for (const [at, { id, hashes }] of hashed.entries()) {
		const set = union.find(known.get(hashes[0] ?? -1) ?? id);
		if (grown.has(set)) {
			growing.push([id, set]);
			continue;
		}
		const members = fresh.get(set) ?? [];
		members.push(items[at] as ThreadedMessage);
		fresh.set(set, members);
		freshSets.set(id, set);
	}
	await putIntoSets(db, growing);
	return { fresh, freshSets, grown: [...grown] };
}

function addTo<Key, Value>(lists: Map<Key, Value[]>, key: Key, value: Value): void {
	const list = lists.get(key);
	// a copy for each message would take the square of a long thread
	if (list) list.push(value);
	else lists.set(key, [value]);
}

/* Each answered message, with the day of the answer. */
function answersIn(members: readonly ThreadedMessage[]): { answered: number; answer: number }[] {
	const byId = new Map<string, number>();
	for (const { id, messageId } of members) if (messageId) byId.set(comparedId(messageId), id);
	return members.flatMap(({ id, references }) => {
		const parent = references.at(-1);
		const answered = parent === undefined ? undefined : byId.get(comparedId(parent));
		return answered === undefined || answered === id ? [] : [{ answered, answer: id }];
	});
}

/* One transaction's worth. */
const AT_ONCE = 5_000;

/*
 * The threads of some sets of messages. Sets of the same subject are added where one may join another: an answer without
 * references may belong to a letter that comes later.
 */
async function conversationsAmong(
	db: Db,
	mailboxId: number,
	own: ReadonlySet<string>,
	members: Map<number, ThreadedMessage[]>
): Promise<NewThread[]> {
	const branches = [...members.values()].flatMap(branchesOf);
	const loose = branches.filter(({ isLoose }) => isLoose).map(({ subject }) => subject);
	const stored = await subjectsWithLoose(db, mailboxId, [...new Set(branches.map(({ subject }) => subject))]);
	const open = new Set([...loose, ...stored].filter((subject) => subject !== ''));
	const others = new Map<number, ThreadedMessage[]>();
	const sets = (await setsOfSubjects(db, mailboxId, [...open])).filter((set) => !members.has(set));
	for (const { set, ...message } of await itemsOfSets(db, sets)) addTo(others, set, message);
	branches.push(...[...others.values()].flatMap(branchesOf).filter(({ subject }) => open.has(subject)));

	const groups = new Map<string, Branch[]>();
	const people = await peopleOf(
		db,
		branches.filter(({ subject }) => open.has(subject)).flatMap(({ ids }) => ids)
	);
	const threads: NewThread[] = [];
	for (const branch of branches) {
		const { ids, subject, title } = branch;
		if (!open.has(subject)) {
			threads.push({ ids, subject, title, loose: 0 });
			continue;
		}
		const met = [...new Set(ids.flatMap((id) => people.get(id) ?? []))].filter((address) => !own.has(address));
		addTo(groups, subject, { ...branch, people: met });
	}
	for (const [subject, group] of groups)
		for (const of of conversationsOf(group))
			threads.push({
				ids: of.flatMap(({ ids }) => ids),
				subject,
				title: of[0]?.title ?? '',
				loose: of.filter(({ isLoose }) => isLoose).length
			});
	return threads;
}

async function threadSome(db: Db, mailboxId: number, own: ReadonlySet<string>): Promise<number> {
	const items = await itemsNotThreaded(db, mailboxId, AT_ONCE);
	if (items.length === 0) return 0;
	const { fresh: members, freshSets, grown } = await intoSets(db, mailboxId, items);
	for (const { set, ...message } of await itemsOfSets(db, grown)) addTo(members, set, message);
	await putThreads(db, mailboxId, await conversationsAmong(db, mailboxId, own, members), freshSets);
	const answers = [...members.values()].flatMap(answersIn);
	const days = await receivedOn(
		db,
		answers.map(({ answer }) => answer)
	);
	// of several answers the last counts
	const lastAnswers = new Map<number, string>();
	for (const { answered, answer } of answers) {
		const on = days.get(answer);
		if (on !== undefined && on > (lastAnswers.get(answered) ?? '')) lastAnswers.set(answered, on);
	}
	await putAnswered(
		db,
		[...lastAnswers].map(([id, on]) => ({ id, on }))
	);
	return items.length;
}

/** Threads the new items of a mailbox: only the sets connected with them are threaded again. */
export async function threadNewMail(context: Context, input: { mailboxId: number }): Promise<number> {
	const own = new Set((await getMailbox(context.db, input.mailboxId))?.addresses);
	let done = 0;
	while (!context.signal.aborted) {
		const some = await inTransaction(context.db, (db) => threadSome(db, input.mailboxId, own));
		if (some === 0) break;
		done += some;
		context.report({ done, total: undefined, note: `${showCount(done)} messages threaded` });
	}
	return done;
}

/** Whether mail waits to be threaded, as after a new rule. */
async function hasUnthreaded({ db }: Pick<Context, 'db'>): Promise<boolean> {
	return (await mailboxesNotThreaded(db)).length > 0;
}

/** Threads the mail of every mailbox that waits for it. */
export async function threadMail(context: Context): Promise<{ messages: number }> {
	let messages = 0;
	for (const mailboxId of await mailboxesNotThreaded(context.db))
		messages += await threadNewMail(context, { mailboxId });
	return { messages };
}

/** A message of a thread, below its parent. */
export interface ThreadRow {
	item: ThreadItem;
	parent: ThreadItem | undefined;
	depth: number;
}

function rowsOf(roots: readonly ThreadNode[]): ThreadRow[] {
	return roots.flatMap((root) =>
		[...walkThread(root)].map(({ message, parent, depth }) => ({
			item: message as ThreadItem,
			parent: parent as ThreadItem | undefined,
			depth
		}))
	);
}

/** All threads of a mailbox, some hundreds at a time. @throws Refusal */
export async function* eachThread(context: Context, input: { mailbox: string }): AsyncGenerator<ThreadRow[]> {
	const mailbox = await requireMailbox(context, input.mailbox);
	for (let after = 0; ;) {
		const ids = await threadIds(context.db, mailbox.id, after, 500);
		if (ids.length === 0) return;
		const byThread = new Map<number, ThreadItem[]>();
		for (const item of await itemsOfThreads(context.db, ids))
			byThread.set(item.threadId, [...(byThread.get(item.threadId) ?? []), item]);
		for (const items of byThread.values()) yield rowsOf(threadsOf(items));
		after = ids.at(-1) as number;
	}
}

/** The thread of an item, parents before their answers. */
export async function readThread(context: Context, input: { itemId: number }): Promise<ThreadRow[]> {
	await requireReach(context, input.itemId, 'find');
	const id = await threadOf(context.db, input.itemId);
	if (id === undefined) return [];
	const rows = rowsOf(threadsOf(await itemsOfThreads(context.db, [id])));
	const reached = new Set(
		await withinReach(
			context,
			rows.map(({ item }) => item.id),
			'find'
		)
	);
	return rows.filter(({ item }) => reached.has(item.id));
}

/** The use cases of this file. */
export const threadMailUseCases = [
	defineUseCase({ name: 'hasUnthreaded', thread: 'reader', right: 'administrator', run: hasUnthreaded }),
	defineJob(
		{ name: 'threadMail', thread: 'writer', right: 'administrator', run: threadMail },
		{ lane: 'import', about: () => ({ kind: 'threads' }) }
	),
	defineUseCase({
		name: 'readThread',
		input: () => Joi.object({ itemId: id.required() }).required(),
		thread: 'reader',
		right: 'finder',
		run: readThread
	})
] as const;
