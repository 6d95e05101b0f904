import type { FetchMessageObject, ImapFlow, ListResponse } from 'imapflow';
import { isWithin, ServerPaths } from '../../../core/sources/paths.ts';
import {
	flagBits,
	isMarkedDeleted,
	isView,
	keywordsNotIn,
	keywordsOf,
	roleOfUse
} from '../../../core/sources/server.ts';
import type { FolderRole } from '../../../core/weigh/roles.ts';
import { type FolderPlace, shallow } from '../../../core/weigh/tree.ts';
import type { Context } from '../context/index.ts';
import { dropAheadOf } from './ahead-store.ts';
import { type Db, inTransaction } from '../database/index.ts';
import { carryOutAtOnce } from '../docket/index.ts';
import { binFolders, ensureFolder, findRole, type Mailbox } from '../mail/index.ts';
import {
	addFollowedFolder,
	binnedByNobody,
	copiesOfOthers,
	type FollowedFolder,
	type FollowedMessage,
	followedFolders,
	followedIn,
	forgetFollowed,
	type MarkChange,
	putFollowedMarks,
	putGone,
	putMarks,
	putRole,
	removeFollowedFolders
} from './follow-store.ts';
import { ownPrefix, prefixesOfOthers, ServerTrouble } from './imap.ts';
import { KeywordChanges } from './keyword-changes.ts';
import { requireConnected } from './require-source.ts';
import type { Source } from './sources-store.ts';

/* The first half of a pass: the folders of a server, which messages are new or gone, and which marks were changed. */

/** What is asked of each folder as it is listed (LIST-STATUS, RFC 5819). */
export const STATUS = { messages: true, uidNext: true, uidValidity: true, highestModseq: true } as const;

/** A live mailbox in a pass. */
export interface Following {
	client: ImapFlow;
	source: Source;
	mailbox: Mailbox;
	paths: ServerPaths;
}

/** A folder of the server in this pass. */
export interface Folder {
	path: string;
	here: string;
	followed: FollowedFolder;
	now: Pick<FollowedFolder, 'uidValidity' | 'uidNext' | 'messages' | 'modseq'>;
	/** Numbers that are not known yet, the newest first. */
	fresh: number[];
}

/* Whether a folder can hold messages. */
const isSelectable = ({ flags }: ListResponse) => !flags.has('\\Noselect') && !flags.has('\\NonExistent');

/** Whether a folder is left out, itself or one above it. */
export const isLeftOut = (path: string, delimiter: string, { leftOut }: Source): boolean =>
	leftOut.some((above) => isWithin(path, above, delimiter));

/** Folders of a mailbox that only show messages of others once more; one that was connected as a mailbox is none. */
export const viewsAmong = (listed: readonly ListResponse[], root: string): ListResponse[] =>
	listed.filter(({ path, flags }) => isView(flags) && path !== root);

/** Folders of the mailbox that hold messages of their own and are not left out. */
export function followable(
	listed: readonly ListResponse[],
	{ source, paths }: Pick<Following, 'source' | 'paths'>
): ListResponse[] {
	const views = new Set(viewsAmong(listed, source.root));
	return listed.filter(
		(entry) =>
			isSelectable(entry) &&
			!views.has(entry) &&
			paths.holds(entry.path) &&
			!isLeftOut(entry.path, entry.delimiter, source)
	);
}

/** The paths of a mailbox on its server. */
export const pathsOn = (
	client: ImapFlow,
	listed: readonly ListResponse[],
	source: Source,
	known: readonly FollowedFolder[]
): ServerPaths =>
	new ServerPaths(listed, {
		root: source.root,
		prefix: ownPrefix(client),
		ofOthers: prefixesOfOthers(client),
		followed: known
	});

