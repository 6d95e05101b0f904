import {
	keywordOfTag,
	operationsFor,
	type Place,
	type ServerMessage,
	type WantedItem
} from '../../../core/sources/operations.ts';
import { showCount } from '../../../core/weigh/units.ts';
import type { Context } from '../context/index.ts';
import { tagsOfItems } from '../mail/index.ts';
import { BatchRun } from './batch-run.ts';
import type { Following } from './look-through.ts';
import { messagesOnServer, nextOfOutbox, type OutboxItem } from './outbox-store.ts';
import { takeOffOwnMarks } from './own-marks.ts';
import { requireConnected } from './require-source.ts';
import { ServerFolders } from './server-folders.ts';
import type { Source } from './sources-store.ts';

/*
 * What was decided here is carried to the server. The outbox says which items; what to do is the difference between an
 * item and what the server has of it, so that everything can be repeated after a line broke or a process was killed.
 */

/* So many items are carried over together. */
const BATCH_ITEMS = 500;

/** The result of carrying over. */
export interface CarriedOver {
	confirmed: number;
	/** Sent, but the server did not say enough: a look at its folders has to. */
	unsure: number;
	errors: string[];
}

/**
 * Carries what was decided here to the server, in the order in which it was decided. Whatever leaves the server is read
 * here and its SHA-256 checked before (invariant 11).
 */
export async function carryOver(context: Context, following: Following): Promise<CarriedOver> {
	const { source } = following;
	const folders = new ServerFolders(context, following);
	const carried: CarriedOver = { confirmed: 0, unsure: 0, errors: [] };
	await folders.learn();
	await takeOffOwnMarks(context, following, folders);
	for (let after = 0; !context.signal.aborted;) {
		const items = await nextOfOutbox(context.db, source.id, after, BATCH_ITEMS);
		const last = items.at(-1);
		if (!last) break;
		after = last.id;
		await requireConnected(context, source);
		await folders.learn();
		const { confirmed, unsure, errors } = await carryBatch(context, following, folders, items);
		carried.confirmed += confirmed;
		carried.unsure += unsure;
		carried.errors.push(...errors);
		const { confirmed: done } = carried;
		context.report({ done, total: done, note: `${showCount(done)} messages confirmed by ${source.host}` });
	}
	return carried;
}

/* Where an item belongs on the server. */
function placeOf(
	{ state, places, folderId, folderPath }: OutboxItem,
	folders: ServerFolders,
	{ archiveOn }: Source
): Place {
	if (state === null) return 'nowhere';
	if (places === 0) return 'as it is';
	if (state === 'archived') return archiveOn === 'kovrel' ? 'nowhere' : { at: folders.archivePathOf(folderPath) };
	return { at: folders.pathOf(folderId, folderPath) };
}

async function carryBatch(
	context: Context,
	following: Following,
	folders: ServerFolders,
	items: readonly OutboxItem[]
): ReturnType<BatchRun['end']> {
	const ids = items.map(({ itemId }) => itemId);
	const tags = await tagsOfItems(context.db, ids);
	const there = new Map<number, ServerMessage[]>();
	for (const message of await messagesOnServer(context.db, following.source.id, ids)) {
		const known = there.get(message.itemId) ?? [];
		known.push(message);
		there.set(message.itemId, known);
	}
	const wanted = items.map((item): WantedItem => {
		const { itemId, state, seen, answered, flagged, places } = item;
		return {
			itemId,
			place: placeOf(item, folders, following.source),
			mayAppend: places === 1 && state === 'live',
			flags: state === null ? undefined : (seen ?? 0) | (answered << 1) | (flagged << 2),
			knownFlags: seen === null ? 6 : 7,
			keywords: (tags.get(itemId) ?? []).flatMap(({ name }) => keywordOfTag(name) ?? [])
		};
	});
	const operations = wanted.flatMap((item) => operationsFor(item, there.get(item.itemId) ?? []));
	const run = new BatchRun(context, following, folders, items, wanted);
	// marks first, so that they go along with what is moved
	await run.marks(operations);
	await run.moves(operations);
	await run.appends(operations);
	await run.removals(operations);
	return run.end();
}
