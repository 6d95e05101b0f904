import { setTimeout } from 'node:timers/promises';
import type { ImapFlow } from 'imapflow';
import { withLf } from '../../../core/sources/line-ends.ts';
import { Pace, portions, sequenceSet, type ToFetch } from '../../../core/sources/fetching.ts';
import { flagBits, flagsOf, isMarkedDeleted, keywordsOf } from '../../../core/sources/server.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import type { Context } from '../context/index.ts';
import { inTransaction, withSmallCache } from '../database/index.ts';
import { carryOutAtOnce, type Decided } from '../docket/index.ts';
import {
	addImport,
	asFarAsItGoes,
	endImport,
	followNewMail,
	getImportCounts,
	hasOtherImports,
	inBatches,
	oneAhead,
	parsePieces,
	type Piece,
	placeNewMail,
	storeBatch,
	type StoredPiece,
	type Target
} from '../intake/index.ts';
import { binFolders, hasContent } from '../mail/index.ts';
import { aheadIn, dropAhead } from './ahead-store.ts';
import {
	adopt,
	binnedAndMissing,
	goneNow,
	markedEverywhere,
	type MovedItem,
	onlyFromFiles,
	putFollowed
} from './follow-store.ts';
import { KeywordChanges } from './keyword-changes.ts';
import type { Folder, Following } from './look-through.ts';
import { type WantedIn, wantedItems } from './outbox-store.ts';
import { secondsOf } from './read-headers.ts';
import { sha256Of } from './same-messages.ts';
import { requireConnected } from './require-source.ts';
import type { Source } from './sources-store.ts';

/* The second half of a pass: the bytes of what is new. */

const BATCH = { messages: 250, bytes: 8_000_000 };
/* Taken together, and with one FETCH: a stop or a broken line loses no more than what is on its way. */
const AT_ONCE = { messages: 500, bytes: 32_000_000, ofFolder: 100 };
/* A line on which nothing is said for long is closed. */
const LONGEST_SILENCE_MS = 30_000;

/* Waits, with the line kept open; a stop ends it. */
async function pause(client: ImapFlow, ms: number, signal: AbortSignal): Promise<void> {
	for (let left = ms; left > 0 && !signal.aborted; left -= LONGEST_SILENCE_MS) {
		await setTimeout(Math.min(left, LONGEST_SILENCE_MS), undefined, { signal }).catch(() => undefined);
		if (left > LONGEST_SILENCE_MS && !signal.aborted) await client.noop();
	}
}

/* A source as it is named among the imports. */
const nameOf = ({ user, host }: Source) => `${user} on ${host}`;

interface OnServer {
	folder: Folder;
	uid: number;
	flags: number;
	keywords: string[];
	/** Seconds since 1970. */
	internalDate: number | undefined;
}

/* What is new, with what its headers said. */
async function toFetch(context: Context, folders: readonly Folder[]): Promise<ToFetch[]> {
	const all: ToFetch[] = [];
	for (const [at, { followed, fresh }] of folders.entries()) {
		const ahead = await aheadIn(context.db, followed.id);
		for (const uid of fresh) all.push({ folder: at, uid, receivedAt: undefined, bytes: undefined, ...ahead.get(uid) });
	}
	return all;
}

/*
 * The bytes of a message as they are kept: as they travelled, or as in the file from which it was imported before, with LF
 * at the end of its lines.
 */
async function asKept({ db }: Context, travelled: Uint8Array): Promise<Uint8Array> {
	const filed = withLf(travelled);
	if (!filed || filed.length === travelled.length || (await hasContent(db, sha256Of(travelled)))) return travelled;
	return (await hasContent(db, sha256Of(filed))) ? filed : travelled;
}