/** How a folder is now; undefined: the server does not say. */
export function statusOf({ status }: ListResponse): Folder['now'] | undefined {
	if (!status || status.uidValidity === undefined) return undefined;
	return {
		uidValidity: String(status.uidValidity),
		uidNext: status.uidNext ?? 0,
		messages: status.messages ?? 0,
		modseq: status.highestModseq === undefined ? null : String(status.highestModseq)
	};
}

/** Whether a folder holds the same mail as at the end of the last pass, marks aside where it numbers no changes. */
export const hasSameMail = (before: FollowedFolder, now: Folder['now']) =>
	before.uidValidity === now.uidValidity &&
	before.uidNext === now.uidNext &&
	before.messages === now.messages &&
	before.modseq === now.modseq;

/** Whether a folder is as it was; without change numbers nobody knows, and the marks have to be compared. */
export const isAsBefore = (before: FollowedFolder, now: Folder['now']) =>
	now.modseq !== null && hasSameMail(before, now);

/* Roles of which a mailbox here has the folder already, from a file or by its own first deletion, under whatever name. */
const ONCE = new Set<FolderRole>(['sent', 'drafts', 'junk', 'trash']);

/* The folder here of one there. Names that differ there may be the same here ("Reports", "REPORTS"): the second is numbered. */
async function placeFor(
	db: Db,
	mailboxId: number,
	path: string,
	isTaken: (folderId: number) => boolean
): Promise<FolderPlace> {
	for (let n = 1; ; n++) {
		const place = await ensureFolder(db, mailboxId, 'mailbox', n === 1 ? path : `${path} (${n})`);
		if (!isTaken(place.id)) return place;
	}
}

/** The folders as they are on the server, each with its place here; those that it has no more give up their messages. */
export async function lookAtFolders(
	context: Context,
	{ source, paths }: Following,
	listed: readonly ListResponse[]
): Promise<Folder[]> {
	return inTransaction(context.db, async (db) => {
		await requireConnected({ ...context, db }, source);
		const known = new Map((await followedFolders(db, source.id)).map((folder) => [folder.path, folder]));
		const isListed = new Set(listed.map(({ path }) => path));
		// one that is renamed there in the case of letters alone stays the same here
		const taken = new Map(
			[...known.values()].filter(({ path }) => isListed.has(path)).map((f) => [f.folderId, f.path])
		);
		const folders: Folder[] = [];
		const meant = followable(listed, { source, paths });
		const depth = ({ path, delimiter }: ListResponse) => (delimiter === '' ? 1 : path.split(delimiter).length);
		// those above first: what is below them lies below them here, under whatever name
		for (const entry of [...meant].sort((a, b) => depth(a) - depth(b))) {
			const now = statusOf(entry);
			if (!now) continue;
			let followed = known.get(entry.path);
			known.delete(entry.path);
			const isTaken = (id: number) => followed?.folderId !== id && taken.has(id) && taken.get(id) !== entry.path;
			const role = roleOfUse(entry.specialUse);
			const once = followed || !role || !ONCE.has(role) ? undefined : await findRole(db, source.mailboxId, role);
			// another folder there may have that very name
			const isOthers = (path: string) => meant.some((other) => other !== entry && paths.here(other.path) === path);
			// one that was renamed here alone keeps its name here; one that was removed here is there again
			const wished = shallow(once && !isTaken(once.id) && !isOthers(once.path) ? once.path : paths.here(entry.path));
			if (wished === '') continue;
			// its path here may be written otherwise already, which is no name to be carried to the server
			const { id: folderId, path: here } = await placeFor(db, source.mailboxId, wished, isTaken);
			taken.set(folderId, entry.path);
			if (role) await putRole(db, { mailboxId: source.mailboxId, folderId, role });
			if (!followed) {
				const place = { path: entry.path, folderId, pathHere: here };
				// its numbering from the start: what comes before a pass is whole is known by it
				const { uidValidity } = now;
				const id = await addFollowedFolder(db, { sourceId: source.id, ...place, uidValidity });
				const unknown = { uidValidity, uidNext: 0, messages: 0, modseq: null };
				followed = { id, ...place, pathNow: here, isRemoved: 0, ...unknown };
			}
			folders.push({ path: entry.path, here, followed, now, fresh: [] });
			paths.add(followed);
		}
		const there = new Map(listed.filter(isSelectable).map((entry) => [entry.path, entry]));
		const ended: number[] = [];
		for (const { id, path } of known.values()) {
			const entry = there.get(path);
			// one that is there, and only gave no status this time, is followed as before
			if (entry && meant.includes(entry)) continue;
			ended.push(id);
			// the mail of one that is left out from now on is not gone
			if (!entry)
				await putGone(db, { sourceId: source.id, folderId: id, uids: [...(await followedIn(db, id)).keys()] });
		}
		await removeFollowedFolders(db, ended);
		return folders;
	});
}

