import type { FetchMessageObject, ImapFlow, ListResponse } from 'imapflow';
import Joi from 'joi';
import { administratorNamed } from '../../../core/access/roles.ts';
import {
	flagBits,
	flagsOf,
	isManyGone,
	isMarkedDeleted,
	keywordsOf,
	pathHere,
	roleOfUse
} from '../../../core/sources/server.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { actingAs, type Context, defineJob, defineUseCase, text } from '../context/index.ts';
import { inTransaction, withSmallCache } from '../database/index.ts';
import { carryOutAtOnce, type Decided, prepareDocket } from '../docket/index.ts';
import {
	addImport,
	asFarAsItGoes,
	endImport,
	followNewMail,
	getImportCounts,
	inBatches,
	oneAhead,
	parsePieces,
	type Piece,
	placeNewMail,
	storeBatch,
	type StoredPiece,
	type Target
} from '../intake/index.ts';
import { ensureFolder, findRole, type Mailbox, requireMailbox, requireMailboxId, setQuota } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { accountOf } from './connect.ts';
import {
	addFollowedFolder,
	adopt,
	clearGone,
	type FollowedFolder,
	type FollowedMessage,
	followedFolders,
	followedIn,
	goneForGood,
	type MarkChange,
	movable,
	putFollowed,
	putFollowedMarks,
	putFollowedFolder,
	putGone,
	putMarks,
	putRole,
	removeFollowedFolders
} from './follow-store.ts';
import { ServerTrouble, withServer } from './imap.ts';
import { followedWeights, listStoredSources, putPass, type Source, sourceOf } from './sources-store.ts';

/** What a pass over a live mailbox found. */
export interface PassDone {
	mailbox: string;
	/** Folders on the server that are followed. */
	folders: number;
	new: number;
	/** Messages whose marks or folder were changed by others. */
	changed: number;
	/** Messages that are on the server no more; they went to the bin here. */
	gone: number;
	/** Operations that the server has still to confirm: none, as Kovrel only reads. */
	waiting: number;
	quota: { used: number; limit: number } | undefined;
	errors: string[];
}

const STATUS = { messages: true, uidNext: true, uidValidity: true, highestModseq: true } as const;
const BATCH = { messages: 250, bytes: 8_000_000 };
/* Messages of one FETCH: a stop or a broken line loses no more than what is on its way. */
const AT_ONCE = 100;

/** A folder of the server in this pass. */
interface Folder {
	path: string;
	here: string;
	followed: FollowedFolder;
	now: Omit<FollowedFolder, 'id' | 'path' | 'folderId'>;
	/** Numbers that are not known yet, the newest first. */
	fresh: number[];
}

const isBelow = (path: string, above: string, delimiter: string) =>
	path === above || path.startsWith(`${above}${delimiter}`);

/* Folders that hold messages and are not left out. */
const followable = (listed: readonly ListResponse[], { leftOut }: Source) =>
	listed.filter(
		({ path, delimiter, flags }) =>
			!flags.has('\\Noselect') &&
			!flags.has('\\NonExistent') &&
			!leftOut.some((above) => isBelow(path, above, delimiter))
	);

function statusOf({ status }: ListResponse): Folder['now'] | undefined {
	if (!status || status.uidValidity === undefined) return undefined;
	return {
		uidValidity: String(status.uidValidity),
		uidNext: status.uidNext ?? 0,
		messages: status.messages ?? 0,
		modseq: status.highestModseq === undefined ? null : String(status.highestModseq)
	};
}

const isAsBefore = (before: FollowedFolder, now: Folder['now']) =>
	before.uidValidity === now.uidValidity &&
	before.uidNext === now.uidNext &&
	before.messages === now.messages &&
	// without change numbers the marks have to be compared
	now.modseq !== null &&
	before.modseq === now.modseq;

