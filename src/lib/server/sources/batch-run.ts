import type { ImapFlow } from 'imapflow';
import { withCrlf } from '../../../core/sources/line-ends.ts';
import { sequenceSet } from '../../../core/sources/fetching.ts';
import { flagNames, type Marks, type Operation, type WantedItem } from '../../../core/sources/operations.ts';
import { keywordsNotIn, keywordsOf } from '../../../core/sources/server.ts';
import { showMessages } from '../../../core/weigh/units.ts';
import type { Context } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { readableContent, readContents } from '../mail/index.ts';
import { adopt, folderHere, putFollowedMarks } from './follow-store.ts';
import { isRefusal, saidBy, ServerTrouble } from './imap.ts';
import type { Following } from './look-through.ts';
import {
	type OutboxItem,
	putAppended,
	putMoved,
	putRemovalsBegun,
	putRemoved,
	putTried,
	takeOffOutbox
} from './outbox-store.ts';
import { compareMessages } from './same-messages.ts';
import type { ServerFolders } from './server-folders.ts';
import { forgetNumbers } from './sources-store.ts';

/* An item that was tried that often and is still not confirmed waits for a person. */
const MOST_TRIES = 3;

type Kind = Operation['kind'];
type Of<K extends Kind> = Extract<Operation, { kind: K }>;
interface OfItem {
	itemId: number;
}

/* Operations of one kind that one command can do together. */
function grouped<K extends Kind>(
	operations: readonly Operation[],
	kind: K,
	keyOf: (operation: Of<K>) => unknown
): [Of<K>, ...Of<K>[]][] {
	const groups = new Map<string, [Of<K>, ...Of<K>[]]>();
	for (const operation of operations.filter((one): one is Of<K> => one.kind === kind)) {
		const key = JSON.stringify(keyOf(operation));
		const group = groups.get(key);
		if (group) group.push(operation);
		else groups.set(key, [operation]);
	}
	return [...groups.values()];
}

const uidsOf = (group: readonly { uid: number }[]) => sequenceSet(group.map(({ uid }) => uid));

/* Those of some messages that a folder still has. */
async function stillThere(client: ImapFlow, group: readonly { uid: number }[]): Promise<Set<number>> {
	const found = await client.search({ uid: uidsOf(group) }, { uid: true });
	if (!Array.isArray(found)) throw new Error('The server did not say which messages are still there');
	return new Set(found);
}

const OTHERS = 'somebody else has marked messages in this folder as deleted, and they would be removed with them';

/* Without UIDPLUS (RFC 4315), expunging a folder removes whatever anybody marked there: then nothing is removed. */
async function othersAreMarked(client: ImapFlow, ours: readonly { uid: number }[]): Promise<boolean> {
	if (client.capabilities.has('UIDPLUS')) return false;
	const marked = await client.search({ deleted: true }, { uid: true });
	const own = new Set(ours.map(({ uid }) => uid));
	return !Array.isArray(marked) || marked.some((uid) => !own.has(uid));
}

/** One batch of the outbox: what the server confirms is noted with each answer, so that a broken line takes nothing back. */
export class BatchRun {
	readonly #context: Context;
	readonly #client: ImapFlow;
	readonly #source: Following['source'];
	readonly #folders: ServerFolders;
	readonly #items: ReadonlyMap<number, OutboxItem>;
	readonly #wanted: ReadonlyMap<number, WantedItem>;
	/* Items of which something is not confirmed. */
	readonly #unsure = new Set<number>();
	/* Items by what was said against them. */
	readonly #refused = new Map<string, Set<number>>();
	#hasOthers = false;

	constructor(
		context: Context,
		{ client, source }: Following,
		folders: ServerFolders,
		items: readonly OutboxItem[],
		wanted: readonly WantedItem[]
	) {
		this.#context = context;
		this.#client = client;
		this.#source = source;
		this.#folders = folders;
		this.#items = new Map(items.map((item) => [item.itemId, item]));
		this.#wanted = new Map(wanted.map((item) => [item.itemId, item]));
	}

