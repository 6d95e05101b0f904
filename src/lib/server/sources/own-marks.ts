import { sequenceSet } from '../../../core/sources/fetching.ts';
import type { Context } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import type { Following } from './look-through.ts';
import { putRemovalsEnded, removalsBegun } from './outbox-store.ts';
import type { ServerFolders } from './server-folders.ts';

/**
 * Takes \Deleted off messages that Kovrel marked and did not expunge, as the line broke or the server refused: they may
 * stay after all, and another program would expunge them. What is still to be removed is marked again in its turn.
 */
export async function takeOffOwnMarks(
	context: Context,
	{ client, source }: Following,
	folders: ServerFolders
): Promise<void> {
	const byFolder = new Map<string, number[]>();
	for (const { folder, uid } of await removalsBegun(context.db, source.id))
		byFolder.set(folder, [...(byFolder.get(folder) ?? []), uid]);
	for (const [folder, uids] of byFolder) {
		const id = await folders.open(folder);
		if (id === undefined) continue;
		const isOff = await client.messageFlagsRemove(sequenceSet(uids), ['\\Deleted'], { uid: true, silent: true });
		if (isOff) await inTransaction(context.db, (db) => putRemovalsEnded(db, id, uids));
	}
}