/* The folders as they are on the server, each with its place here; those that it has no more give up their messages. */
async function lookAtFolders(context: Context, source: Source, listed: readonly ListResponse[]): Promise<Folder[]> {
	return inTransaction(context.db, async (db) => {
		const known = new Map((await followedFolders(db, source.id)).map((folder) => [folder.path, folder]));
		const folders: Folder[] = [];
		for (const entry of followable(listed, source)) {
			const now = statusOf(entry);
			if (!now) continue;
			const here = pathHere(entry.path, entry.delimiter);
			if (here === '') continue;
			const { id: folderId } = await ensureFolder(db, source.mailboxId, 'mailbox', here);
			const role = roleOfUse(entry.specialUse);
			if (role) await putRole(db, { mailboxId: source.mailboxId, folderId, role });
			let followed = known.get(entry.path);
			known.delete(entry.path);
			if (!followed) {
				const id = await addFollowedFolder(db, { sourceId: source.id, path: entry.path, folderId });
				followed = { id, path: entry.path, folderId, uidValidity: '', uidNext: 0, messages: 0, modseq: null };
			}
			folders.push({ path: entry.path, here, followed, now, fresh: [] });
		}
		for (const { id } of known.values())
			await putGone(db, {
				sourceId: source.id,
				folderId: id,
				uids: [...(await followedIn(db, id)).keys()]
			});
		await removeFollowedFolders(
			db,
			[...known.values()].map(({ id }) => id)
		);
		return folders;
	});
}

/* Marks that others changed on the server: flags are taken over, keywords become tags. */
async function takeMarks(
	context: Context,
	mailbox: Mailbox,
	{ followed, here }: Folder,
	said: readonly FetchMessageObject[],
	known: ReadonlyMap<number, FollowedMessage>
): Promise<{ changed: number; errors: string[] }> {
	const marks: MarkChange[] = [];
	const keywordChanges = new KeywordChanges();
	const updated: FollowedMessage[] = [];
	for (const { uid, flags = new Set<string>() } of said) {
		const before = known.get(uid);
		if (!before || before.itemId === 0) continue;
		const now = flagBits(flags);
		const keywords = keywordsOf(flags);
		const isSame = now === before.flags && keywords.join(' ') === before.keywords.join(' ');
		if (isSame) continue;
		updated.push({ ...before, flags: now, keywords });
		if (now !== before.flags) marks.push({ itemId: before.itemId, changed: now ^ before.flags, now });
		for (const tag of keywords) if (!before.keywords.includes(tag)) keywordChanges.add('tag', tag, before.itemId);
		for (const tag of before.keywords) if (!keywords.includes(tag)) keywordChanges.add('untag', tag, before.itemId);
	}
	if (updated.length === 0) return { changed: 0, errors: [] };
	const errors: string[] = [];
	await inTransaction(context.db, async (db) => {
		await putMarks(db, marks);
		await putFollowedMarks(db, followed.id, updated);
		errors.push(...(await keywordChanges.carryOut({ ...context, db }, mailbox)));
	});
	return { changed: updated.length, errors: errors.map((error) => `${here}: ${error}`) };
}

/* Keywords that were set or taken off, each with its items. */
class KeywordChanges {
	readonly #lines = new Map<string, { decision: 'tag' | 'untag'; tag: string; ids: number[] }>();

	add(decision: 'tag' | 'untag', tag: string, itemId: number): void {
		const key = `${decision} ${tag}`;
		const line = this.#lines.get(key) ?? { decision, tag, ids: [] };
		line.ids.push(itemId);
		this.#lines.set(key, line);
	}