/* Fetches what is new in the order wished, and hands it on as pieces; what each is on the server is noted beside. */
async function* fetchFresh(
	context: Context,
	{ client, mailbox, source }: Following,
	folders: readonly Folder[],
	noted: Map<string, OnServer>
): AsyncGenerator<Piece[]> {
	const { fetchFirst, bytesASecond } = source;
	const pace = new Pace(bytesASecond);
	const hasFiles = await hasOtherImports(context.db, mailbox.id, nameOf(source));
	const most = bytesASecond === null ? AT_ONCE : { ...AT_ONCE, bytes: Math.min(AT_ONCE.bytes, bytesASecond) };
	let opened: Folder | undefined;
	for (const portion of portions(await toFetch(context, folders), fetchFirst, most)) {
		if (context.signal.aborted) return;
		const folder = folders[portion.folder] as Folder;
		if (folder !== opened) await client.mailboxOpen(folder.path, { readOnly: true });
		opened = folder;
		let fetched = 0;
		const fields = { uid: true, flags: true, internalDate: true, source: true };
		for await (const { uid, flags = new Set<string>(), internalDate, source: bytes } of client.fetch(
			sequenceSet(portion.uids),
			fields,
			{ uid: true }
		)) {
			if (!bytes) continue;
			fetched += bytes.length;
			const bits = flagBits(flags);
			const place = `${folder.path}, message ${uid}`;
			const seconds = secondsOf(internalDate);
			const travelled = new Uint8Array(bytes);
			noted.set(place, { folder, uid, flags: bits, keywords: keywordsOf(flags), internalDate: seconds });
			yield [
				{
					bytes: hasFiles ? await asKept(context, travelled) : travelled,
					place,
					folderPath: folder.here,
					envelopeDate: seconds,
					flags: flagsOf(bits),
					trashed: isMarkedDeleted(bits),
					unreadable: bytes.length === 0 ? 'is empty on the server' : undefined,
					next: { file: 0, offset: 0 },
					behind: 0
				}
			];
		}
		await pause(client, pace.took(fetched, performance.now()), context.signal);
	}
}

/* As of files: a message is read in memory. */
const LARGEST_MESSAGE = 512 * 1024 * 1024;

/** Leaves out what is too large to be read: it stays on the server alone. @returns what that is, by folder */
export async function leaveTooLarge(
	{ db }: Context,
	{ client }: Following,
	folders: readonly Folder[]
): Promise<string[]> {
	const errors: string[] = [];
	for (const folder of folders) {
		if (folder.fresh.length === 0) continue;
		const ahead = await aheadIn(db, folder.followed.id);
		let large = folder.fresh.filter((uid) => (ahead.get(uid)?.bytes ?? 0) > LARGEST_MESSAGE);
		if (ahead.size < folder.fresh.length) {
			await client.mailboxOpen(folder.path, { readOnly: true });
			large = (await client.search({ larger: LARGEST_MESSAGE }, { uid: true })) || [];
		}
		if (large.length === 0) continue;
		folder.fresh = folder.fresh.filter((uid) => !large.includes(uid));
		await inTransaction(db, (trx) => dropAhead(trx, folder.followed.id, large));
		errors.push(`${folder.path}: ${showMessages(large.length)} larger than 512 MB, not fetched.`);
	}
	return errors;
}

/*
 * The items that new messages may be, as they lie in none of the folders any more in which they were. One that is in the bin,
 * and that the server did not have any more, is restored: somebody put it back there, and it would be destroyed here. At the
 * first pass nobody did: there, mail that was imported from files before is recognised.
 */
async function candidates(
	{ db }: Context,
	{ source, mailbox }: Pick<Following, 'source' | 'mailbox'>,
	messageIds: readonly number[]
): Promise<MovedItem[]> {
	const among = { mailboxId: mailbox.id, messageIds };
	const missing = await binnedAndMissing(db, among);
	const isFirst = source.passedAt === null;
	const back = isFirst ? missing.filter(({ wasMissing }) => wasMissing === 1) : missing;
	const known = [...(await goneNow(db, source.id, messageIds)), ...(await markedEverywhere(db, among)), ...back];
	if (!isFirst) return known;
	const ids = new Set(known.map(({ id }) => id));
	return [...known, ...(await onlyFromFiles(db, among)).filter(({ id }) => !ids.has(id))];
}

/*
 * An item whose message turns up in another folder has moved there: it takes its tags and everything else along; so does one
 * whose former message is only marked as deleted, as programs without MOVE (RFC 6851) leave it until they expunge. Found in
 * its own folder, a binned one may have lain there all the time, while that folder was left out.
 */
