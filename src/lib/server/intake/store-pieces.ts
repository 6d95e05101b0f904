import { receivedDate, type ReceivedDate } from '../../../core/message/date.ts';
import { ODDITIES } from '../../../core/message/summary.ts';
import { type Context, nowSeconds, requireRoom, today } from '../context/index.ts';
import { type Db, inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	addItems,
	type Correspondent,
	ensureFolder,
	type MessageRows,
	type NewItem,
	putContents,
	putCorrespondents,
	putLists,
	putMessages
} from '../mail/index.ts';
import type { Batch } from './batches.ts';
import { addImportCounts, addOddities, type ImportCounts, type Oddity } from './imports-store.ts';
import type { SourcePosition } from './mail-files.ts';
import type { ParsedPiece, PieceOrigin } from './parse-pieces.ts';

/*
 * The fourth stage of the way in: a batch is stored, each message's bytes once, with its counts and its ledger line.
 */

interface Place {
	/** The target folders of a path in the source. */
	folderId: number;
	/** Whether that is the bin (invariant 1). */
	isBin: boolean;
}

/* The folders of a batch, by their path in the source. */
async function places(db: Db, target: Target, paths: Iterable<string>): Promise<Map<string, Place>> {
	const found = new Map<string, Place>();
	for (const inSource of new Set(paths)) {
		const path = [target.folder, inSource].filter(Boolean).join('/') || 'Inbox';
		const folder = await ensureFolder(db, target.mailboxId, 'mailbox', path);
		const [topName = path] = folder.path.split('/');
		const top = folder.parentId === null ? folder : await ensureFolder(db, target.mailboxId, 'mailbox', topName);
		found.set(inSource, { folderId: folder.id, isBin: top.role === 'trash' });
	}
	return found;
}

type Lies = Pick<NewItem, 'state' | 'folderId' | 'originFolderId' | 'importedFolderId'>;

/* Binned mail is restored to the inbox, or to the folder in which it was marked as deleted. */
async function binned(db: Db, mailboxId: number, { folderId, isBin }: Place): Promise<Lies> {
	const other = (await ensureFolder(db, mailboxId, 'mailbox', isBin ? 'Inbox' : 'Trash')).id;
	const [lies, from] = isBin ? [folderId, other] : [other, folderId];
	return { state: 'binned', folderId: lies, originFolderId: from, importedFolderId: folderId };
}

/** The target of an import. */
export interface Target {
	importId: number;
	mailboxId: number;
	mailbox: string;
	folder: string | undefined;
	source: string;
}

function receivedOf(context: Context, piece: PieceOrigin, read: MessageRows): ReceivedDate {
	return receivedDate(
		{ received: read.receivedAt, envelope: piece.envelopeDate, date: read.sentAt },
		nowSeconds(context)
	);
}

/* The reasons for listing a piece in the report; the first entry of an unreadable one says why it has no item. */
function reasons(context: Context, { piece, parsed: { read, failure } }: ParsedPiece): string[] {
	if (piece.unreadable) return [piece.unreadable];
	if (!read) return [failure ?? 'has no header that mail has'];
	const received = receivedOf(context, piece, read);
	const odd = read.oddities.map((oddity) => ODDITIES[oddity]);
	return received.inDoubt && read.sentAt !== undefined ? [...odd, ODDITIES['date-in-doubt']] : odd;
}

/** A piece of a batch with its message, for who follows its source. */
export interface StoredPiece {
	piece: PieceOrigin;
	/** Undefined: it was kept raw. */
	messageId: number | undefined;
	folderId: number | undefined;
}

/** What a live source does around the storing of a batch, in its transaction. */
export interface Around {
	/** Before items are made: an item that has moved takes its message along. */
	before: (within: Context, pieces: readonly StoredPiece[]) => Promise<void>;
	/** Once each message has its item. */
	after: (within: Context, pieces: readonly StoredPiece[]) => Promise<void>;
}

/** Stores a batch in one transaction. @returns its counts @throws Refusal if room on the disk gets short */
export async function storeBatch(
	context: Context,
	target: Target,
	{ pieces: batch, last }: Batch,
	around?: Around
): Promise<ImportCounts> {
	requireRoom(context);
	return inTransaction(context.db, async (db) => {
		const contentIds = await putContents(
			db,
			batch.map(({ parsed }) => parsed.packed)
		);
		const readable = batch.flatMap(({ piece, parsed: { packed, read } }, at) =>
			read && !piece.unreadable ? [{ piece, read, bytes: packed.rawBytes, contentId: contentIds[at] as number }] : []
		);
		const messageIds = await putMessages(db, readable);
		const people = await putCorrespondents(
			db,
			readable.map(({ read }) => read.from)
		);
		const lists = await putLists(
			db,
			readable.map(({ read }) => read.list)
		);
		const folders = await places(
			db,
			target,
			readable.map(({ piece }) => piece.folderPath)
		);
		const numbers = new Map(readable.map(({ piece }, at) => [piece, messageIds[at]]));
		const stored = batch.map(({ piece }): StoredPiece => ({
			piece,
			messageId: numbers.get(piece),
			folderId: numbers.has(piece) ? folders.get(piece.folderPath)?.folderId : undefined
		}));
		await around?.before({ ...context, db }, stored);
		const items: NewItem[] = [];
		for (const [at, { piece, read, bytes }] of readable.entries()) {
			const received = receivedOf(context, piece, read);
			const person = people.get(read.from.address) as Correspondent;
			const place = folders.get(piece.folderPath) as Place;
			const { folderId } = place;
			const lies: Lies =
				place.isBin || piece.trashed
					? await binned(db, target.mailboxId, place)
					: { state: 'live', folderId, originFolderId: undefined, importedFolderId: folderId };
			const flags = piece.flags ?? read.flags;
			// field by field: copying objects fifty thousand times would be slow
			items.push({
				state: lies.state,
				folderId: lies.folderId,
				originFolderId: lies.originFolderId,
				importedFolderId: lies.importedFolderId,
				mailboxId: target.mailboxId,
				messageId: messageIds[at] as number,
				receivedAt: received.at,
				receivedOn: received.at === undefined ? undefined : context.dateOf(received.at),
				dateInDoubt: received.inDoubt,
				bytes,
				seen: flags.seen,
				answered: flags.answered,
				flagged: flags.flagged,
				draft: flags.draft,
				attachments: read.attachments,
				attachmentKinds: read.attachmentKinds,
				correspondentId: person.id,
				organisationId: person.organisationId,
				listId: lists.get(read.list.listId),
				mailKind: read.mailKind,
				importance: read.importance,
				binnedOn: lies.state === 'binned' ? today(context) : undefined
			});
		}
		const added = await addItems(db, items);
		await around?.after({ ...context, db }, stored);
		const oddities = batch.flatMap((entry, at): Oddity[] =>
			reasons(context, entry).map((reason) => ({
				contentId: contentIds[at] as number,
				place: entry.piece.place,
				reason
			}))
		);
		await addOddities(db, target.importId, oddities);
		const counts: ImportCounts = {
			read: batch.length,
			added,
			already: readable.length - added,
			unreadable: batch.length - readable.length,
			bytes: batch.reduce((sum, { parsed }) => sum + parsed.packed.rawBytes, 0)
		};
		await addImportCounts(db, target.importId, counts, batch.at(-1)?.piece.next as SourcePosition);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'imported',
			details: {
				mailbox: target.mailbox,
				source: target.source,
				import: target.importId,
				...counts,
				...(last ? {} : { continues: true })
			}
		});
		return counts;
	});
}