	/* @returns what is wrong with keywords that can be no tags here: they stay on the server alone */
	async carryOut(context: Context, mailbox: Mailbox): Promise<string[]> {
		const errors: string[] = [];
		for (const { decision, tag, ids } of this.#lines.values())
			try {
				const scope = { kind: 'items' as const, ids, label: 'as it is on the server' };
				await carryOutAtOnce(context, mailbox, [{ decision, options: { tag }, scope }]);
			} catch (error) {
				if (!(error instanceof Refusal)) throw error;
				errors.push(error.message);
			}
		return errors;
	}
}

/* Which messages of a folder are new, and which it has no more. */
async function lookThrough(
	context: Context,
	{ client, source, mailbox }: Following,
	folder: Folder
): Promise<{ changed: number; errors: string[] }> {
	const { followed, now } = folder;
	await client.mailboxOpen(folder.path, { readOnly: true });
	// other numbers than before: whatever is the same is recognised by its bytes
	const isNumberedAnew = followed.uidValidity !== '' && followed.uidValidity !== now.uidValidity;
	const former = await followedIn(context.db, followed.id);
	const found = now.messages === 0 ? [] : await client.search({ all: true }, { uid: true });
	if (!Array.isArray(found)) throw new ServerTrouble(`${source.host} did not list the messages of ${folder.path}.`);
	const there = new Set(found);
	const known = isNumberedAnew ? new Map<number, FollowedMessage>() : former;
	const gone = [...former.keys()].filter((uid) => isNumberedAnew || !there.has(uid));
	folder.fresh = found.filter((uid) => !known.has(uid)).sort((a, b) => b - a);
	if (gone.length > 0)
		await inTransaction(context.db, (db) => putGone(db, { sourceId: source.id, folderId: followed.id, uids: gone }));
	if (known.size === gone.length || now.messages === 0) return { changed: 0, errors: [] };
	const since = now.modseq !== null && followed.modseq !== null ? BigInt(followed.modseq) : undefined;
	if (since !== undefined && followed.modseq === now.modseq) return { changed: 0, errors: [] };
	const said: FetchMessageObject[] = [];
	const asked = client.fetch(
		'1:*',
		{ uid: true, flags: true },
		{ uid: true, ...(since ? { changedSince: since } : {}) }
	);
	for await (const message of asked) said.push(message);
	return takeMarks(context, mailbox, folder, said, known);
}

interface Following {
	client: ImapFlow;
	source: Source;
	mailbox: Mailbox;
}

interface OnServer {
	folder: Folder;
	uid: number;
	flags: number;
	keywords: string[];
}

/* Fetches what is new, folder by folder, and hands it on as pieces; what each is on the server is noted beside. */
async function* fetchFresh(
	context: Context,
	client: ImapFlow,
	folders: readonly Folder[],
	noted: Map<string, OnServer>
): AsyncGenerator<Piece[]> {
	for (const folder of folders) {
		if (folder.fresh.length === 0) continue;
		await client.mailboxOpen(folder.path, { readOnly: true });
		for (let at = 0; at < folder.fresh.length; at += AT_ONCE) {
			if (context.signal.aborted) return;
			const uids = folder.fresh.slice(at, at + AT_ONCE).join(',');
			const fields = { uid: true, flags: true, internalDate: true, source: true };
			for await (const { uid, flags = new Set<string>(), internalDate, source } of client.fetch(uids, fields, {
				uid: true
			})) {
				if (!source) continue;
				const bits = flagBits(flags);
				const place = `${folder.path}, message ${uid}`;
				noted.set(place, { folder, uid, flags: bits, keywords: keywordsOf(flags) });
				const at = internalDate === undefined ? NaN : new Date(internalDate).getTime();
				yield [
					{
						bytes: new Uint8Array(source),
						place,
						folderPath: folder.here,
						envelopeDate: Number.isNaN(at) ? undefined : Math.floor(at / 1000),
						flags: flagsOf(bits),
						trashed: isMarkedDeleted(bits),
						unreadable: source.length === 0 ? 'is empty on the server' : undefined,
						next: { file: 0, offset: 0 },
						behind: 0
					}
				];
			}
		}
	}
}

/* As of files: a message is read in memory. What is larger stays on the server alone, and is named at each pass. */
const LARGEST_MESSAGE = 512 * 1024 * 1024;

async function leaveTooLarge(client: ImapFlow, folders: readonly Folder[]): Promise<string[]> {
	const errors: string[] = [];
	for (const folder of folders) {
		if (folder.fresh.length === 0) continue;
		await client.mailboxOpen(folder.path, { readOnly: true });
		const large = await client.search({ larger: LARGEST_MESSAGE }, { uid: true });
		if (!Array.isArray(large) || large.length === 0) continue;
		folder.fresh = folder.fresh.filter((uid) => !large.includes(uid));
		errors.push(`${folder.path}: ${showMessages(large.length)} larger than 512 MB, not fetched.`);
	}
	return errors;
}

/* An item whose message turns up in another folder has moved there: it takes its tags and everything else along. */
async function adoptMoved(
	context: Context,
	{ source, mailbox }: Pick<Following, 'source' | 'mailbox'>,
	pieces: readonly StoredPiece[]
): Promise<number> {
	const messageIds = pieces.flatMap(({ messageId }) => messageId ?? []);
	const waiting = await movable(context.db, source.id, messageIds);
	if (waiting.length === 0) return 0;
	const bin = await findRole(context.db, mailbox.id, 'trash');
	let moved = 0;
	for (const { piece, messageId, folderId } of pieces) {
		const at = waiting.findIndex((item) => item.messageId === messageId);
		const item = waiting[at];
		if (!item || folderId === undefined || !(await adopt(context.db, item.id, folderId))) continue;
		waiting.splice(at, 1);
		moved++;
		// what is archived here stays archived, wherever it lies there
		if (item.state === 'archived') continue;
		const toBin = folderId === bin?.id;
		const decision = toBin ? 'delete' : item.state === 'binned' ? 'restore' : 'move';
		await carryOutAtOnce(context, mailbox, [
			{
				decision,
				options: toBin ? {} : { folder: piece.folderPath },
				scope: { kind: 'items', ids: [item.id], label: `moved on ${source.host}` }
			}
		]);
	}
	return moved;
}

/* What is new comes in as every other mail does: parsed in threads, stored in batches, counted and entered. */
async function bringIn(
	context: Context,
	following: Following,
	folders: readonly Folder[]
): Promise<{ added: number; moved: number; errors: string[] }> {
	const { client, source, mailbox } = following;
	const total = folders.reduce((sum, { fresh }) => sum + fresh.length, 0);
	if (total === 0) return { added: 0, moved: 0, errors: [] };
	const name = `${source.user} on ${source.host}`;
	const target: Target = {
		importId: await inTransaction(context.db, (db) =>
			addImport(
				db,
				{ mailboxId: mailbox.id, path: name, folder: '', fingerprint: context.now().toISOString() },
				name,
				context.now()
			)
		),
		mailboxId: mailbox.id,
		mailbox: mailbox.name,
		folder: undefined,
		source: name
	};
	const noted = new Map<string, OnServer>();
	const errors: string[] = [];
	let done = 0;
	let moved = 0;
	const around = {
		before: async (within: Context, pieces: readonly StoredPiece[]) => {
			moved += await adoptMoved(within, following, pieces);
		},
		after: async (within: Context, pieces: readonly StoredPiece[]) => {
			const followed = pieces.flatMap(({ piece, messageId, folderId }) => {
				const on = noted.get(piece.place);
				noted.delete(piece.place);
				if (!on) return [];
				const { folder, ...message } = on;
				return [
					{ ...message, followed: folder.followed.id, messageId, folderId: folderId ?? folder.followed.folderId }
				];
			});
			const items = await putFollowed(within.db, followed);
			const set = new KeywordChanges();
			for (const [at, { keywords }] of followed.entries())
				for (const tag of keywords) if (items[at]) set.add('tag', tag, items[at]);
			errors.push(...(await set.carryOut(within, mailbox)));
		}
	};
	let state: 'done' | 'stopped' = 'stopped';
	let broken: { error: unknown } | undefined;
	try {
		await withSmallCache(context.db, async () => {
			// what came before the line broke is stored first
			const source = asFarAsItGoes(fetchFresh(context, client, folders, noted), (error) => (broken = { error }));
			const pieces = parsePieces(source, context.signal);
			for await (const batch of oneAhead(inBatches(pieces, BATCH))) {
				await storeBatch(context, target, batch, around);
				done += batch.pieces.length;
				context.report({ done, total, note: `${showCount(done)} of ${showCount(total)} messages fetched` });
			}
		});
		if (broken) throw broken.error;
		if (!context.signal.aborted) state = 'done';
	} finally {
		await inTransaction(context.db, (db) => endImport(db, target.importId, state, context.now()));
		await placeNewMail(context, mailbox.id);
		await followNewMail(context, mailbox.id);
	}
	const { added } = await getImportCounts(context.db, target.importId);
	return { added, moved, errors };
}

/*
 * What a whole pass found nowhere was removed by somebody there: it goes to the bin here, with its days. Where that is a
 * large share of the mailbox, the docket is only drafted, and waits for a person.
 */
async function settleGone(
	context: Context,
	{ source, mailbox }: Pick<Following, 'source' | 'mailbox'>
): Promise<{ gone: number; errors: string[] }> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const ids = await goneForGood(db, source.id);
		await clearGone(db, source.id);
		if (ids.length === 0) return { gone: 0, errors: [] };
		const label = `removed on ${source.host}`;
		const line: Decided = { decision: 'delete', options: {}, scope: { kind: 'items', ids, label } };
		const followed = ids.length + ((await followedWeights(db)).get(source.id)?.messages ?? 0);
		if (isManyGone({ gone: ids.length, followed })) {
			const { id } = await prepareDocket(within, {
				mailboxId: mailbox.id,
				name: `Removed on ${source.host}`,
				byItself: true,
				lines: [line]
			});
			return {
				gone: 0,
				errors: [
					`${showMessages(ids.length)} of ${showCount(followed)} are on ${source.host} no more. They stay here: docket ${id} waits for you to look at it.`
				]
			};
		}
		const { messages } = await carryOutAtOnce(within, mailbox, [line]);
		return { gone: messages, errors: [] };
	});
}