/* Mail that was binned because it was marked as deleted there, and is not any more: somebody wants it after all. */
async function restoreUnmarked(
	context: Context,
	mailbox: Mailbox,
	{ followed, here }: Folder,
	itemIds: readonly number[]
): Promise<void> {
	const ids = await binnedByNobody(context.db, itemIds);
	if (ids.length === 0 || (await binFolders(context.db, mailbox.id)).has(followed.folderId)) return;
	await carryOutAtOnce(context, mailbox, [
		{
			decision: 'restore',
			options: { folder: here },
			scope: { kind: 'items', ids, label: 'no longer marked as deleted on the server' }
		}
	]);
}

/* Marks that others changed on the server: flags are taken over, keywords become tags. */
async function takeMarks(
	context: Context,
	mailbox: Mailbox,
	folder: Folder,
	said: readonly FetchMessageObject[],
	known: ReadonlyMap<number, FollowedMessage>
): Promise<{ changed: number; errors: string[] }> {
	const { followed, here } = folder;
	const unmarked: { uid: number; itemId: number }[] = [];
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
		if (isMarkedDeleted(before.flags) && !isMarkedDeleted(now)) unmarked.push(before);
		if (now !== before.flags) marks.push({ itemId: before.itemId, changed: now ^ before.flags, now });
		for (const tag of keywordsNotIn(keywords, before.keywords)) keywordChanges.add('tag', tag, before.itemId);
		for (const tag of keywordsNotIn(before.keywords, keywords)) keywordChanges.add('untag', tag, before.itemId);
	}
	if (updated.length === 0) return { changed: 0, errors: [] };
	const errors: string[] = [];
	await inTransaction(context.db, async (db) => {
		await putMarks(db, marks);
		await putFollowedMarks(db, followed.id, updated);
		errors.push(...(await keywordChanges.carryOut({ ...context, db }, mailbox)));
		const itemIds = unmarked.map(({ itemId }) => itemId);
		await restoreUnmarked({ ...context, db }, mailbox, folder, itemIds);
		// its item went to the folder of its copy, which has that one now: this one is a message of its own again
		const uids = unmarked.map(({ uid }) => uid);
		const apart = await copiesOfOthers(db, followed.id, uids);
		await forgetFollowed(db, followed.id, apart);
		folder.fresh = [...folder.fresh, ...apart].sort((a, b) => b - a);
	});
	return { changed: updated.length, errors: errors.map((error) => `${here}: ${error}`) };
}

/** Which messages of a folder are new, and which it has no more. */
export async function lookThrough(
	context: Context,
	{ client, source, mailbox }: Following,
	folder: Folder
): Promise<{ changed: number; errors: string[] }> {
	const { followed, now } = folder;
	await client.mailboxOpen(folder.path, { readOnly: true });
	// other numbers than before: whatever is the same is recognised by its bytes
	const isNumberedAnew = followed.uidValidity !== '' && followed.uidValidity !== now.uidValidity;
	if (isNumberedAnew) await inTransaction(context.db, (db) => dropAheadOf(db, [followed.id]));
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