async function adoptMoved(
	context: Context,
	{ source, mailbox }: Pick<Following, 'source' | 'mailbox'>,
	pieces: readonly StoredPiece[]
): Promise<{ moved: number; errors: string[] }> {
	const messageIds = pieces.flatMap(({ messageId }) => messageId ?? []);
	const waiting = await candidates(context, { source, mailbox }, messageIds);
	if (waiting.length === 0) return { moved: 0, errors: [] };
	const bins = await binFolders(context.db, mailbox.id);
	// a renamed folder may hold a whole mailbox: one docket a batch, with a line for each place
	const lines = new Map<string, Decided>();
	let moved = 0;
	let kept = 0;
	// of two copies, the one that is not marked as deleted is its new place
	const inOrder = [...pieces].sort((a, b) => Number(a.piece.trashed) - Number(b.piece.trashed));
	for (const { piece, messageId, folderId } of inOrder) {
		const toBin = folderId !== undefined && bins.has(folderId);
		// what somebody imported is not deleted here because it was thrown away there: that one comes in beside it
		const mayBe = ({ isMarked, isFromFile }: MovedItem) =>
			isFromFile === 1 ? !toBin && !piece.trashed : isMarked === 0 || !piece.trashed;
		const at = waiting.findIndex((item) => item.messageId === messageId && mayBe(item));
		const item = waiting[at];
		if (!item || folderId === undefined) continue;
		const isBack = item.wasMissing === 1 && item.folderId === folderId;
		if (!isBack && (await adopt(context.db, [item.id], folderId)) === 0) continue;
		waiting.splice(at, 1);
		moved++;
		if (item.stays === 1 || (item.state === 'binned' && (toBin || piece.trashed))) continue;
		const decision = toBin ? 'delete' : item.state === 'live' ? 'move' : 'restore';
		if (item.state === 'archived') kept++;
		const key = `${decision} ${toBin ? '' : piece.folderPath}`;
		const former = lines.get(key)?.scope;
		const ids = former?.kind === 'items' ? [...former.ids, item.id] : [item.id];
		lines.set(key, {
			decision,
			options: toBin ? {} : { folder: piece.folderPath },
			scope: { kind: 'items', ids, label: `moved on ${source.host}` }
		});
	}
	if (lines.size > 0) await carryOutAtOnce(context, mailbox, [...lines.values()]);
	return {
		moved,
		errors:
			kept === 0
				? []
				: [
						`Somebody else moved ${showMessages(kept)} on ${source.host} while ${kept === 1 ? 'it was' : 'they were'} to be archived: restored here, and left there.`
					]
	};
}

/* What Kovrel put or moved somewhere without learning its number there: the item that waits to lie in that folder. */
async function adoptWanted(
	context: Context,
	{ source, paths }: Following,
	pieces: readonly StoredPiece[],
	ours: Map<string, number>
): Promise<void> {
	const archive = paths.here(paths.archive);
	const isIn = ({ state, folderId, path }: WantedIn, piece: StoredPiece) =>
		state !== 'archived'
			? folderId === piece.folderId
			: source.archiveOn === 'server' && piece.piece.folderPath === `${archive}/${path}`;
	const messageIds = pieces.flatMap(({ messageId }) => messageId ?? []);
	const wanted = await wantedItems(context.db, source.id, messageIds);
	for (const stored of pieces) {
		const { piece, messageId, folderId } = stored;
		const at = wanted.findIndex((item) => item.messageId === messageId && isIn(item, stored));
		const [item] = at < 0 ? [] : wanted.splice(at, 1);
		if (!item || folderId === undefined) continue;
		ours.set(piece.place, item.itemId);
		await adopt(context.db, [item.itemId], folderId);
	}
}

/** What is new comes in as every other mail does: parsed in threads, stored in batches, counted and entered. */
export async function bringIn(
	context: Context,
	following: Following,
	folders: readonly Folder[]
): Promise<{ added: number; moved: number; errors: string[] }> {
	const { source, mailbox } = following;
	const total = folders.reduce((sum, { fresh }) => sum + fresh.length, 0);
	if (total === 0) return { added: 0, moved: 0, errors: [] };
	const name = nameOf(source);
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
	/* Which items pieces are that Kovrel itself put where they were found. */
	const ours = new Map<string, number>();
	const around = {
		before: async (within: Context, pieces: readonly StoredPiece[]) => {
			await requireConnected(within, source);
			await adoptWanted(within, following, pieces, ours);
			const others = pieces.filter(({ piece }) => !ours.has(piece.place));
			const taken = await adoptMoved(within, following, others);
			moved += taken.moved;
			errors.push(...taken.errors);
		},
		after: async (within: Context, pieces: readonly StoredPiece[]) => {
			const followed = pieces.flatMap(({ piece, messageId, folderId }) => {
				const on = noted.get(piece.place);
				noted.delete(piece.place);
				if (!on) return [];
				const { folder, ...message } = on;
				return [
					{
						...message,
						followed: folder.followed.id,
						messageId,
						folderId: folderId ?? folder.followed.folderId,
						itemId: ours.get(piece.place)
					}
				];
			});
			const items = await putFollowed(within.db, followed);
			for (const { id } of new Set(folders.map((folder) => folder.followed))) {
				const uids = followed.filter((message) => message.followed === id).map(({ uid }) => uid);
				if (uids.length > 0) await dropAhead(within.db, id, uids);
			}
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
			const source = asFarAsItGoes(fetchFresh(context, following, folders, noted), (error) => (broken = { error }));
			const pieces = parsePieces(source, context.signal);
			for await (const batch of oneAhead(inBatches(pieces, BATCH))) {
				// read ahead of a stop: it is fetched again
				if (context.signal.aborted) break;
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