async function quotaOf(client: ImapFlow): Promise<PassDone['quota']> {
	if (!client.capabilities.has('QUOTA')) return undefined;
	const quota = await client.getQuota('INBOX').catch(() => false as const);
	const storage = quota === false ? undefined : quota.storage;
	if (storage?.limit === undefined) return undefined;
	return { used: storage.usage ?? 0, limit: storage.limit };
}

/* One pass over a live mailbox: folders, numbers, marks, then the bytes of what is new. */
async function passOver(context: Context, source: Source): Promise<PassDone> {
	const mailbox = await requireMailboxId(context, source.mailboxId);
	const account = await accountOf(context, source);
	const name = `Following ${source.host}`;
	const within = actingAs(context, administratorNamed(name));
	const done: PassDone = {
		...{ mailbox: mailbox.name, folders: 0, new: 0, changed: 0, gone: 0, waiting: 0, quota: undefined },
		errors: []
	};
	await withServer(account, context.signal, async (client) => {
		const following = { client, source, mailbox };
		const folders = await lookAtFolders(within, source, await client.list({ statusQuery: STATUS }));
		done.folders = folders.length;
		const touched = folders.filter(({ followed, now }) => !isAsBefore(followed, now));
		for (const folder of touched) {
			if (context.signal.aborted) return;
			const { changed, errors } = await lookThrough(within, following, folder);
			done.changed += changed;
			done.errors.push(...errors);
		}
		const tooLarge = await leaveTooLarge(client, touched);
		done.errors.push(...tooLarge);
		const { added, moved, errors } = await bringIn(within, following, touched);
		done.new = added;
		done.changed += moved;
		done.errors.push(...errors);
		if (context.signal.aborted) return;
		await inTransaction(within.db, async (db) => {
			for (const { followed, now } of touched) await putFollowedFolder(db, { id: followed.id, ...now });
		});
		const settled = await settleGone(within, following);
		done.gone = settled.gone;
		done.errors.push(...settled.errors);
		done.quota = await quotaOf(client);
	});
	return done;
}