	#doubt(group: readonly OfItem[]): void {
		for (const { itemId } of group) this.#unsure.add(itemId);
	}

	#refuse(what: string, group: readonly OfItem[], why = saidBy(this.#client) ?? 'it gave no reason'): void {
		// the client answers "false" where the line broke as well: that is no refusal, and is tried again by itself
		if (!this.#client.usable) throw new ServerTrouble(`${this.#source.host} closed the line.`);
		this.#leave(`${this.#source.host} did not ${what}: ${why}`, group);
	}

	#leave(words: string, group: readonly OfItem[]): void {
		this.#refused.set(words, new Set([...(this.#refused.get(words) ?? []), ...group.map(({ itemId }) => itemId)]));
	}

	/*
	 * Opens the folder of some messages, which are compared first with those that are known by their numbers.
	 * @returns undefined where none is left; if the numbers are of other messages now, a look comes first, at all by their bytes
	 */
	async #open<T extends OfItem & { folder: string; uid: number }>(
		group: readonly T[]
	): Promise<{ folderId: number; same: T[] } | undefined> {
		const folderId = group[0] && (await this.#folders.open(group[0].folder));
		if (folderId !== undefined) {
			const uids = group.map(({ uid }) => uid);
			const { areOthers, inDoubt } = await compareMessages(this.#context.db, this.#client, folderId, uids);
			if (inDoubt.size > 0)
				this.#leave(
					`${this.#source.host} has messages of another date in the place of destroyed ones, and they stay: look at them there`,
					group.filter(({ uid }) => inDoubt.has(uid))
				);
			const same = group.filter(({ uid }) => !inDoubt.has(uid));
			if (!areOthers) return same.length > 0 ? { folderId, same } : undefined;
			this.#hasOthers = true;
			await inTransaction(this.#context.db, (db) => forgetNumbers(db, this.#source.id));
		}
		this.#doubt(group);
		return undefined;
	}

	/** Sets and takes off flags and keywords. */
	async marks(operations: readonly Operation[]): Promise<void> {
		for (const group of grouped(operations, 'marks', ({ folder, add, remove }) => [folder, add, remove])) {
			const [{ folder, add, remove }] = group;
			const opened = await this.#open(group);
			if (!opened) continue;
			const { folderId, same } = opened;
			const uids = uidsOf(same);
			const how = { uid: true, silent: true };
			const isDone =
				(add.length === 0 || (await this.#client.messageFlagsAdd(uids, add, how))) &&
				(remove.length === 0 || (await this.#client.messageFlagsRemove(uids, remove, how)));
			if (!isDone) {
				this.#refuse(`mark messages in ${folder}`, same);
				continue;
			}
			await this.#noteMarks(
				folderId,
				same.map(({ uid, after }) => ({ uid, ...after }))
			);
		}
	}

	/*
	 * Notes the marks of messages in the open folder. A keyword that the server did not keep is not noted: its tag would
	 * seem to be taken off there at the next look.
	 */
	async #noteMarks(folderId: number, marked: readonly (Marks & { uid: number })[]): Promise<void> {
		const kept = new Map<number, string[]>();
		const fields = { uid: true, flags: true };
		for await (const { uid, flags = new Set<string>() } of this.#client.fetch(uidsOf(marked), fields, { uid: true }))
			kept.set(uid, keywordsOf(flags));
		const noted = marked.map(({ uid, flags, keywords }) => {
			const lost = keywordsNotIn(keywords, kept.get(uid) ?? []);
			return { uid, flags, keywords: keywords.filter((word) => !lost.includes(word)) };
		});
		await inTransaction(this.#context.db, (db) => putFollowedMarks(db, folderId, noted));
	}

	/** Moves messages to other folders. */
	async moves(operations: readonly Operation[]): Promise<void> {
		for (const group of grouped(operations, 'move', ({ folder, to }) => [folder, to])) {
			const [{ folder, to }] = group;
			const toId = await this.#folderFor(to, group);
			const opened = toId === undefined ? undefined : await this.#open(group);
			if (toId === undefined || !opened) continue;
			const { folderId: fromId, same } = opened;
			const what = `move messages from ${folder} to ${to}`;
			if (!this.#client.capabilities.has('MOVE')) {
				if (await othersAreMarked(this.#client, same)) {
					this.#refuse(what, same, OTHERS);
					continue;
				}
				await this.#beginRemoval(fromId, same);
			}
			const moved = await this.#client.messageMove(uidsOf(same), to, { uid: true });
			const left = await stillThere(this.#client, same);
			if (!moved) {
				// some may have been copied: the next look finds them
				this.#refuse(what, same);
				continue;
			}
			const numbers = new Map<number, number>();
			for (const [uid, now] of moved.uidMap ?? []) if (!left.has(uid)) numbers.set(uid, now);
			const known = same.filter(({ uid }) => numbers.has(uid));
			// without COPYUID, and where somebody else took it away meanwhile, the next look says where it is
			this.#doubt(same.filter(({ uid }) => !numbers.has(uid)));
			await inTransaction(this.#context.db, async (db) => {
				await putMoved(db, { from: fromId, to: toId, numbers });
				const ids = known.map(({ itemId }) => itemId);
				await adopt(db, ids, await folderHere(db, toId));
			});
		}
	}

	/* Noted before messages are marked as deleted: after a broken line, the mark is known to be Kovrel's own. */
	async #beginRemoval(folderId: number, group: readonly { uid: number }[]): Promise<void> {
		const uids = group.map(({ uid }) => uid);
		await inTransaction(this.#context.db, (db) => putRemovalsBegun(db, folderId, uids));
	}

	/** Puts messages into folders, with the bytes, the date and the marks that they had. */
	async appends(operations: readonly Operation[]): Promise<void> {
		for (const group of grouped(operations, 'append', ({ to }) => to)) {
			const [{ to }] = group;
			const folderId = await this.#folderFor(to, group);
			if (folderId === undefined) continue;
			const marked: (Marks & { uid: number })[] = [];
			for (const { itemId } of group) {
				if (this.#context.signal.aborted) this.#doubt([{ itemId }]);
				const uid = this.#context.signal.aborted ? undefined : await this.#append(itemId, to, folderId);
				const { flags = 0, keywords = [] } = this.#wanted.get(itemId) ?? {};
				if (uid !== undefined && keywords.length > 0) marked.push({ uid, flags, keywords });
			}
			if (marked.length > 0 && (await this.#folders.open(to)) === folderId) await this.#noteMarks(folderId, marked);
		}
	}

	/* @returns the number that the message got; undefined: the server did not say, or did not take it */
	async #append(itemId: number, to: string, folderId: number): Promise<number | undefined> {
		const item = this.#items.get(itemId);
		const { flags = 0, keywords = [] } = this.#wanted.get(itemId) ?? {};
		const kept = item && (await this.#bytesOf(item));
		if (!kept) return undefined;
		// servers refuse lines that end with LF alone, as in a mail file
		const filed = withCrlf(kept);
		const bytes = filed ? Buffer.from(filed) : kept;
		const at = item.date === null ? undefined : new Date(item.date * 1_000);
		try {
			const answered = await this.#client.append(to, bytes, [...flagNames(flags), ...keywords], at);
			if (!answered || answered.uid === undefined) {
				this.#doubt([item]);
				return undefined;
			}
			const { uid } = answered;
			await inTransaction(this.#context.db, async (db) => {
				await putAppended(db, folderId, [{ uid, itemId, flags, keywords, date: item.date }]);
				await adopt(db, [itemId], await folderHere(db, folderId));
			});
			return uid;
		} catch (error) {
			// a broken line is no refusal: whether it went through is seen at the next look
			if (!isRefusal(error)) throw error;
			this.#refuse(`take messages into ${to}`, [item]);
			return undefined;
		}
	}

	/** Removes messages, those that stay here only after their bytes were checked. */
	async removals(operations: readonly Operation[]): Promise<void> {
		for (const group of grouped(operations, 'remove', ({ folder }) => folder)) {
			const removable = await this.#removableAmong(group);
			const checked = group.filter(({ itemId }) => removable.has(itemId));
			const opened = checked.length === 0 ? undefined : await this.#open(checked);
			if (!opened) continue;
			const { folderId, same } = opened;
			const what = `remove messages from ${group[0].folder}`;
			if (await othersAreMarked(this.#client, same)) {
				this.#refuse(what, same, OTHERS);
				continue;
			}
			await this.#beginRemoval(folderId, same);
			const isDone = await this.#client.messageDelete(uidsOf(same), { uid: true });
			const left = await stillThere(this.#client, same);
			const staying = same.filter(({ uid }) => left.has(uid));
			if (staying.length > 0) this.#refuse(what, staying, isDone ? 'they are still there' : undefined);
			const gone = same.map(({ uid }) => uid).filter((uid) => !left.has(uid));
			await inTransaction(this.#context.db, (db) => putRemoved(db, this.#source.id, folderId, gone));
		}
	}

	#leaveDamaged(group: readonly OfItem[]): void {
		this.#leave(`The bytes here are damaged, so the copy on ${this.#source.host} stays`, group);
	}

	/* The bytes of an item, checked; where they are damaged, the server keeps its copy. */
	async #bytesOf(item: OutboxItem): Promise<Buffer | undefined> {
		const bytes = await readableContent(this.#context.db, item.contentId);
		if (!bytes) this.#leaveDamaged([item]);
		return bytes;
	}

	/* Items whose bytes here were checked, or that were destroyed here: those have none. */
	async #removableAmong(group: readonly OfItem[]): Promise<Set<number>> {
		const items = group.flatMap(({ itemId }) => this.#items.get(itemId) ?? []);
		const staying = items.filter(({ state }) => state !== null);
		const good = new Set<number>();
		const contentIds = new Set(staying.map(({ contentId }) => contentId));
		for await (const contents of readContents(this.#context.db, [...contentIds]))
			for (const { id, bytes } of contents) if (bytes) good.add(id);
		const damaged = staying.filter(({ contentId }) => !good.has(contentId));
		if (damaged.length > 0) this.#leaveDamaged(damaged);
		return new Set(
			items.filter(({ state, contentId }) => state === null || good.has(contentId)).map(({ itemId }) => itemId)
		);
	}

	async #folderFor(path: string, group: readonly OfItem[]): Promise<number | undefined> {
		try {
			const id = await this.#folders.require(path);
			if (id === undefined) this.#leave(`${path} is left out on ${this.#source.host}, so nothing is put there`, group);
			return id;
		} catch (error) {
			if (!isRefusal(error)) throw error;
			this.#refuse(`make the folder ${path}`, group);
			return undefined;
		}
	}

	/** Notes what is done, and what has to be looked at or waits for a person. */
	async end(): Promise<{ confirmed: number; unsure: number; errors: string[] }> {
		const refused = new Set([...this.#refused.values()].flatMap((ids) => [...ids]));
		const done: OutboxItem[] = [];
		const tried: OutboxItem[] = [];
		const givenUp: OutboxItem[] = [];
		for (const item of this.#items.values()) {
			if (refused.has(item.itemId)) continue;
			if (!this.#unsure.has(item.itemId)) done.push(item);
			else (item.tries + 1 < MOST_TRIES ? tried : givenUp).push(item);
		}
		await inTransaction(this.#context.db, async (db) => {
			await takeOffOutbox(db, done);
			await putTried(db, tried, null);
			await putTried(db, givenUp, `${this.#source.host} did not confirm it`);
			for (const [words, ids] of this.#refused)
				await putTried(
					db,
					[...ids].flatMap((itemId) => this.#items.get(itemId) ?? []),
					words
				);
		});
		const errors = [...this.#refused].map(([words, ids]) => `${words} (${showMessages(ids.size)}).`);
		if (this.#hasOthers)
			errors.push(
				`${this.#source.host} has other messages under the numbers that it gave before, as after being restored or replaced. All mail there is compared by its bytes; nothing was done there by the old numbers.`
			);
		return { confirmed: done.length, unsure: tried.length, errors };
	}
}