/** Follows one live mailbox; a server that does not answer is said, and its mail stays as it was. */
async function follow(context: Context, source: Source): Promise<PassDone> {
	const note = (error: string | null, quota?: PassDone['quota']) =>
		inTransaction(context.db, (db) => putPass(db, source.id, { at: context.now(), error, quota }));
	try {
		const done = await passOver(context, source);
		if (context.signal.aborted) return done;
		const { quotaBytes } = await requireMailboxId(context, source.mailboxId);
		// of a mailbox without a quota, the first look takes over the server's
		if (source.passedAt === null && done.quota && quotaBytes === undefined)
			await setQuota(context, { mailbox: source.mailboxId, bytes: done.quota.limit });
		await note(null, done.quota);
		return done;
	} catch (error) {
		if (!(error instanceof ServerTrouble) && !(error instanceof Refusal)) throw error;
		// a stop closes the line, which is no trouble of the server
		if (!context.signal.aborted) await note(error.message);
		const { name } = await requireMailboxId(context, source.mailboxId);
		return {
			...{ mailbox: name, folders: 0, new: 0, changed: 0, gone: 0, waiting: 0, quota: undefined },
			errors: [error.message]
		};
	}
}

/**
 * Brings live mailboxes up to date with their servers, on which nothing is written.
 *
 * @throws Refusal where a mailbox is named that is not live
 */
export async function followSources(
	context: Context,
	input: { mailbox?: string | undefined }
): Promise<{ passes: PassDone[] }> {
	const meant: Source[] = [];
	if (input.mailbox === undefined) meant.push(...(await listStoredSources(context.db)));
	else {
		const mailbox = await requireMailbox(context, input.mailbox);
		const source = await sourceOf(context.db, mailbox.id);
		if (!source)
			throw new Refusal(
				'not-possible',
				`${mailbox.name} is no live mailbox: its mail was brought in. Nothing was done.`
			);
		meant.push(source);
	}
	const passes: PassDone[] = [];
	for (const source of meant) {
		if (context.signal.aborted) break;
		passes.push(await follow(context, source));
	}
	return { passes };
}

/** Whether a server has something that is not here yet; one that does not answer has nothing. */
async function serversHaveNews(context: Context): Promise<boolean> {
	for (const source of await listStoredSources(context.db))
		try {
			const known = new Map((await followedFolders(context.db, source.id)).map((folder) => [folder.path, folder]));
			const account = await accountOf(context, source);
			const listed = await withServer(account, context.signal, (client) => client.list({ statusQuery: STATUS }));
			const folders = followable(listed, source);
			if (known.size !== folders.length) return true;
			for (const entry of folders) {
				const [before, now] = [known.get(entry.path), statusOf(entry)];
				if (!before || (now && !isAsBefore(before, now))) return true;
			}
		} catch (error) {
			if (!(error instanceof ServerTrouble) && !(error instanceof Refusal)) throw error;
			// said once, by the pass itself
			if (source.error === null) return true;
		}
	return false;
}

/** The use cases of this file. */
export const followUseCases = [
	defineJob(
		{
			name: 'followSources',
			input: () => Joi.object({ mailbox: text }).required(),
			thread: 'writer',
			right: 'administrator',
			run: followSources
		},
		{ lane: 'import', about: (_context, { mailbox }) => ({ kind: 'live mailboxes', mailbox }) }
	),
	defineUseCase({ name: 'serversHaveNews', thread: 'opener', right: 'administrator', run: serversHaveNews })
] as const;
